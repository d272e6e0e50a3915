// Lays light that has spread over the picture.
#include "include/spread_light.glsl"
uniform sampler2D bloom;

vec3 withBloom(vec3 radiance, ivec2 texel) {
    vec3 own = soundLight(radiance), glow;
    if (parameters.bloom.y == 1.0) glow = edgeTexel(bloom, texel);
    else if (parameters.bloom.y == 2.0) glow = doubledAt(bloom, texel);
    else {
        vec2 at = (vec2(texel) + 0.5) / parameters.bloom.y - 0.5, low = floor(at);
        ivec2 i = ivec2(low);
        at -= low;
        glow = mix(mix(edgeTexel(bloom, i), edgeTexel(bloom, i + ivec2(1, 0)), at.x),
                   mix(edgeTexel(bloom, i + ivec2(0, 1)), edgeTexel(bloom, i + ivec2(1, 1)), at.x), at.y);
    }
    return parameters.bloom.z > 0.0 ? mix(own, glow, parameters.bloom.x) : own + parameters.bloom.x * glow;
}
