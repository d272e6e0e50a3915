#pragma once
#include "core/bake/baked_light.h"
#include "core/light/brdf.h"
#include <algorithm>
#include <cmath>

// The reference definitions, in double, of what shaders/include/baked.glsl does in float.
namespace mirolux {

/// What a surface reads of a map at one place.
struct BakedSample {
    glm::dvec3 light{0.0};  // on the surface as its vertices face, lux
    glm::dvec3 toward[3]{}; // by channel: the direction that it comes from on the mean, times how alike those are
};
/// Between four texels, layers joined with their factors. place: texels.
BakedSample baked_sample(const BakedLight& baked, const std::vector<glm::vec3>& factors, const glm::dvec2& place);

/// Share of light that comes from one direction, by the length of the mean direction. Light from all around falls on a
/// surface from a mean direction 2/3 long: the integral of cosine squared over that of the cosine.
inline double baked_focus(double alike) {
    return std::clamp(3 * alike - 2, 0.0, 1.0);
}

/// Roughness under light whose directions are spread about their mean: the variance of half vectors added to that of
/// facets. alike: length of the mean direction, which tells the spread (A. Banerjee and others, Clustering on the Unit
/// Hypersphere using von Mises-Fisher Distributions, 2005).
inline double spread_roughness(double roughness, double alike) {
    const double r = std::clamp(alike, 0.0, 0.9999), concentration = r * (3 - r * r) / (1 - r * r);
    return std::sqrt(std::sqrt(std::min(std::pow(roughness, 4) + 0.5 / std::max(concentration, 1e-3), 1.0)));
}

/// Light from a map as a surface sends it on, cd/m2: the share that comes from one direction lights the shaded normal
/// as a lamp from there would, the rest evenly. facing: the surface as its vertices face, unit, as all directions.
struct BakedLeaves {
    glm::dvec3 diffuse{0.0}, specular{0.0};
    glm::dvec3 mirrored{0.0}; // F0 of even light, so that metals are not black; where nothing else answers that
};
BakedLeaves baked_leaves(const BakedSample& sample, DirectionKind kind, brdf::Model model, const brdf::Surface& surface,
                         double exponent, bool normalised, const glm::dvec3& facing, const glm::dvec3& normal,
                         const glm::dvec3& toEye);

} // namespace mirolux
