#version 450 core
// Answers blurred along the picture's width, the more the flatter one looks at a rough surface: there a lobe is long.
#include "include/structs.glsl"
#ifdef COUNT
layout(early_fragment_tests) in;
#endif
#include "include/count.glsl"
#include "include/screen.glsl"

uniform sampler2D reflectionGrown;
uniform sampler2D reflectionMask;
layout(location = 0) out vec4 outColor;

void main() {
    ivec2 texel = ivec2(gl_FragCoord.xy), pixel = texel, last = textureSize(reflectionGrown, 0) - 1;
#ifdef HALF
    pixel = pixelOfHalf(texel);
#endif
    countOf(COUNTER_fragments, 1u);
    outColor = texelFetch(reflectionGrown, texel, 0);
    vec2 own = texelFetch(reflectionMask, texel, 0).rg;
    if (own.x <= 0.0 || parameters.reflectionUse.y <= 0.0) return;
    float metres = metresAt(pixel);
    vec3 toEye = -normalize(awayAt(pixelRays(), pixel, metres));
    float flatness = 1.0 - abs(dot(toEye, normalAt(pixel))), width = parameters.reflectionUse.y * flatness * flatness * min(own.y * 4.0, 1.0); // texels
    if (width < 0.5) return;
    vec4 sum = outColor;
    float weights = 1.0;
    const int taps = 6; // to each side
    for (int i = 1; i <= taps; ++i)
        for (int side = -1; side <= 1; side += 2) {
            float off = width * float(i) / float(taps), weight = exp2(-2.0 * (off * off) / (width * width));
            ivec2 at = ivec2(clamp(texel.x + side * int(off + 0.5), 0, last.x), texel.y);
            if (texelFetch(reflectionMask, at, 0).r <= 0.0) continue;
            sum += texelFetch(reflectionGrown, at, 0) * weight;
            weights += weight;
        }
    outColor = sum / weights;
}
