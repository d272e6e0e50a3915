#include "core/light/brdf.h"

namespace mirolux::brdf {

Lobes evaluate(Model model, const Surface& surface, double exponent, bool normalised, const glm::dvec3& n,
               const glm::dvec3& l, const glm::dvec3& v) {
    Lobes lobes;
    const double nl = glm::dot(n, l);
    if (nl <= 0.0) return lobes;
    if (model == Model::lambert) {
        lobes.diffuse = surface.baseColor * lambert();
        return lobes;
    }
    const glm::dvec3 f0 = surface.f0();
    lobes.diffuse = surface.baseColor * (1.0 - surface.metallic) * lambert();
    if (model == Model::phong) {
        lobes.specular = f0 * phong_lobe(glm::dot(2.0 * nl * n - l, v), exponent, normalised);
        return lobes;
    }
    const glm::dvec3 h = glm::normalize(l + v);
    const double nh = std::clamp(glm::dot(n, h), 0.0, 1.0);
    if (model == Model::blinnPhong) {
        lobes.specular = f0 * blinn_phong_lobe(nh, exponent, normalised);
        return lobes;
    }
    const double nv = std::max(glm::dot(n, v), 1e-4);
    const double lh = std::clamp(glm::dot(l, h), 0.0, 1.0);
    const double roughness = std::max(surface.roughness, least_roughness);
    const double alpha = roughness * roughness;
    const double f90 = surface.f90();
    const glm::dvec3 fresnel(schlick(f0.r, lh, f90), schlick(f0.g, lh, f90), schlick(f0.b, lh, f90));
    lobes.diffuse *= 1.0 - schlick(largest(surface.optics.f0), lh, surface.optics.f90);
    lobes.specular = fresnel * ggx_distribution(nh, alpha) * smith_visibility(nl, nv, alpha);
    if (const double coat = surface.coated(nv); coat > 0) {
        const double r = std::max(double(surface.optics.coatRoughness), least_roughness);
        lobes.diffuse *= 1.0 - coat;
        lobes.specular =
            lobes.specular * (1.0 - coat) + coat * ggx_distribution(nh, r * r) * smith_visibility(nl, nv, r * r);
    }
    return lobes;
}

double ggx_directional_albedo(double cosView, double roughness, int steps) {
    const double alpha = std::max(roughness, least_roughness) * std::max(roughness, least_roughness);
    const glm::dvec3 v(std::sqrt(std::max(0.0, 1.0 - cosView * cosView)), 0.0, cosView);
    double sum = 0.0;
    for (int i = 0; i < steps; ++i) {
        const double z = (i + 0.5) / steps; // cosine of the light's angle: uniform in z is uniform in solid angle
        const double r = std::sqrt(1.0 - z * z);
        for (int j = 0; j < 2 * steps; ++j) {
            const double phi = glm::two_pi<double>() * (j + 0.5) / (2 * steps);
            const glm::dvec3 l(r * std::cos(phi), r * std::sin(phi), z);
            const glm::dvec3 h = glm::normalize(l + v);
            sum += ggx_distribution(h.z, alpha) * smith_visibility(z, cosView, alpha) * z;
        }
    }
    return sum * glm::two_pi<double>() / (double(steps) * 2.0 * steps);
}

} // namespace mirolux::brdf
