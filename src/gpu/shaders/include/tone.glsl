// From scene-linear radiance to the display. The reference in double is src/core/light/tone.h.

/// Reinhard with a white point (Reinhard et al., Photographic Tone Reproduction for Digital Images, 2002, eq. 4), each channel.
vec3 reinhard(vec3 x, float white) { return clamp(x * (1.0 + x / (white * white)) / (1.0 + x), 0.0, 1.0); }

/// Filmic: rational fit with toe and shoulder (K. Narkowicz, ACES Filmic Tone Mapping Curve, 2015).
vec3 filmic(vec3 x) { return clamp(x * (2.51 * x + 0.03) / (x * (2.43 * x + 0.59) + 0.14), 0.0, 1.0); }

/// Khronos PBR neutral: colours as they are up to 0.76, then toward white with their hue.
vec3 neutral(vec3 x) {
    const float f90 = 0.04, start = 0.8 - f90, desaturation = 0.15;
    float least = min(min(x.r, x.g), x.b);
    vec3 c = x - (least < 2.0 * f90 ? least - least * least / (4.0 * f90) : f90);
    float peak = max(max(c.r, c.g), c.b);
    if (peak < start) return c;
    float d = 1.0 - start, pressed = 1.0 - d * d / (peak + d - start), grey = 1.0 - 1.0 / (desaturation * (peak - pressed) + 1.0);
    return mix(c * (pressed / peak), vec3(pressed), grey);
}

/// IEC 61966-2-1.
vec3 srgbEncode(vec3 x) { return mix(12.92 * x, 1.055 * pow(max(x, vec3(0.0031308)), vec3(1.0 / 2.4)) - 0.055, greaterThan(x, vec3(0.0031308))); }

/// Ordered pattern with an edge of 2^bits pixels (Bayer 1973) in -0.5..0.5, from interleaved bits of x^y and y.
float orderedPattern(ivec2 p, int bits) {
    int x = p.x ^ p.y, y = p.y, v = 0;
    for (int bit = 0; bit < bits; ++bit)
        v |= ((x >> bit) & 1) << (2 * (bits - bit) - 1) | ((y >> bit) & 1) << (2 * (bits - bit) - 2);
    return (float(v) + 0.5) / float(1 << (2 * bits)) - 0.5;
}

/// The inverse of srgbEncode.
float srgbDecode(float x) { return x <= 0.04045 ? x / 12.92 : pow((x + 0.055) / 1.055, 2.4); }

#if TONE == 5
/// The code of a curve of one's own: OwnCurve::at of src/core/finish/tone_curve.cpp.
float ownCurve(float exposed) {
    const float stops[5] = float[](-10.0, -6.0, -3.0, 0.0, 4.0);
    float shown[5] = float[](parameters.toneOwn.x, parameters.toneOwn.y, parameters.toneOwn.z, parameters.toneOwn.w, parameters.toneOwnMore.x);
    float slopes[5] = float[](parameters.toneOwnMore.y, parameters.toneOwnMore.z, parameters.toneOwnMore.w, parameters.toneOwnEnd.x, parameters.toneOwnEnd.y);
    float t = log2(max(exposed, 1e-30));
    if (t <= stops[0]) return shown[0] * exp2(t - stops[0]);
    if (t >= stops[4]) return shown[4];
    int i = int(t > stops[1]) + int(t > stops[2]) + int(t > stops[3]);
    float h = stops[i + 1] - stops[i], u = (t - stops[i]) / h, v = 1.0 - u;
    return shown[i] * (1.0 + 2.0 * u) * v * v + slopes[i] * h * u * v * v + shown[i + 1] * u * u * (3.0 - 2.0 * u) - slopes[i + 1] * h * u * u * v;
}
#endif

#ifdef TONE
/// TONE: 0 none, 1 clamp, 2 reinhard, 3 filmic, 4 neutral, 5 one's own; one channel.
float bent(float x) {
#if TONE == 2
    return reinhard(vec3(x), parameters.tone.y).x;
#elif TONE == 3
    return filmic(vec3(x)).x;
#elif TONE == 5
    return srgbDecode(ownCurve(x));
#else
    return clamp(x, 0.0, 1.0);
#endif
}

/// An exposed colour as the display shows it, before sRGB's code: toned() of src/core/finish/tone_curve.cpp.
vec3 toned(vec3 x) {
#ifdef BALANCED
    x *= parameters.toneBalance.rgb;
#endif
#if TONE < 2
    return clamp(x, 0.0, 1.0);
#elif TONE == 4
    return clamp(neutral(x), 0.0, 1.0);
#elif defined(BY_LUMINANCE)
    float l = dot(x, vec3(0.2126, 0.7152, 0.0722)), shown = bent(l);
    vec3 c = x * (shown / max(l, 1e-20));
    float peak = max(max(c.r, c.g), c.b);
    return peak > 1.0 ? mix(vec3(shown), c, (1.0 - shown) / (peak - shown)) : c;
#elif TONE == 2
    return reinhard(x, parameters.tone.y);
#elif TONE == 3
    return filmic(x);
#else
    return vec3(bent(x.r), bent(x.g), bent(x.b));
#endif
}
#endif
