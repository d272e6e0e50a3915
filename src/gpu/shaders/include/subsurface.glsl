// Light beneath surfaces. The reference in double is src/core/surface/subsurface.h; a test holds the two together.

/// (c + w) / (1 + w)^2: past the terminator, and as much in all.
vec3 wrappedRamp(float cosine, vec3 wrap) { return max(vec3(cosine) + wrap, vec3(0.0)) / ((1.0 + wrap) * (1.0 + wrap)); }

/// Share of light that an evenly lit face sends through `metres` (J. Jimenez et al. 2010; the profile of E. d'Eon and D. Luebke 2007, whose
/// variances are those of core divided by their mean).
vec3 throughSlab(float metres, vec3 distance) {
    vec3 t = metres / max(distance, vec3(1e-9)), t2 = t * t;
    const float mean = 1.3828712; // mm2
    return 0.233 * exp(t2 * (-0.5 * mean / 0.0064)) + 0.100 * exp(t2 * (-0.5 * mean / 0.0484)) + 0.118 * exp(t2 * (-0.5 * mean / 0.187)) +
           0.113 * exp(t2 * (-0.5 * mean / 0.567)) + 0.358 * exp(t2 * (-0.5 * mean / 1.99)) + 0.078 * exp(t2 * (-0.5 * mean / 7.41));
}

/// Lambert's lobe of light that has been beneath, 1/sr.
vec3 beneathLobe(int model, vec3 baseColor, float metallic, OpticsData optics, float cosView) {
    vec3 body = baseColor / pi;
    if (model == MODEL_LAMBERT) return body;
    body *= 1.0 - metallic;
    return model == MODEL_GGX ? body * ((1.0 - largest(optics.f0)) * (1.0 - coatMirrors(optics, max(cosView, 1e-4)))) : body;
}
