#version 450 core
// From the meter's sums to the exposure: src/core/finish/exposure.cpp, ev100_for and left_to_go.
#include "include/structs.glsl"
#include "include/count.glsl"
#include "exposure/bins.glsl"
uniform sampler2D meterSums;
uniform sampler2D exposurePrevious; // alpha 0: there is no frame before
uniform vec2 carried;               // EV100 of one that had another size, y: 1 where there is one
layout(location = 0) out vec4 outExposure;

#ifdef HISTOGRAM
/// Mean of ln luminance between two percentiles of all pixels.
float meanLog() {
    float all = 0.0;
    for (int i = 0; i < meterBinCount; ++i)
        all += float(meterBins[i]);
    float low = all * parameters.meterPlace.z, high = max(all * parameters.meterPlace.w, low + 1.0), below = 0.0;
    vec2 sums = vec2(0.0);
    for (int i = 0; i < meterBinCount; ++i) {
        float pixels = float(meterBins[i]), inside = max(min(below + pixels, high) - max(below, low), 0.0);
        sums += inside * vec2(logOfBin(i), 1.0);
        below += pixels;
    }
    return sums.x / max(sums.y, 1e-30);
}
#else
float meanLog() {
    vec2 sums = vec2(0.0);
    ivec2 size = textureSize(meterSums, 0);
    for (int y = 0; y < size.y; ++y)
        for (int x = 0; x < size.x; ++x)
            sums += texelFetch(meterSums, ivec2(x, y), 0).rg;
    return sums.x / max(sums.y, 1e-30);
}
#endif

void main() {
    countWork(0u);
    float found = meanLog(), ev = found / 0.69314718 - log2(0.216);
    float dark = clamp((5.0 - ev) / 9.0, 0.0, 1.0), light = clamp((ev - 5.0) / 9.0, 0.0, 1.0);
    float stops = parameters.exposureRange.z + dark * parameters.exposureRange.w + light * parameters.exposureAdapt.x;
    float wanted = clamp(ev - stops, parameters.exposureRange.x, max(parameters.exposureRange.x, parameters.exposureRange.y));
    vec4 before = texelFetch(exposurePrevious, ivec2(0), 0);
    if (carried.y > 0.0) before = vec4(carried.x, 0.0, 0.0, 1.0);
    float now = wanted;
    if (before.a > 0.0) now = wanted + (before.r - wanted) * (wanted > before.r ? parameters.exposureAdapt.y : parameters.exposureAdapt.z);
    outExposure = vec4(now, parameters.meter.w / (1.2 * exp2(now)), wanted, exp(found));
}
