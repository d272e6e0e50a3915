#pragma once
#include "core/plan/settings.h"
#include <glm/glm.hpp>

// Ambient occlusion: how much of the light from all around what stands close by leaves to a surface.
namespace mirolux {

/// What is open of the plane through the eye's ray between the normal's projection at angle `n` from that ray and a
/// horizon at `h` (radians, both of one sign convention), weighed by the cosine to the projection (J. Jimenez et al.,
/// Practical Real-Time Strategies for Accurate Indirect Occlusion, 2016).
double open_arc(double n, double h);

/// What the floor sees of the sky at `distance` metres before an endless wall of `height` metres, by the cosine: the
/// wall's form factor is (1 - d / sqrt(d^2 + h^2)) / 2.
double open_before_wall(double distance, double height);
/// The same where only what stands within `radius` metres counts, and less and less over the last part `fade` of it:
/// summed over directions.
double open_before_wall(double distance, double height, double radius, double fade);

enum class OcclusionMix { product, least, screen, texture };
/// The screen's and the material's share in one.
double mixed_occlusion(OcclusionMix mix, double screen, double baked);
/// With light that bounces between what closes a surface and the surface, if both have its colour (J. Jimenez et al.,
/// 2016, a fit).
glm::dvec3 bounced_occlusion(double open, const glm::dvec3& albedo);
/// Of a lobe about the mirrored direction (S. Lagarde and C. de Rousiers, course notes on physically based shading,
/// 2014).
double mirrored_occlusion(double cosView, double open, double roughness);

OcclusionMix occlusion_mix(const Setup& setup);

inline constexpr const char* occlusion_resource = "screen occlusion";
inline constexpr const char* raw_occlusion_resource = "raw occlusion";

} // namespace mirolux
