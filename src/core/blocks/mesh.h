#pragma once
#include "core/blocks/volume.h"

namespace mirolux::blocks {

/// Faces of cells side by side, as one rectangle: 8 bytes, as the device reads them (shaders/blocks/quads.glsl).
struct Quad {
    std::uint32_t place = 0; // x, y, z of its first cell, 10 bits each; 2 bits: the face's low ones
    std::uint32_t shape = 0; // the face's high bit; cells along its first axis, less one, 5 bits; along its second; the
                             // material, 8 bits

    glm::ivec3 cell() const {
        return {static_cast<int>(place & 1023), static_cast<int>(place >> 10 & 1023),
                static_cast<int>(place >> 20 & 1023)};
    }
    int face() const { return static_cast<int>(place >> 30 | (shape & 1) << 2); } // of Neighbours::directions
    int along() const { return static_cast<int>(shape >> 1 & 31) + 1; }
    int across() const { return static_cast<int>(shape >> 6 & 31) + 1; }
    std::uint8_t material() const { return static_cast<std::uint8_t>(shape >> 11 & 255); }
    bool operator==(const Quad&) const = default;
};
static_assert(sizeof(Quad) == 8);
Quad quad_of(const glm::ivec3& cell, int face, int along, int across, std::uint8_t material);
/// The axes that a face's rectangle goes along: of x faces z and y, of y faces x and z, of z faces x and y.
glm::ivec2 axes_of(int face);

/// True if the face of a cell toward one beside it is seen: that one is air, or lets light through and is of another
/// material.
bool face_shows(const std::vector<Material>& palette, std::uint8_t cell, std::uint8_t beside);

/// Faces of one chunk that are seen, merged where they lie side by side and are of one material: rows first, then
/// rows that are alike (greedy). clear: of materials that let light through, apart.
struct ChunkMesh {
    std::vector<Quad> opaque, clear;
};
ChunkMesh mesh_chunk(const Volume& cells, const std::vector<Material>& palette, std::size_t chunk);

} // namespace mirolux::blocks
