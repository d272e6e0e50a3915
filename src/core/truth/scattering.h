#pragma once
#include "core/light/brdf.h"

// How a path leaves a surface: directions chosen by the shading models of core/light/brdf.h.
namespace mirolux::truth {

inline constexpr double pi = glm::pi<double>();

/// A surface of one of the models, with directions to and from it. All directions unit, away from the surface.
struct Scattering {
    brdf::Model model = brdf::Model::ggx;
    brdf::Surface surface;
    double exponent = 48; // phong, blinn-phong
    bool normalised = true;
    glm::dvec3 normal{0, 1, 0}, toEye{0, 1, 0};

    /// Both lobes, 1/sr, without the cosine: exactly brdf::evaluate.
    brdf::Lobes lobes(const glm::dvec3& toLight) const;
    /// Density with which `choose` finds a direction, 1/sr; over 0 wherever a lobe is.
    double density(const glm::dvec3& toLight) const;
    /// A direction toward which light may come; its cosine to the normal may be 0 or less: no light then. GGX: visible
    /// normals (E. Heitz, Sampling the GGX Distribution of Visible Normals, 2018); Phong: the cosine lobe about the
    /// mirrored direction; Blinn-Phong: half vectors by their power.
    glm::dvec3 choose(const glm::dvec2& u, double lobe) const;

private:
    /// How often each lobe is chosen; of the base's specular one the rest.
    struct Shares {
        double coat = 0, diffuse = 1;
    };
    Shares shares() const;
};

/// Unit vectors that make a right-handed frame with n (T. Duff et al., Building an Orthonormal Basis, Revisited, 2017).
void frame_of(const glm::dvec3& n, glm::dvec3& t, glm::dvec3& b);
/// By the cosine to the z axis; density cos / pi.
glm::dvec3 cosine_direction(const glm::dvec2& u);
/// Evenly over the sphere; density 1 / (4 pi).
glm::dvec3 even_direction(const glm::dvec2& u);

} // namespace mirolux::truth
