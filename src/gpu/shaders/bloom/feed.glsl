// Lays light that has spread over the picture, by how large a texel of it is.
#include "include/spread_light.glsl"
uniform sampler2D bloom;

/// bloom.z: 1 the chain, whose light takes the place of the picture's own.
vec3 bloomOver(vec3 radiance, vec3 glow) {
    return soundLight(radiance) * (1.0 - parameters.bloom.z * parameters.bloom.x) + parameters.bloom.x * glow;
}
vec3 withFullBloom(vec3 radiance, ivec2 texel) { return bloomOver(radiance, edgeTexel(bloom, texel)); }
vec3 withHalfBloom(vec3 radiance, ivec2 texel) { return bloomOver(radiance, doubledAt(bloom, texel)); }
vec3 withQuarterBloom(vec3 radiance, ivec2 texel) {
    vec2 at = (vec2(texel) + 0.5) * 0.25 - 0.5, low = floor(at);
    ivec2 i = ivec2(low);
    at -= low;
    return bloomOver(radiance, mix(mix(edgeTexel(bloom, i), edgeTexel(bloom, i + ivec2(1, 0)), at.x),
                                   mix(edgeTexel(bloom, i + ivec2(0, 1)), edgeTexel(bloom, i + ivec2(1, 1)), at.x), at.y));
}
