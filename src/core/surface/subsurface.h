#pragma once
#include "core/surface/optics.h"
#include "core/technique/technique.h"
#include <array>

// Light beneath the surface: how far it goes, what comes out around and behind. GLSL: shaders/include/subsurface.glsl.
namespace mirolux {

enum class Subsurface { none, blur, wrapped };
/// What the frame does about light beneath surfaces: none where no material lets light in.
Subsurface subsurface_kind(const Setup& setup, const SceneAsset& asset);
/// True if light comes through to the far side.
bool shines_through(const Setup& setup, const SceneAsset& asset);

inline constexpr const char* diffuse_light_resource = "diffuse light";
inline constexpr const char* subsurface_resource = "subsurface";

/// Where light that enters at a point comes out: a sum of Gaussians, measured for red light in skin (E. d'Eon and
/// D. Luebke, Advanced Techniques for Realistic Real-Time Skin Rendering, 2007). Weights add to 1; variances along one
/// axis, such that that of the whole is 1: it is stretched by a material's scatter distance for each channel, as
/// J. Jimenez et al. stretch it (Separable Subsurface Scattering, 2015).
struct ScatterGaussian {
    double weight, variance;
};
const std::array<ScatterGaussian, 6>& scatter_profile();

/// A tap of the blur along one axis.
struct ScatterTap {
    glm::dvec3 weight{0.0}; // of a channel all taps add to 1
    double metres = 0;      // beside the middle
};
/// The profile's line integrals, each over what lies nearest to its tap: what a blur along x and then along y needs
/// (Jimenez et al. 2015, pre-integrated). `taps` is odd; they lie closer toward the middle and reach three scatter
/// distances of the farthest channel. A channel that is not scattered keeps all weight in the middle.
std::vector<ScatterTap> scatter_taps(const glm::dvec3& distance, int taps);

/// Share of light that an evenly lit face sends through `metres`, without what it loses to its colour: the profile,
/// summed over the face (J. Jimenez et al., Real-Time Realistic Skin Translucency, 2010). distance: metres.
glm::dvec3 through_slab(double metres, const glm::dvec3& distance);

/// Light on a face at a cosine, wrapped past the terminator by `wrap` (0 to 1, for each channel): (c + w) / (1 + w)^2,
/// which over all directions adds up to what max(c, 0) does.
glm::dvec3 wrapped_ramp(double cosine, const glm::dvec3& wrap);
/// How far each channel wraps: `most` for the one that goes farthest, the others by their distances.
glm::dvec3 wrap_of(const glm::dvec3& distance, double most);

/// Lambert's lobe of light that has been beneath: what the surface mirrors straight on, and its coat, are taken off.
/// 1/sr.
glm::dvec3 beneath_lobe(brdf::Model model, const brdf::Surface& surface, double cosView);

/// Diffuse light of a ball of a material with these (shown) optics, over what falls straight on it, where its normal
/// stands at a cosine to an even light from afar: spread along the arc, wrapped, and from behind through the ball, as
/// the setup has it. radius: metres.
glm::dvec3 ball_shade(const Setup& setup, const brdf::Optics& optics, double radius, double cosine);

} // namespace mirolux
