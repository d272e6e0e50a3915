#include "core/truth/scattering.h"
#include "core/light/luminance.h"

namespace mirolux::truth {

namespace {

glm::dvec3 to_frame(const glm::dvec3& n, const glm::dvec3& v) {
    glm::dvec3 t, b;
    frame_of(n, t, b);
    return {glm::dot(v, t), glm::dot(v, b), glm::dot(v, n)};
}
glm::dvec3 from_frame(const glm::dvec3& n, const glm::dvec3& v) {
    glm::dvec3 t, b;
    frame_of(n, t, b);
    return t * v.x + b * v.y + n * v.z;
}

/// About the z axis, cos^n; density (n + 1) / (2 pi) cos^n.
glm::dvec3 power_direction(const glm::dvec2& u, double exponent) {
    const double z = std::pow(u.x, 1.0 / (exponent + 1.0)), r = std::sqrt(std::max(0.0, 1.0 - z * z)),
                 phi = 2 * pi * u.y;
    return {r * std::cos(phi), r * std::sin(phi), z};
}
double power_density(double cosine, double exponent) {
    return cosine > 0 ? (exponent + 1.0) / (2 * pi) * std::pow(cosine, exponent) : 0.0;
}

/// The half vector among those that v sees, in the normal's frame (Heitz 2018, listing 1).
glm::dvec3 visible_half(const glm::dvec3& v, double alpha, const glm::dvec2& u) {
    const glm::dvec3 vh = glm::normalize(glm::dvec3(alpha * v.x, alpha * v.y, v.z));
    const double l2 = vh.x * vh.x + vh.y * vh.y;
    const glm::dvec3 t1 = l2 > 0 ? glm::dvec3(-vh.y, vh.x, 0) / std::sqrt(l2) : glm::dvec3(1, 0, 0),
                     t2 = glm::cross(vh, t1);
    const double r = std::sqrt(u.x), phi = 2 * pi * u.y, s = 0.5 * (1.0 + vh.z), p1 = r * std::cos(phi),
                 p2 = (1.0 - s) * std::sqrt(std::max(0.0, 1.0 - p1 * p1)) + s * r * std::sin(phi);
    const glm::dvec3 nh = p1 * t1 + p2 * t2 + std::sqrt(std::max(0.0, 1.0 - p1 * p1 - p2 * p2)) * vh;
    return glm::normalize(glm::dvec3(alpha * nh.x, alpha * nh.y, std::max(1e-9, nh.z)));
}
/// Its density over half vectors times that of the mirrored direction: G1 D / (4 cos v).
double visible_density(const glm::dvec3& v, const glm::dvec3& h, double alpha) {
    if (h.z <= 0) return 0;
    const double a2 = alpha * alpha, lambda = std::sqrt(a2 + (1.0 - a2) * v.z * v.z), g1 = 2.0 * v.z / (v.z + lambda);
    return g1 * brdf::ggx_distribution(h.z, alpha) / (4.0 * v.z);
}

} // namespace

void frame_of(const glm::dvec3& n, glm::dvec3& t, glm::dvec3& b) {
    const double sign = std::copysign(1.0, n.z), a = -1.0 / (sign + n.z), c = n.x * n.y * a;
    t = {1.0 + sign * n.x * n.x * a, sign * c, -sign * n.x};
    b = {c, sign + n.y * n.y * a, -n.y};
}

glm::dvec3 cosine_direction(const glm::dvec2& u) {
    const double r = std::sqrt(u.x), phi = 2 * pi * u.y;
    return {r * std::cos(phi), r * std::sin(phi), std::sqrt(std::max(0.0, 1.0 - u.x))};
}

glm::dvec3 even_direction(const glm::dvec2& u) {
    const double z = 1.0 - 2.0 * u.x, r = std::sqrt(std::max(0.0, 1.0 - z * z)), phi = 2 * pi * u.y;
    return {r * std::cos(phi), r * std::sin(phi), z};
}

brdf::Lobes Scattering::lobes(const glm::dvec3& toLight) const {
    return brdf::evaluate(model, surface, exponent, normalised, normal, toLight, toEye);
}

/// By what the lobes reflect at most, so that none is starved.
Scattering::Shares Scattering::shares() const {
    if (model == brdf::Model::lambert) return {0, 1};
    const double cosView = std::max(glm::dot(normal, toEye), 1e-4), f0 = luminance(surface.f0()),
                 diffuse = luminance(surface.baseColor) * (1.0 - surface.metallic),
                 specular = model == brdf::Model::ggx ? brdf::schlick(f0, cosView, surface.f90()) : f0,
                 coat = model == brdf::Model::ggx && surface.optics.coat > 0
                            ? std::clamp(surface.coated(cosView), 0.1, 0.8)
                            : 0.0;
    if (surface.metallic >= 1.0) return {coat, 0};
    return {coat, (1 - coat) * (diffuse + specular > 0 ? std::clamp(diffuse / (diffuse + specular), 0.1, 0.9) : 0.5)};
}

glm::dvec3 Scattering::choose(const glm::dvec2& u, double lobe) const {
    const Shares share = shares();
    if (lobe < share.diffuse) return from_frame(normal, cosine_direction(u));
    if (model == brdf::Model::phong) {
        const glm::dvec3 mirror = 2.0 * glm::dot(normal, toEye) * normal - toEye;
        return from_frame(mirror, power_direction(u, exponent));
    }
    glm::dvec3 v = to_frame(normal, toEye);
    v.z = std::max(v.z, 1e-4);
    v = glm::normalize(v);
    const bool ofCoat = lobe < share.diffuse + share.coat;
    const double r = std::max(ofCoat ? double(surface.optics.coatRoughness) : surface.roughness, brdf::least_roughness);
    const glm::dvec3 h = model == brdf::Model::blinnPhong ? power_direction(u, exponent) : visible_half(v, r * r, u);
    if (glm::dot(v, h) <= 0) return -normal; // a half vector that the eye is behind: no light
    return from_frame(normal, 2.0 * glm::dot(v, h) * h - v);
}

double Scattering::density(const glm::dvec3& toLight) const {
    const double nl = glm::dot(normal, toLight);
    if (nl <= 0) return 0;
    const Shares share = shares();
    const double rest = 1 - share.diffuse - share.coat;
    double out = share.diffuse * nl / pi;
    if (share.diffuse >= 1) return out;
    if (model == brdf::Model::phong) {
        const glm::dvec3 mirror = 2.0 * glm::dot(normal, toEye) * normal - toEye;
        return out + rest * power_density(glm::dot(mirror, toLight), exponent);
    }
    glm::dvec3 v = to_frame(normal, toEye);
    v.z = std::max(v.z, 1e-4);
    v = glm::normalize(v);
    const glm::dvec3 l = to_frame(normal, toLight), sum = l + v;
    const double length = glm::length(sum);
    if (length < 1e-9) return out;
    const glm::dvec3 h = sum / length;
    if (model == brdf::Model::blinnPhong)
        return out + rest * power_density(h.z, exponent) / std::max(4.0 * glm::dot(v, h), 1e-9);
    const double r = std::max(surface.roughness, brdf::least_roughness);
    out += rest * visible_density(v, h, r * r);
    if (share.coat > 0) {
        const double c = std::max(double(surface.optics.coatRoughness), brdf::least_roughness);
        out += share.coat * visible_density(v, h, c * c);
    }
    return out;
}

} // namespace mirolux::truth
