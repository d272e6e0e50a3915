#pragma once
#include "core/blocks/volume.h"
#include "core/scene/gltf_import.h"
#include <span>

namespace mirolux::blocks {

/// What a file of blocks holds (docs/blocks-format.md).
struct Contents {
    std::string name;
    World world;
    std::vector<Light> lights;
    std::vector<Camera> cameras;
};

/// Bytes of a .blocks file: a mark, a header in JSON, chunks packed by zlib, as runs where those are shorter.
std::vector<std::uint8_t> packed(const Contents& contents);
/// Reads them again. name: of the file, for complaints, which name the JSON pointer, and the byte where data are
/// damaged. limit: bytes that the cells may take.
Result<Contents> unpacked(std::span<const std::uint8_t> bytes, const std::string& name, std::size_t limit);

Result<void> write_blocks(const Contents& contents, const std::filesystem::path& path);

} // namespace mirolux::blocks

namespace mirolux {

/// A Blocks scene. Errors name the file and the JSON pointer.
Result<std::shared_ptr<const SceneAsset>> import_blocks(const std::filesystem::path& path,
                                                        const ImportOptions& options = {});

} // namespace mirolux
