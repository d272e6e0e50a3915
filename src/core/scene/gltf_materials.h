#pragma once
#include "core/scene/gltf_file.h"
#include "core/scene/scene.h"
#include <set>

// Materials of a glTF file.
namespace mirolux::gltf {

/// Extensions that the reader takes up; others are named as ignored.
const std::set<std::string>& understood_extensions();

/// Reads the file's materials, with KHR_materials_ior, _specular, _clearcoat, _emissive_strength and _unlit, and from
/// their extras how far light goes beneath them; the default material is last. What is not read is warned of by name.
/// Needs the asset's textures. Throws ReadFailure, as `file` does. Returns what each material does to texture
/// coordinates before its textures are read (KHR_texture_transform): of its first texture that has a transform, others
/// that differ are warned of.
std::vector<glm::mat3> read_materials(File& file, SceneAsset& asset);

} // namespace mirolux::gltf
