// A texel's direction on a face of a cube map, as src/core/ambient/environment.h: cube_direction.
uniform int face;
uniform float faceSize; // texels
vec3 faceDirection() {
    vec2 p = gl_FragCoord.xy / faceSize * 2.0 - 1.0;
    vec3 d = face == 0 ? vec3(1.0, -p.y, -p.x) : face == 1 ? vec3(-1.0, -p.y, p.x) : face == 2 ? vec3(p.x, 1.0, p.y)
           : face == 3 ? vec3(p.x, -1.0, -p.y) : face == 4 ? vec3(p.x, -p.y, 1.0) : vec3(-p.x, -p.y, -1.0);
    return normalize(d);
}
