#version 450 core
// Spreads diffuse light beneath surfaces along one axis of the picture (J. Jimenez et al., Separable Subsurface Scattering, 2015): taps and
// weights by src/core/surface/subsurface.h, as wide as the surface's distance makes them. What lies over an edge, or lets no light in, gives
// its taps to the middle. DOWN: the second axis; what comes out takes the place of the light that fell there.
#include "include/structs.glsl"
#ifdef COUNT
layout(early_fragment_tests) in;
#endif
#include "include/count.glsl"

uniform sampler2D depthTexture;
uniform sampler2D diffuseLight; // alpha: number of the surface's optics, 0: lets no light in
layout(std430) readonly buffer ScatterTapBuffer { vec4 scatterTaps[]; }; // SUBSURFACE_TAPS of each optics: weights, metres

#ifdef DOWN
uniform sampler2D spreadAcross;
layout(location = 0) out vec4 outColor;
layout(location = 1) out vec4 outSpread;
#else
layout(location = 0) out vec4 outSpread;
#endif

vec3 lightAcross(ivec2 p) {
#ifdef DOWN
    return texelFetch(spreadAcross, p, 0).rgb;
#else
    return texelFetch(diffuseLight, p, 0).rgb;
#endif
}
float viewDepth(ivec2 p) { return frame.forward.w / max(texelFetch(depthTexture, p, 0).r, 1e-9); }

void main() {
    ivec2 pixel = ivec2(gl_FragCoord.xy), last = ivec2(frame.width, frame.height) - 1;
    countWork(0u);
    vec4 middle = texelFetch(diffuseLight, pixel, 0);
    int number = int(middle.a + 0.5);
    if (number == 0) discard;
    float depth = viewDepth(pixel), pixels = parameters.subsurface.y / depth; // of a metre
    vec3 own = lightAcross(pixel), sum = vec3(0.0);
    float reach = max(abs(scatterTaps[number * SUBSURFACE_TAPS].w), 1e-6);
    for (int i = 0; i < SUBSURFACE_TAPS; ++i) {
        vec4 tap = scatterTaps[number * SUBSURFACE_TAPS + i];
        float along = tap.w * pixels;
#ifdef DOWN
        vec2 at = vec2(0.0, along);
#else
        vec2 at = vec2(along, 0.0);
#endif
        // between two pixels, as they lie
        vec2 place = vec2(pixel) + at, part = fract(place);
        ivec2 low = ivec2(floor(place));
#ifdef DOWN
        ivec2 high = low + ivec2(0, 1);
        float share = part.y;
#else
        ivec2 high = low + ivec2(1, 0);
        float share = part.x;
#endif
        for (int k = 0; k < 2; ++k) {
            ivec2 p = k == 0 ? low : high;
            float weight = k == 0 ? 1.0 - share : share;
            bool inside = all(greaterThanEqual(p, ivec2(0))) && all(lessThanEqual(p, last));
            p = clamp(p, ivec2(0), last);
            float same = inside && int(texelFetch(diffuseLight, p, 0).a + 0.5) == number ? 1.0 : 0.0;
            same *= clamp(2.0 - abs(viewDepth(p) - depth) / reach, 0.0, 1.0);
            sum += tap.rgb * weight * mix(own, lightAcross(p), same);
        }
        countOf(COUNTER_spreadReads, 2u);
    }
    outSpread = vec4(sum, 1.0);
#ifdef DOWN
    outColor = vec4(sum - middle.rgb, 0.0);
#endif
}
