#include "core/blocks/mesh.h"
#include "core/blocks/levels.h"

namespace mirolux::blocks {

Quad quad_of(const glm::ivec3& c, int face, int along, int across, std::uint8_t material) {
    const auto f = static_cast<std::uint32_t>(face);
    return {static_cast<std::uint32_t>(c.x) | static_cast<std::uint32_t>(c.y) << 10 |
                static_cast<std::uint32_t>(c.z) << 20 | (f & 3) << 30,
            f >> 2 | static_cast<std::uint32_t>(along - 1) << 1 | static_cast<std::uint32_t>(across - 1) << 6 |
                static_cast<std::uint32_t>(material) << 11};
}

glm::ivec2 axes_of(int face) {
    return face < 2 ? glm::ivec2(2, 1) : face < 4 ? glm::ivec2(0, 2) : glm::ivec2(0, 1);
}

bool face_shows(const std::vector<Material>& palette, std::uint8_t cell, std::uint8_t beside) {
    if (cell == 0) return false;
    if (beside == 0) return true;
    return beside != cell && !palette[beside].stops_light();
}

ChunkMesh mesh_chunk(const Volume& cells, const std::vector<Material>& palette, std::size_t chunk) {
    ChunkMesh out;
    const Volume::Cells* own = cells.cells_of(chunk);
    if (!own && cells.all_of(chunk) == 0) return out;
    constexpr int edge = chunk_edge, padded = edge + 2;
    const glm::ivec3 low = cells.corner(chunk), inside = glm::min(cells.size() - low, glm::ivec3(edge));
    // With a cell around, so that no face asks the volume.
    std::vector<std::uint8_t> around(static_cast<std::size_t>(padded) * padded * padded);
    const auto at = [&](const glm::ivec3& c) -> std::uint8_t& {
        return around[static_cast<std::size_t>((c.x + 1) + padded * ((c.z + 1) + padded * (c.y + 1)))];
    };
    for (int y = -1; y <= edge; ++y)
        for (int z = -1; z <= edge; ++z)
            for (int x = -1; x <= edge; ++x) {
                const glm::ivec3 c(x, y, z);
                const bool within = x >= 0 && y >= 0 && z >= 0 && x < edge && y < edge && z < edge;
                const bool border = (x < 0 || x == edge) + (y < 0 || y == edge) + (z < 0 || z == edge) > 1;
                if (border) continue; // no face looks there
                at(c) = within && x < inside.x && y < inside.y && z < inside.z
                            ? (own ? (*own)[place_in_chunk(x, y, z)] : cells.all_of(chunk))
                            : cells.at(low + c);
            }
    std::array<bool, 256> through{}; // materials before which others' faces show
    for (std::size_t m = 0; m < 256; ++m)
        through[m] = m == 0 || (m < palette.size() && !palette[m].stops_light());
    const std::ptrdiff_t strides[3] = {1, std::ptrdiff_t(padded) * padded, padded};
    std::array<std::uint8_t, std::size_t(edge) * edge> slice; // materials of one layer's faces; 0: none
    for (int face = 0; face < Neighbours::count; ++face) {
        const glm::ivec3 d = Neighbours::directions[face];
        const glm::ivec2 axes = axes_of(face);
        const int axis = face / 2;
        for (int layer = 0; layer < inside[axis]; ++layer) {
            int any = 0;
            slice.fill(0);
            glm::ivec3 first(0);
            first[axis] = layer;
            const std::uint8_t* row = &at(first);
            const std::ptrdiff_t along = strides[axes.x], beside = d[axis] * strides[axis];
            for (int v = 0; v < inside[axes.y]; ++v, row += strides[axes.y])
                for (int u = 0; u < inside[axes.x]; ++u) {
                    const std::uint8_t m = row[u * along], other = row[u * along + beside];
                    const bool shows = m != 0 && other != m && through[other]; // as face_shows
                    slice[static_cast<std::size_t>(u + edge * v)] = shows ? m : std::uint8_t(0);
                    any |= shows;
                }
            if (!any) continue;
            for (int v = 0; v < edge; ++v)
                for (int u = 0; u < edge;) {
                    const std::uint8_t m = slice[static_cast<std::size_t>(u + edge * v)];
                    if (m == 0) {
                        ++u;
                        continue;
                    }
                    int along = 1, across = 1;
                    while (u + along < edge && slice[static_cast<std::size_t>(u + along + edge * v)] == m)
                        ++along;
                    const auto alike = [&](int row) {
                        for (int i = 0; i < along; ++i)
                            if (slice[static_cast<std::size_t>(u + i + edge * row)] != m) return false;
                        return true;
                    };
                    while (v + across < edge && alike(v + across))
                        ++across;
                    for (int j = 0; j < across; ++j)
                        for (int i = 0; i < along; ++i)
                            slice[static_cast<std::size_t>(u + i + edge * (v + j))] = 0;
                    glm::ivec3 c;
                    c[axis] = layer;
                    c[axes.x] = u;
                    c[axes.y] = v;
                    (palette[m].stops_light() ? out.opaque : out.clear)
                        .push_back(quad_of(low + c, face, along, across, m));
                    u += along;
                }
        }
    }
    return out;
}

} // namespace mirolux::blocks
