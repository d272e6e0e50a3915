// The share of a light that its shadow leaves, from the screen's mask where it holds the surface; else from the maps themselves.
#include "shadow_maps/lookup.glsl"
#include "include/shown.glsl"
uniform sampler2D shadowMask; // four lights a texel, sets of four as tiles

vec4 maskOfSet(int set) {
    ivec2 tile = ivec2(set % int(parameters.shadowMask.x), set / int(parameters.shadowMask.x));
    return texelFetch(shadowMask, tile * ivec2(frame.width, frame.height) + shownPixel(), 0);
}

vec3 maskedShadow(uint light, LightData data, vec3 point, vec3 normal, vec3 toLight) {
    if (!isShown()) return shadowFactor(light, data, point, normal, toLight);
    int channel = receivesShadows ? int(texelFetch(shadowTexels, int(light) * 3 + 2).y) - 1 : -1;
    if (channel < 0) return vec3(1.0);
    countOf(COUNTER_maskReads, 1u);
    return vec3(maskOfSet(channel / 4)[channel % 4]);
}
