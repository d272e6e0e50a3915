// Surroundings as surfaces mirror them. The reference in double is src/core/ambient/environment.h.
#include "include/environment.glsl"
uniform samplerCubeArray surroundingLobes; // four widths a mip
vec3 environmentSpecular(vec3 point, vec3 n, vec3 toEye, float roughness) {
    countOf(COUNTER_environmentReads, 1u);
    const float sharpest = 0.1; // roughness of level 1; level 0 is the mirror
    float levels = parameters.environmentForm.w;
    float place = roughness <= sharpest ? roughness * roughness / (sharpest * sharpest)
                                        : 1.0 + log(roughness / sharpest) / log(1.0 / sharpest) * (levels - 2.0);
    float low = min(floor(place), levels - 2.0), high = low + 1.0;
    vec3 d = environmentDirection(reflect(-toEye, n));
    float mipLow = floor((low + 0.5) / 4.0), mipHigh = floor((high + 0.5) / 4.0);
    return mix(textureLod(surroundingLobes, vec4(d, low - 4.0 * mipLow), mipLow).rgb,
               textureLod(surroundingLobes, vec4(d, high - 4.0 * mipHigh), mipHigh).rgb, place - low) * (parameters.environmentForm.z * parameters.environmentScale.x);
}
