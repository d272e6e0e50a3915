// From scene-linear radiance to the display. The reference in double is src/core/light/tone.h.

/// Reinhard with a white point (Reinhard et al., Photographic Tone Reproduction for Digital Images, 2002, eq. 4), each channel.
vec3 reinhard(vec3 x, float white) { return clamp(x * (1.0 + x / (white * white)) / (1.0 + x), 0.0, 1.0); }

/// Filmic: rational fit with toe and shoulder (K. Narkowicz, ACES Filmic Tone Mapping Curve, 2015).
vec3 filmic(vec3 x) { return clamp(x * (2.51 * x + 0.03) / (x * (2.43 * x + 0.59) + 0.14), 0.0, 1.0); }

vec3 toneCurve(int curve, vec3 x, float white) {
    if (curve == 2) return reinhard(x, white);
    if (curve == 3) return filmic(x);
    return clamp(x, 0.0, 1.0);
}

/// IEC 61966-2-1.
vec3 srgbEncode(vec3 x) { return mix(12.92 * x, 1.055 * pow(max(x, vec3(0.0031308)), vec3(1.0 / 2.4)) - 0.055, greaterThan(x, vec3(0.0031308))); }

/// 8x8 ordered pattern (Bayer 1973) in -0.5..0.5, from interleaved bits of x^y and y.
float orderedPattern(ivec2 p) {
    int x = p.x ^ p.y, y = p.y, v = 0;
    for (int bit = 0; bit < 3; ++bit)
        v |= ((x >> bit) & 1) << (5 - 2 * bit) | ((y >> bit) & 1) << (4 - 2 * bit);
    return (float(v) + 0.5) / 64.0 - 0.5;
}
