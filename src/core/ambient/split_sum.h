#pragma once
#include "core/light/brdf.h"
#include <glm/glm.hpp>
#include <vector>

// What a surface reflects of light from all around it, the light apart: the directional albedo of its lobes.
namespace mirolux {

/// Integrals over the hemisphere of our GGX lobe and of what its Fresnel leaves of Lambert's, for a viewer at a cosine.
struct SplitSum {
    double scale = 0;   // of F0: specular albedo = F0 * scale + bias
    double bias = 0;    // times F90
    double grazing = 0; // diffuse albedo = baseColor (1 - metallic) (1 - F0 - (F90 - F0) grazing), of a dielectric's
};

/// The integrals themselves: of the specular lobe by `samples` half vectors that the eye sees (E. Heitz, Sampling the
/// GGX Distribution of Visible Normals, 2018), of the diffuse one by the midpoint rule. roughness from
/// brdf::least_roughness.
SplitSum split_sum(double cosView, double roughness, int samples = 1024);

/// The table that shaders read (B. Karis, 2013): x: cosine to
/// the viewer, y: roughness, both from 0 in the first texel's middle to 1 in the last one's; linear between.
struct SplitSumTable {
    static constexpr int size = 64;
    std::vector<glm::vec3> values; // rows of one roughness: scale, bias, grazing

    SplitSum at(double cosView, double roughness) const;
};
/// Made once. From any thread.
const SplitSumTable& split_sum_table();

/// What surroundings give to a surface, cd/m2.
struct AmbientArrives {
    glm::dvec3 diffuse{0.0};  // irradiance over pi
    glm::dvec3 specular{0.0}; // radiance, averaged over the lobe
};
struct AmbientLeaves {
    glm::dvec3 diffuse{0.0}, specular{0.0};
    glm::dvec3 sum() const { return diffuse + specular; }
};

/// Roughness of the GGX lobe that a Phong or Blinn-Phong lobe of this exponent is as wide as (B. Walter et al., 2007).
double roughness_of_exponent(double exponent);

/// What a coat adds to what surroundings give, and what it leaves of what lies beneath. coatSums: at the coat's
/// roughness; around: radiance, averaged over its lobe.
AmbientLeaves coated(const AmbientLeaves& beneath, const brdf::Surface& surface, double cosView,
                     const SplitSum& coatSums, const glm::dvec3& around);

/// What the surface sends on of it, its coat apart. compensated: with what light between microfacets gives that the
/// lobe of one bounce loses (C. Fdez-Aguera, A Multiple-Scattering Microfacet Model for Real-Time Image Based Lighting,
/// 2019): of a surface that swallows nothing nothing is lost.
AmbientLeaves ambient_reflected(brdf::Model model, const brdf::Surface& surface, bool compensated, const SplitSum& sums,
                                const AmbientArrives& arrives);

} // namespace mirolux
