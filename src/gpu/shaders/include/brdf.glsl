// What a surface does with light. The reference in double is src/core/light/brdf.h; a test holds the two together.

#include "include/structs.glsl"

const float pi = 3.14159265358979;
const float leastRoughness = 0.045;

#define MODEL_LAMBERT 0
#define MODEL_PHONG 1
#define MODEL_BLINN_PHONG 2
#define MODEL_GGX 3

float pow5(float x) {
    float x2 = x * x;
    return x2 * x2 * x;
}

float largest(vec3 c) { return max(max(c.x, c.y), c.z); }

/// Fresnel reflectance (Schlick 1994).
vec3 schlick(vec3 f0, float f90, float cosine) { return f0 + (f90 - f0) * pow5(clamp(1.0 - cosine, 0.0, 1.0)); }

/// Optics by number; without OPTICS all are plain.
OpticsData opticsOf(uint number) {
#ifdef OPTICS
    return allOptics[number];
#else
    return OpticsData(vec3(0.04), 1.0, vec3(0.0), 0.0, 0.0, 0.0, 0.0, 0.0);
#endif
}

/// What a coat mirrors toward the eye (KHR_materials_clearcoat).
float coatMirrors(OpticsData o, float cosView) { return o.coat * schlick(vec3(0.04), 1.0, cosView).x; }

/// GGX normal distribution (Walter et al. 2007); (1-c)(1+c) keeps precision at the peak.
float ggxDistribution(float cosHalf, float alpha) {
    float a2 = alpha * alpha;
    float t = a2 * cosHalf * cosHalf + (1.0 - cosHalf) * (1.0 + cosHalf);
    return a2 / (pi * t * t);
}

/// Height-correlated Smith visibility (Heitz 2014).
float smithVisibility(float cosLight, float cosView, float alpha) {
    float a2 = alpha * alpha;
    float v = cosLight * sqrt(cosView * cosView * (1.0 - a2) + a2);
    float l = cosView * sqrt(cosLight * cosLight * (1.0 - a2) + a2);
    return 0.5 / max(v + l, 1e-7);
}

/// Phong lobe; normalised (n+2)/(2 pi) cos^n (Lewis 1994), else cos^n / pi.
float phongLobe(float cosMirror, float n, bool normalised) {
    float scale = normalised ? (n + 2.0) / (2.0 * pi) : 1.0 / pi;
    return cosMirror > 0.0 ? scale * pow(cosMirror, n) : 0.0;
}

/// Blinn-Phong lobe; normalised (n+8)/(8 pi) cos^n (Sloan and Hoffman 2008), else cos^n / pi.
float blinnPhongLobe(float cosHalf, float n, bool normalised) {
    float scale = normalised ? (n + 8.0) / (8.0 * pi) : 1.0 / pi;
    return cosHalf > 0.0 ? scale * pow(cosHalf, n) : 0.0;
}

/// Both lobes, 1/sr, without the cosine; 0 where the light is below the surface's horizon.
void evaluateBrdf(int model, vec3 baseColor, float metallic, float roughness, OpticsData optics, float exponent, bool normalised, vec3 n, vec3 l,
                  vec3 v, out vec3 diffuse, out vec3 specular) {
    diffuse = vec3(0.0);
    specular = vec3(0.0);
    float nl = dot(n, l);
    if (nl <= 0.0) return;
    if (model == MODEL_LAMBERT) {
        diffuse = baseColor / pi;
        return;
    }
    vec3 f0 = mix(optics.f0, baseColor, metallic);
    diffuse = baseColor * ((1.0 - metallic) / pi);
    if (model == MODEL_PHONG) {
        specular = f0 * phongLobe(dot(2.0 * nl * n - l, v), exponent, normalised);
        return;
    }
    vec3 h = normalize(l + v);
    float nh = clamp(dot(n, h), 0.0, 1.0);
    if (model == MODEL_BLINN_PHONG) {
        specular = f0 * blinnPhongLobe(nh, exponent, normalised);
        return;
    }
    float nv = max(dot(n, v), 1e-4);
    float lh = clamp(dot(l, h), 0.0, 1.0);
    float r = max(roughness, leastRoughness);
    float alpha = r * r;
    float grazing = pow5(1.0 - lh);
    diffuse *= 1.0 - mix(largest(optics.f0), optics.f90, grazing);
    specular = mix(f0, vec3(mix(optics.f90, 1.0, metallic)), grazing) * (ggxDistribution(nh, alpha) * smithVisibility(nl, nv, alpha));
#ifdef OPTICS
    if (optics.coat > 0.0) {
        float coat = coatMirrors(optics, nv), c = max(optics.coatRoughness, leastRoughness);
        diffuse *= 1.0 - coat;
        specular = specular * (1.0 - coat) + coat * ggxDistribution(nh, c * c) * smithVisibility(nl, nv, c * c);
    }
#endif
}
