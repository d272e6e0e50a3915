#version 450 core
// Sums of weight * ln luminance, and of weight, over the pixels of each cell: src/core/finish/exposure.cpp. HISTOGRAM: pixels are counted by
// their luminance, 64 bins a stop.
#include "include/structs.glsl"
#ifdef COUNT
layout(early_fragment_tests) in;
#endif
#include "include/count.glsl"
#include "exposure/bins.glsl"

uniform sampler2D sceneTexture;
uniform ivec2 cells;
layout(location = 0) out vec2 outSums;

void main() {
    countWork(0u);
    ivec2 size = textureSize(sceneTexture, 0), cell = ivec2(gl_FragCoord.xy);
    ivec2 low = cell * size / cells, high = (cell + 1) * size / cells;
    float pixel = 2.0 / float(size.y);
    vec2 sums = vec2(0.0);
    for (int y = low.y; y < high.y; ++y)
        for (int x = low.x; x < high.x; ++x) {
            float l = dot(texelFetch(sceneTexture, ivec2(x, y), 0).rgb, vec3(0.2126, 0.7152, 0.0722)) * parameters.meter.w;
            float logOf = log(l >= leastLuminance ? min(l, 1e9) : leastLuminance); // of what is no number: the least
            countOf(COUNTER_meterReads, 1u);
#ifdef HISTOGRAM
            countOf(COUNTER_meterBins, 1u);
            atomicAdd(meterBins[binOf(logOf)], 1u);
            sums += vec2(logOf, 1.0);
#else
            float w = 1.0;
            vec2 at = vec2(float(2 * x + 1 - size.x), float(size.y - 2 * y - 1)) / float(size.y); // y down
            if (parameters.meter.x == 1.0) w = exp(-0.5 * pow(length(at) / parameters.meter.y, parameters.meter.z));
            if (parameters.meter.x == 3.0) w = distance(at, parameters.meterPlace.xy) <= max(parameters.meter.y, 0.75 * pixel) ? 1.0 : 0.0;
            sums += w * vec2(logOf, 1.0);
#endif
        }
    outSums = sums;
}
