// The share of a light that its shadow leaves, from the screen's mask where it holds the surface; else from the maps themselves.
#include "shadow_maps/lookup.glsl"
uniform sampler2D shadowMask; // four lights a texel, sets of four as tiles
#if defined(PASS_LAYERS) || defined(PASS_PROBE)
uniform sampler2D depthTexture;
#endif

vec4 maskOfSet(int set) {
    ivec2 tile = ivec2(set % int(parameters.shadowMask.x), set / int(parameters.shadowMask.x));
    return texelFetch(shadowMask, tile * ivec2(frame.width, frame.height) + ivec2(gl_FragCoord.xy), 0);
}

/// True if the fragment is what the picture shows: panes, and surfaces behind others, are not in the mask.
bool maskHolds() {
#ifdef BLENDED
    return false;
#elif defined(PASS_LAYERS) || defined(PASS_PROBE)
    ivec2 texel = ivec2(gl_FragCoord.xy);
    return texel.x < frame.width && texel.y < frame.height && texelFetch(depthTexture, texel, 0).r == gl_FragCoord.z;
#else
    return true;
#endif
}

vec3 maskedShadow(uint light, LightData data, vec3 point, vec3 normal, vec3 toLight) {
    if (!maskHolds()) return shadowFactor(light, data, point, normal, toLight);
    int channel = receivesShadows ? int(texelFetch(shadowTexels, int(light) * 3 + 2).y) - 1 : -1;
    if (channel < 0) return vec3(1.0);
    countOf(COUNTER_maskReads, 1u);
    return vec3(maskOfSet(channel / 4)[channel % 4]);
}
