#version 450 core
// What the hits show: the scene there, times how sure the answer is (its alpha): less near the picture's edges and toward the end of the reach.
#include "include/structs.glsl"
#ifdef COUNT
layout(early_fragment_tests) in;
#endif
#include "include/count.glsl"
#include "reflection/answers.glsl"

uniform sampler2D reflectionHits;
uniform sampler2D reflectionMask;
uniform sampler2D sceneTexture;
layout(location = 0) out vec4 outColor;

void main() {
    ivec2 texel = ivec2(gl_FragCoord.xy);
    countOf(COUNTER_fragments, 1u);
    vec4 hit = texelFetch(reflectionHits, texel, 0);
    outColor = vec4(0.0);
    if (hit.w != ANSWER_HIT) return;
    vec2 size = vec2(frame.width, frame.height), border = min(hit.xy, size - hit.xy) / size;
    float edge = parameters.reflectionMask.y;
    float sure = edge > 0.0 ? clamp(min(border.x, border.y) / edge, 0.0, 1.0) : 1.0;
    sure *= clamp((parameters.reflectionTrace.x - hit.z) / (0.1 * parameters.reflectionTrace.x), 0.0, 1.0);
    sure *= texelFetch(reflectionMask, texel, 0).r;
    outColor = vec4(texelFetch(sceneTexture, ivec2(hit.xy), 0).rgb * sure, sure);
}
