// Packing of the G-buffer: octahedral normals (Cigolle et al., A Survey of Efficient Representations for Independent Unit Vectors, 2014)
// and a square-root code for colours, or plain floats (GBUFFER_FULL).
#ifndef GBUFFER_FULL
#define GBUFFER_FULL 0
#endif

vec2 signNotZero(vec2 v) { return vec2(v.x >= 0.0 ? 1.0 : -1.0, v.y >= 0.0 ? 1.0 : -1.0); }

vec4 packNormal(vec3 n) {
#if GBUFFER_FULL
    return vec4(n, 1.0);
#else
    vec2 p = n.xy / (abs(n.x) + abs(n.y) + abs(n.z));
    if (n.z < 0.0) p = (1.0 - abs(p.yx)) * signNotZero(p);
    return vec4(p * 0.5 + 0.5, 0.0, 1.0);
#endif
}

vec3 unpackNormal(vec4 v) {
#if GBUFFER_FULL
    return v.xyz;
#else
    vec2 p = v.xy * 2.0 - 1.0;
    vec3 n = vec3(p, 1.0 - abs(p.x) - abs(p.y));
    if (n.z < 0.0) n.xy = (1.0 - abs(n.yx)) * signNotZero(n.xy);
    return normalize(n);
#endif
}

vec3 packColor(vec3 c) {
#if GBUFFER_FULL
    return c;
#else
    return sqrt(clamp(c, 0.0, 1.0));
#endif
}

vec3 unpackColor(vec3 c) {
#if GBUFFER_FULL
    return c;
#else
    return c * c;
#endif
}
