// Mirror images of probes, by lobes of their captures; inner boxes first.
#include "include/light_probes.glsl"
uniform samplerCubeArray probeLobes; // of each probe four widths a mip

/// Where its capture shows what a ray from within its box meets on the box's sides.
vec3 probeDirection(uint i, vec3 point, vec3 d) {
    if (parameters.probeForm.y < 0.5) return d;
    vec3 from = directionInProbe(lightProbes[i], point - lightProbes[i].center.xyz), own = directionInProbe(lightProbes[i], d);
    vec3 to = (mix(-lightProbes[i].extent.xyz, lightProbes[i].extent.xyz, greaterThan(own, vec3(0.0))) - from) / own;
    vec3 far = mix(to, vec3(3.4e38), equal(own, vec3(0.0)));
    return point + d * max(min(far.x, min(far.y, far.z)), 0.0) - lightProbes[i].place.xyz;
}

vec4 probeSpecular(vec3 point, vec3 n, vec3 toEye, float roughness) {
    const float sharpest = 0.1; // roughness of level 1; level 0 is the mirror
    float levels = parameters.probeForm.z;
    float place = roughness <= sharpest ? roughness * roughness / (sharpest * sharpest)
                                        : 1.0 + log(roughness / sharpest) / log(1.0 / sharpest) * (levels - 2.0);
    float low = min(floor(place), levels - 2.0), high = low + 1.0;
    float mipLow = floor((low + 0.5) / 4.0), mipHigh = floor((high + 0.5) / 4.0);
    vec3 mirrored = reflect(-toEye, n);
    vec4 sum = vec4(0.0);
    uint count = uint(parameters.probeForm.x);
    for (uint i = 0u; i < count && sum.a < 1.0; ++i) {
        countOf(COUNTER_probeTests, 1u);
        float share = (1.0 - sum.a) * probeClaim(i, point);
        if (share <= 0.0) continue;
        countOf(COUNTER_probeReads, 1u);
        vec3 d = probeDirection(i, point, mirrored);
        float first = 4.0 * float(i);
        sum += vec4(share * lightProbes[i].extent.w * mix(textureLod(probeLobes, vec4(d, first + low - 4.0 * mipLow), mipLow).rgb,
                                                         textureLod(probeLobes, vec4(d, first + high - 4.0 * mipHigh), mipHigh).rgb, place - low), share);
    }
    return sum;
}
