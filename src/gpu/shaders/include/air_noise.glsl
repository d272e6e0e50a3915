// Smooth noise, 0 to 1: src/core/air/air_volume.h has the same in double.
float hashOfPlace(ivec3 p) {
    uvec3 v = uvec3(p) * 1664525u + 1013904223u;
    v.x += v.y * v.z; v.y += v.z * v.x; v.z += v.x * v.y;
    v ^= v >> 16u;
    v.x += v.y * v.z;
    return float(v.x >> 8u) / 16777216.0;
}
float octaveOfNoise(vec3 p) {
    vec3 low = floor(p), f = p - low, t = f * f * (3.0 - 2.0 * f);
    ivec3 i = ivec3(low);
    vec4 near = vec4(hashOfPlace(i), hashOfPlace(i + ivec3(1, 0, 0)), hashOfPlace(i + ivec3(0, 1, 0)), hashOfPlace(i + ivec3(1, 1, 0)));
    vec4 far = vec4(hashOfPlace(i + ivec3(0, 0, 1)), hashOfPlace(i + ivec3(1, 0, 1)), hashOfPlace(i + ivec3(0, 1, 1)), hashOfPlace(i + ivec3(1, 1, 1)));
    vec4 v = mix(near, far, t.z);
    vec2 w = mix(v.xz, v.yw, t.x);
    return mix(w.x, w.y, t.y);
}
float airNoise(vec3 p) { return (4.0 * octaveOfNoise(p) + 2.0 * octaveOfNoise(p * 2.0) + octaveOfNoise(p * 4.0)) / 7.0; }
