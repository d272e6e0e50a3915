vec4 layer_probes(LayerInput i) { return vec4(dimmedByAir(i.probes, i.position), i.alpha); }
/// A colour of its own for each probe, as far as it takes part; alpha: that share.
vec4 layer_probeShares(LayerInput i) {
    vec4 sum = vec4(0.0);
#ifdef SLOT_PROBE_DIFFUSE
    uint count = uint(parameters.probeForm.x);
    for (uint k = 0u; k < count && sum.a < 1.0; ++k) {
        float share = (1.0 - sum.a) * probeClaim(k, i.position), hue = fract(float(k) * 0.6180339887 + 0.08);
        sum += share * vec4(clamp(abs(fract(hue + vec3(0.0, 2.0, 1.0) / 3.0) * 6.0 - 3.0) - 1.0, 0.0, 1.0) * 0.75 + 0.1, 1.0);
    }
#endif
    return vec4(sum.rgb * (0.55 + 0.45 * abs(dot(i.normal, i.toEye))), sum.a);
}
