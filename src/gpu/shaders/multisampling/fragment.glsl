#version 450 core
// The mean of a pixel's samples.
#include "include/structs.glsl"
#include "include/count.glsl"
#include "include/sample_map.glsl"
uniform sampler2DMS sceneTexture;
layout(location = 0) out vec4 outColor;

void main() {
    countWork(0u);
    float scale = sampleScale();
    vec4 sum = vec4(0.0);
    for (int i = 0; i < SAMPLES; ++i) {
        vec4 v = texelFetch(sceneTexture, ivec2(gl_FragCoord.xy), i);
        sum += vec4(mappedSample(v.rgb, scale), v.a);
    }
    sum /= float(SAMPLES);
    outColor = vec4(unmappedSample(sum.rgb, scale), sum.a);
}
