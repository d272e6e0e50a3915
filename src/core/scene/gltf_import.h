#pragma once
#include "core/base/error.h"
#include "core/scene/scene.h"
#include <filesystem>
#include <memory>

namespace mirolux {

struct ImportOptions {
    bool decodeImages = true; // false: sizes and pixels of images stay empty
    std::size_t memoryLimit =
        0; // bytes over which a file is refused before they are taken; 0: an eighth of the machine's
    SceneChoice choice{};
};

/// Reads glTF 2.0 (.gltf with external or embedded buffers, .glb): meshes, metallic-roughness materials, cameras,
/// punctual lights. Right-handed, Y up, metres; lights and cameras come in world space. Missing normals become flat
/// ones, missing tangents are computed where there are texture coordinates. Errors name the file and the JSON pointer;
/// whatever is merely not used becomes a warning. Source: Khronos Group, glTF 2.0 Specification (2021), and
/// KHR_lights_punctual, KHR_materials_emissive_strength, KHR_materials_unlit.
Result<std::shared_ptr<const SceneAsset>> import_gltf(const std::filesystem::path& path,
                                                      const ImportOptions& options = {});

} // namespace mirolux
