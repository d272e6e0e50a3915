#version 450 core
// Cones with their tips at the lamps, BEAM_SIDES triangles; HALO: two, a square that faces the eye. No vertex is stored.
#include "include/structs.glsl"
#include "beams/interface.glsl"
uniform int firstBeam;
out vec3 at;
flat out int beam;

void main() {
    beam = firstBeam + gl_InstanceID;
    BeamData b = beams[beam];
    int side = gl_VertexID / 3, corner = gl_VertexID % 3;
    vec3 p = b.tip.xyz;
#ifndef HALO
    vec3 x = normalize(cross(abs(b.axis.y) < 0.9 ? vec3(0.0, 1.0, 0.0) : vec3(1.0, 0.0, 0.0), b.axis.xyz)), y = cross(b.axis.xyz, x);
    float turn = 6.2831853 * float(side + (corner == 2 ? 1 : 0)) / float(BEAM_SIDES);
    if (corner > 0) p += b.tip.w * (b.axis.xyz + b.axis.w * (cos(turn) * x + sin(turn) * y));
#else
    vec3 toEye = normalize(frame.eye.xyz - b.tip.xyz), x = normalize(cross(abs(toEye.y) < 0.9 ? vec3(0.0, 1.0, 0.0) : vec3(1.0, 0.0, 0.0), toEye));
    vec2 place = vec2(corner == 1 ? 1.0 : -1.0, corner == 2 ? 1.0 : -1.0) * (side == 0 ? 1.0 : -1.0);
    p += b.tip.w * 1.02 * (place.x * x + place.y * cross(toEye, x));
#endif
    at = p;
    gl_Position = frame.viewProjection * vec4(p, 1.0);
}
