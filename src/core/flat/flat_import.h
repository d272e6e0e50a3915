#pragma once
#include "core/scene/built.h"
#include "core/scene/gltf_import.h"

namespace mirolux {

/// Reads a scene of any stage: a Flat one (JSON with "stage": "flat", docs/flat-format.md), one of Blocks (.blocks,
/// docs/blocks-format.md), or glTF 2.0.
Result<std::shared_ptr<const SceneAsset>> import_scene(const std::filesystem::path& path,
                                                       const ImportOptions& options = {});

/// The asset with its pictures and what is built in it, where it was read without them; else itself. `kept`: the file's
/// own, read before; taken over or read anew. Fails where the file cannot be read or has changed since.
Result<std::shared_ptr<const SceneAsset>> with_pictures(const std::shared_ptr<const SceneAsset>& asset,
                                                        std::shared_ptr<const SceneAsset>& kept);

/// A Flat scene with its sheets. Lights carry what their file says; outlines that are to be traced are traced. Errors
/// name the file and the JSON pointer; what is merely odd becomes a warning.
Result<std::shared_ptr<const SceneAsset>> import_flat(const std::filesystem::path& path,
                                                      const ImportOptions& options = {});

} // namespace mirolux
