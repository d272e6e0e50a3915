#version 450 core
// A level of the chain from the finer one by the binomial kernel 1 3 3 1 along each axis: every texel gives a quarter of itself.
// FIRST: from the picture; where fireflies are tamed, brighter pixels weigh less, by 1 / (1 + exposed luminance), so that one that flickers
// does not flash.
#include "include/structs.glsl"
#include "include/count.glsl"
#include "include/exposure.glsl"
#include "include/spread_light.glsl"
#ifdef FIRST
uniform sampler2D sceneTexture;
#define FROM sceneTexture
#else
uniform sampler2D finer;
#define FROM finer
#endif
layout(location = 0) out vec4 outColor;

void main() {
    countWork(0u);
    const float kernel[4] = float[](1.0, 3.0, 3.0, 1.0);
    float tame = parameters.bloomParts.w * exposureScale();
    vec4 sum = vec4(0.0);
    for (int j = 0; j < 4; ++j)
        for (int i = 0; i < 4; ++i) {
            vec3 v = edgeTexel(FROM, 2 * ivec2(gl_FragCoord.xy) + ivec2(i - 1, j - 1));
            float w = kernel[i] * kernel[j];
#ifdef FIRST
            v = soundLight(v);
            w /= 1.0 + tame * dot(v, vec3(0.2126, 0.7152, 0.0722));
#endif
            sum += w * vec4(v, 1.0);
        }
    countOf(COUNTER_bloomReads, 16u);
    outColor = vec4(sum.rgb / sum.a, 1.0);
}
