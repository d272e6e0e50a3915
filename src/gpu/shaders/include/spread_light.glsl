// What all of bloom shares: src/core/finish/bloom.cpp.

/// Light as it may spread: what is no number, or over what half floats hold, is black.
vec3 soundLight(vec3 v) { return mix(vec3(0.0), v, lessThanEqual(abs(v - 32752.0), vec3(32752.0))); }
vec3 edgeTexel(sampler2D from, ivec2 p) { return texelFetch(from, clamp(p, ivec2(0), textureSize(from, 0) - 1), 0).rgb; }
/// Of a target with texels twice as large, between its texels.
vec3 doubledAt(sampler2D from, ivec2 p) {
    ivec2 low = p >> 1, next = low + 2 * (p & 1) - 1;
    return 0.5625 * edgeTexel(from, low) + 0.1875 * (edgeTexel(from, ivec2(next.x, low.y)) + edgeTexel(from, ivec2(low.x, next.y))) +
           0.0625 * edgeTexel(from, next);
}
