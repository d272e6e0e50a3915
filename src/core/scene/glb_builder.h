#pragma once
#include "core/io/json_cursor.h"
#include <cstdint>
#include <vector>

namespace mirolux::gltf {

/// A glTF document with one binary buffer, as it grows.
struct GlbBuilder {
    Json json;
    std::vector<std::uint8_t> binary;

    /// Bytes on a boundary of four; target: of a vertex or index buffer, 0: neither. Returns the view's index.
    int view(const void* data, std::size_t bytes, int target = 0);
    /// Values of a view; type: componentType. Returns the accessor's index.
    int accessor(int view, int type, std::size_t count, const char* shape);
    /// Floats with their least and most, as positions and times must have.
    int floats(const std::vector<float>& values, const char* shape, int components, int target = 0);
    /// The whole as .glb; empty lists are left out.
    std::vector<std::uint8_t> file() const;
};

} // namespace mirolux::gltf
