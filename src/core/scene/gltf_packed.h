#pragma once
#include "core/scene/gltf_file.h"
#include <map>

// What glTF files hold packed: EXT_meshopt_compression of buffer views, KHR_draco_mesh_compression of primitives.
namespace mirolux::gltf {

/// A buffer view's bytes from what the extension's object describes; `packed`: the bytes that it names. Decoding by
/// meshoptimizer. Throws ReadFailure.
Bytes unpack_view(const JsonCursor& extension, std::span<const std::uint8_t> packed);
/// How many bytes that will be. Throws ReadFailure for what no decoder takes.
std::size_t unpacked_size(const JsonCursor& extension);

/// A primitive from its compressed bytes, by Draco's own decoder: values by the attribute's name, and the indices.
struct DracoMesh {
    struct Values {
        int components = 0;
        bool normalized = false; // integers have been mapped to -1..1 or 0..1
        std::vector<double> values;
    };
    std::map<std::string, Values> attributes;
    std::vector<double> indices;
    std::size_t vertices = 0;
};
DracoMesh unpack_draco(const JsonCursor& extension, std::span<const std::uint8_t> packed);

} // namespace mirolux::gltf
