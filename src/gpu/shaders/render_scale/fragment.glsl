#version 450 core
// The picture at the size that is shown: column_weight and resized of src/core/finish/render_scale.cpp.
#include "include/structs.glsl"
#include "include/count.glsl"
#include "include/sample_map.glsl"
uniform sampler2D sceneTexture;
uniform ivec2 outputSize;
layout(location = 0) out vec4 outColor;

float stepOf(int size, int shown, float whole) { return whole > 1.0 ? 1.0 / whole : float(size) / float(shown); }
/// The first and the last column that a shown one takes of.
ivec2 columns(float stepSize, int size, int at) {
    ivec2 c = stepSize > 1.0 ? ivec2(floor(float(at) * stepSize), ceil(float(at + 1) * stepSize) - 1.0)
                             : ivec2(floor((float(at) + 0.5) * stepSize - 0.5)) + ivec2(0, 1);
    return clamp(c, 0, size - 1);
}
float columnWeight(float stepSize, int size, int column, int at) {
    if (stepSize > 1.0)
        return max(0.0, min(float(at + 1) * stepSize, float(column + 1)) - max(float(at) * stepSize, float(column))) / stepSize;
    return max(0.0, 1.0 - abs(float(column) + 0.5 - clamp((float(at) + 0.5) * stepSize, 0.5, float(size) - 0.5)));
}

void main() {
    countWork(0u);
    ivec2 size = textureSize(sceneTexture, 0), p = ivec2(gl_FragCoord.xy);
    vec2 stepSize = vec2(stepOf(size.x, outputSize.x, parameters.outputScale.x), stepOf(size.y, outputSize.y, parameters.outputScale.y));
#ifdef SMOOTH
    float scale = sampleScale();
    ivec2 across = columns(stepSize.x, size.x, p.x), down = columns(stepSize.y, size.y, p.y);
    vec4 sum = vec4(0.0);
    for (int y = down.x; y <= down.y; ++y)
        for (int x = across.x; x <= across.y; ++x) {
            vec4 v = texelFetch(sceneTexture, ivec2(x, y), 0);
            sum += columnWeight(stepSize.x, size.x, x, p.x) * columnWeight(stepSize.y, size.y, y, p.y) * vec4(mappedSample(v.rgb, scale), v.a);
        }
    outColor = vec4(unmappedSample(sum.rgb, scale), sum.a);
#else
    outColor = texelFetch(sceneTexture, clamp(ivec2((vec2(p) + 0.5) * stepSize), ivec2(0), size - 1), 0);
#endif
}
