#pragma once
#include "core/base/error.h"
#include "core/scene/project.h"
#include <filesystem>

namespace mirolux {

/// A scene as glTF 2.0 has it, in one binary file.
struct GltfExport {
    std::vector<std::uint8_t> bytes;   // .glb
    std::vector<std::string> warnings; // what glTF has no words for, a sentence each
};

/// The scene with the user's edits: objects as they are placed (hidden ones are left out), lights, cameras, materials
/// with their pictures as PNG, and where anything moves its nodes, bones, shapes and clips. Read by import_gltf it
/// gives the same picture. Needs the asset's pictures decoded. Fails for stages that are not Solid. Source: Khronos
/// Group, glTF 2.0 Specification (2021), KHR_lights_punctual, KHR_materials_clearcoat, _ior, _specular,
/// _emissive_strength, _unlit, KHR_animation_pointer.
Result<GltfExport> export_gltf(const Project& project, const std::shared_ptr<const SceneAsset>& asset);
/// The same into a file, whole or not at all. Returns the warnings.
Result<std::vector<std::string>> export_gltf(const Project& project, const std::shared_ptr<const SceneAsset>& asset,
                                             const std::filesystem::path& file);

} // namespace mirolux
