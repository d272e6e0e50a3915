// Diffuse light of probes, by nine numbers each; inner boxes first.
#include "include/light_probes.glsl"

vec3 probeHarmonics(uint i, vec3 n) {
    vec3 sum = 0.282095 * lightProbes[i].harmonics[0].rgb;
    sum += 0.488603 * (n.y * lightProbes[i].harmonics[1].rgb + n.z * lightProbes[i].harmonics[2].rgb + n.x * lightProbes[i].harmonics[3].rgb);
    sum += 1.092548 * (n.x * n.y * lightProbes[i].harmonics[4].rgb + n.y * n.z * lightProbes[i].harmonics[5].rgb + n.x * n.z * lightProbes[i].harmonics[7].rgb);
    sum += 0.315392 * (3.0 * n.z * n.z - 1.0) * lightProbes[i].harmonics[6].rgb + 0.546274 * (n.x * n.x - n.y * n.y) * lightProbes[i].harmonics[8].rgb;
    return max(sum, vec3(0.0));
}

/// a: the share of the surroundings that it stands for.
vec4 probeDiffuse(vec3 point, vec3 n) {
    vec4 sum = vec4(0.0);
    uint count = uint(parameters.probeForm.x);
    for (uint i = 0u; i < count && sum.a < 1.0; ++i) {
        countOf(COUNTER_probeTests, 1u);
        float share = (1.0 - sum.a) * probeClaim(i, point);
        if (share <= 0.0) continue;
        countOf(COUNTER_probeReads, 1u);
        sum += vec4(share * probeHarmonics(i, n), share);
    }
    return sum;
}
