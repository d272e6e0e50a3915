#pragma once
#include "core/plan/settings.h"
#include "core/scene/scene.h"

// Which optics the materials of a scene have, and what a setup leaves of them.
namespace mirolux {

/// How many different ones a scene may have: a G-buffer holds their number in eight bits.
inline constexpr std::size_t most_optics = 256;

/// Fills SceneAsset::optics and each material's number in it. Returns the materials that found no place, which are
/// shaded as plain ones.
std::vector<const Material*> number_optics(SceneAsset& asset);

/// The same asset with these optics for all of its opaque materials.
std::shared_ptr<const SceneAsset> with_optics(const SceneAsset& asset, const brdf::Optics& optics);

/// True if light goes beneath some material's surface.
bool scatters(const SceneAsset& asset);

/// What a dielectric mirrors straight on (KHR_materials_ior, KHR_materials_specular). ior 0: all of it.
glm::vec3 dielectric_f0(double ior, const glm::dvec3& specularColor, double specular);

/// The optics that a frame of this setup shades with: plain without `shading.optics`; nothing goes beneath without
/// `subsurface.kind`, else `subsurface.distance` times as far.
brdf::Optics shown_optics(const brdf::Optics& optics, const Setup& setup);
/// True if some material of the scene is shaded as more than plain.
bool shades_optics(const SceneAsset& asset, const Setup& setup);

} // namespace mirolux
