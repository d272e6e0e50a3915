#version 450 core
// What lies over the threshold, the mean of the pixels under each texel: bright_share of src/core/finish/bloom.cpp.
#include "include/structs.glsl"
#include "include/count.glsl"
#include "include/exposure.glsl"
#include "include/spread_light.glsl"
uniform sampler2D sceneTexture;
layout(location = 0) out vec4 outColor;

void main() {
    countWork(0u);
    int n = int(parameters.bloom.y);
    float threshold = parameters.bloomParts.x, knee = parameters.bloomParts.y, scale = exposureScale();
    vec3 sum = vec3(0.0);
    for (int j = 0; j < n; ++j)
        for (int i = 0; i < n; ++i) {
            vec3 v = soundLight(edgeTexel(sceneTexture, n * ivec2(gl_FragCoord.xy) + ivec2(i, j)));
            float x = max(max(v.r, v.g), v.b) * scale, bent = clamp(x - threshold + knee, 0.0, 2.0 * knee);
            sum += v * (max(max(bent * bent / max(4.0 * knee, 1e-6), x - threshold), 0.0) / max(x, 1e-20));
        }
    countOf(COUNTER_bloomReads, uint(n * n));
    outColor = vec4(min(sum / float(n * n), 65504.0), 1.0);
}
