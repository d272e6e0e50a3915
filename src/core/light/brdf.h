#pragma once
#include <algorithm>
#include <cmath>
#include <glm/glm.hpp>
#include <glm/gtc/constants.hpp>

// The reference definitions, in double, of what shaders/include/brdf.glsl does in float. A test holds the two together.
namespace mirolux::brdf {

enum class Model { lambert, phong, blinnPhong, ggx };

inline constexpr double least_roughness = 0.045; // keeps alpha^2 well inside float's range for the lobe's peak

/// Lambert: albedo / pi, per steradian.
inline double lambert() {
    return 1.0 / glm::pi<double>();
}

/// Fresnel reflectance (Schlick, An Inexpensive BRDF Model for Physically-based Rendering, 1994); f90: of light that
/// grazes.
inline double schlick(double f0, double cosine, double f90 = 1.0) {
    const double x = std::clamp(1.0 - cosine, 0.0, 1.0), x2 = x * x;
    return f0 + (f90 - f0) * (x2 * x2 * x);
}

/// GGX normal distribution (Walter et al., Microfacet Models for Refraction through Rough Surfaces, 2007), per
/// steradian. (1-c)(1+c) in place of 1-c^2 keeps float precise at the peak.
inline double ggx_distribution(double cosHalf, double alpha) {
    const double a2 = alpha * alpha;
    const double t = a2 * cosHalf * cosHalf + (1.0 - cosHalf) * (1.0 + cosHalf);
    return a2 / (glm::pi<double>() * t * t);
}

/// Height-correlated Smith visibility G2/(4 nl nv) (Heitz, Understanding the Masking-Shadowing Function, 2014).
inline double smith_visibility(double cosLight, double cosView, double alpha) {
    const double a2 = alpha * alpha;
    const double v = cosLight * std::sqrt(cosView * cosView * (1.0 - a2) + a2);
    const double l = cosView * std::sqrt(cosLight * cosLight * (1.0 - a2) + a2);
    return 0.5 / std::max(v + l, 1e-7);
}

/// Phong lobe from the cosine to the mirrored direction. Normalised: (n+2)/(2 pi) cos^n, so that a mirror-facing lobe
/// reflects 1 at normal incidence (Lewis, Making Shaders More Physically Plausible, 1994). Not: cos^n / pi.
inline double phong_lobe(double cosMirror, double exponent, bool normalised) {
    const double scale = normalised ? (exponent + 2.0) / glm::two_pi<double>() : 1.0 / glm::pi<double>();
    return scale * std::pow(std::max(cosMirror, 0.0), exponent);
}

/// Blinn-Phong lobe from the cosine to the half vector. Normalised: (n+8)/(8 pi) cos^n (Sloan and Hoffman, in Real-Time
/// Rendering, 2008).
inline double blinn_phong_lobe(double cosHalf, double exponent, bool normalised) {
    const double scale = normalised ? (exponent + 8.0) / (8.0 * glm::pi<double>()) : 1.0 / glm::pi<double>();
    return scale * std::pow(std::max(cosHalf, 0.0), exponent);
}

/// How light enters a surface and leaves it, beside base colour, metallic and roughness (glTF's KHR_materials_ior,
/// KHR_materials_specular and KHR_materials_clearcoat, and what lies beneath the surface). As it stands: plain, like
/// glass of index 1.5.
struct Optics {
    glm::vec3 f0{0.04f};             // what a dielectric mirrors of light that meets it straight on
    float f90 = 1;                   // and of light that grazes it
    glm::vec3 scatterDistance{0.0f}; // metres that light goes beneath, root mean square along one axis; 0: none
    float thickness = 0;             // metres from side to side where its texture is white; 0: not told
    float coat = 0;                  // share of the surface that a clear coat covers
    float coatRoughness = 0;

    bool operator==(const Optics&) const = default;
};
inline constexpr double coat_f0 = 0.04; // of index 1.5, as KHR_materials_clearcoat has it

inline double largest(const glm::dvec3& c) {
    return std::max({c.x, c.y, c.z});
}

struct Surface {
    glm::dvec3 baseColor{1.0};
    double metallic = 0.0;
    double roughness = 1.0;
    Optics optics{};

    glm::dvec3 f0() const { return glm::mix(glm::dvec3(optics.f0), baseColor, metallic); }
    double f90() const { return glm::mix(double(optics.f90), 1.0, metallic); }
    /// What its coat mirrors toward a viewer, of radiance that is the same all around; beneath it the rest is left.
    double coated(double cosView) const { return optics.coat * schlick(coat_f0, cosView); }
};

struct Lobes {
    glm::dvec3 diffuse{0.0}, specular{0.0}; // BRDF values, 1/sr; the cosine is not in them
};

/// Both lobes for unit normal n, direction to the light l, direction to the viewer v. 0 below the horizon of n for l.
/// What a dielectric mirrors of the strongest channel is lost to all channels beneath, so that a tinted mirror image
/// does not tint what lies under it (KHR_materials_specular). GGX alone has coats: a lobe without Fresnel of its own,
/// mixed in by Fresnel toward the viewer (KHR_materials_clearcoat); they follow the surface's shaded normal.
Lobes evaluate(Model model, const Surface& surface, double exponent, bool normalised, const glm::dvec3& n,
               const glm::dvec3& l, const glm::dvec3& v);

/// Share of light reflected by the GGX specular lobe with Fresnel 1 (F0 = 1) toward a viewer at cosView, by numeric
/// integration over the hemisphere (midpoint rule, steps x 2*steps samples). Dimensionless.
double ggx_directional_albedo(double cosView, double roughness, int steps);

} // namespace mirolux::brdf
