// Whole codes of a picture. DITHER: 0 none, 1 ordered 8x8, 2 ordered 4x4, 3 blue, 4 triangular.
#include "include/tone.glsl"
#if DITHER > 2
uniform sampler2D ditherTile; // blue noise, -0.5 to 0.5
#endif

/// What is added to a pixel of the picture, in steps of a code: src/core/finish/dither.cpp.
float ditherAt(ivec2 p) {
#if DITHER == 1
    return orderedPattern(p, 3);
#elif DITHER == 2
    return orderedPattern(p, 2);
#elif DITHER > 2
    float even = texelFetch(ditherTile, p & (textureSize(ditherTile, 0) - 1), 0).r;
#if DITHER == 3
    return even;
#else
    return even < 0.0 ? sqrt(2.0 * (even + 0.5)) - 1.0 : 1.0 - sqrt(1.0 - 2.0 * even);
#endif
#else
    return 0.0;
#endif
}

/// An encoded colour as the picture holds it at a pixel.
vec3 wholeCodes(vec3 coded, ivec2 p) { return floor(coded * parameters.tone.w + ditherAt(p) + 0.5) / parameters.tone.w; }
