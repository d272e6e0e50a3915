// Depths in a form that may be blurred before they are compared. The same formulas as src/core/shadow/filterable_depth.h, in whose words
// depths grow from -1 at the light to 1 at the end of its reach.
float litByVariance(vec2 moments, float depth, float leastVariance) {
    float variance = max(moments.y - moments.x * moments.x, leastVariance), beyond = depth - moments.x;
    return beyond <= 0.0 ? 1.0 : variance / (variance + beyond * beyond);
}

vec2 warpedDepth(float depth, float exponent) { return vec2(exp(exponent * depth), -exp(-exponent * depth)); }

float litByExponentials(vec4 moments, float depth, float exponent, float leastVariance) {
    vec2 at = warpedDepth(depth, exponent), least = leastVariance * exponent * exponent * at * at;
    return min(litByVariance(moments.xy, at.x, least.x), litByVariance(moments.zw, at.y, least.y));
}

float litByMoments(vec4 moments, float depth, float toward) {
    vec4 b = mix(moments, vec4(0.0, 0.375, 0.0, 0.375), toward);
    float l32d22 = b.z - b.x * b.y, d22 = b.y - b.x * b.x, variance = b.w - b.y * b.y;
    float d33d22 = variance * d22 - l32d22 * l32d22;
    if (d22 <= 0.0 || d33d22 <= 0.0) return depth <= b.x ? 1.0 : 0.0;
    float l32 = l32d22 / d22;
    vec3 c = vec3(1.0, depth - b.x, depth * depth - b.y);
    c.z -= l32 * c.y;
    c.y /= d22;
    c.z *= d22 / d33d22;
    c.y -= l32 * c.z;
    c.x -= c.y * b.x + c.z * b.y;
    if (c.z == 0.0) return 1.0;
    float p = c.y / c.z, q = c.x / c.z, root = sqrt(max(0.0, 0.25 * p * p - q));
    float z1 = -0.5 * p - root, z2 = -0.5 * p + root;
    if (depth <= z1) return 1.0;
    bool last = depth > z2;
    float a = last ? z1 : depth, d = last ? depth : z1;
    float share = (a * z2 - b.x * (a + z2) + b.y) / ((z2 - d) * (depth - z1));
    return clamp(last ? -share : 1.0 - share, 0.0, 1.0);
}

float withoutLeak(float lit, float leak) { return clamp((lit - leak) / max(1e-6, 1.0 - leak), 0.0, 1.0); }

/// What a map holds for a depth. FILTERABLE: 4 variance, 5 exponential, 6 moments.
vec4 filterableOf(float depth, float exponent) {
#if FILTERABLE == 4
    return vec4(depth, depth * depth, 0.0, 0.0);
#elif FILTERABLE == 5
    vec2 w = warpedDepth(depth, exponent);
    return vec4(w.x, w.x * w.x, w.y, w.y * w.y);
#else
    float d2 = depth * depth;
    return vec4(depth, d2, d2 * depth, d2 * d2);
#endif
}
