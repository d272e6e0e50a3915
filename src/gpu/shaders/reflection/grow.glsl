#version 450 core
// Pixels without an answer take the mean of the answers around them, as sure as these are many.
#include "include/structs.glsl"
#ifdef COUNT
layout(early_fragment_tests) in;
#endif
#include "include/count.glsl"

uniform sampler2D reflectionColour;
uniform sampler2D reflectionMask;
layout(location = 0) out vec4 outColor;

void main() {
    ivec2 texel = ivec2(gl_FragCoord.xy), last = textureSize(reflectionColour, 0) - 1;
    countOf(COUNTER_fragments, 1u);
    outColor = texelFetch(reflectionColour, texel, 0);
    float own = texelFetch(reflectionMask, texel, 0).r;
    int reach = int(parameters.reflectionUse.x);
    if (outColor.a > 0.0 || own <= 0.0) return;
    vec4 sum = vec4(0.0);
    float answers = 0.0, asked = 0.0;
    for (int y = -reach; y <= reach; ++y)
        for (int x = -reach; x <= reach; ++x) {
            ivec2 at = clamp(texel + ivec2(x, y), ivec2(0), last);
            vec4 there = texelFetch(reflectionColour, at, 0);
            asked += texelFetch(reflectionMask, at, 0).r > 0.0 ? 1.0 : 0.0;
            answers += there.a > 0.0 ? 1.0 : 0.0;
            sum += there;
        }
    if (answers > 0.0) outColor = sum / answers * min(1.0, 2.0 * answers / max(asked, 1.0));
}
