#pragma once
#include "core/bake/unwrap.h"

// A mesh's charts in one rectangle of texels, and the mesh cut at their borders.
namespace mirolux {

/// A mesh whose every vertex has a place in a rectangle of texels.
struct MappedMesh {
    Primitive mesh; // the same triangles in the same order; vertices of several charts are there once for each
    std::vector<glm::vec2> places;   // by vertex, texels in the rectangle
    std::vector<std::uint32_t> from; // by vertex: which one of the mesh it was
    int width = 0, height = 0;       // texels
    float density = 0;               // texels a metre
    /// Where charts lie: the texels that a chart's lookups may touch, and no other chart's.
    struct Area {
        int x = 0, y = 0, width = 0, height = 0;
    };
    std::vector<Area> areas; // by chart
    Unwrapping flat;
};

/// Lays the charts of a mesh beside each other, `gutter` texels around each beyond those that a lookup between four
/// texels touches. density: texels a metre, over 0. A chart is a texel large at least.
MappedMesh mapped(const Primitive& mesh, float density, int gutter = 1, const UnwrapOptions& options = {});

/// A texel that a chart's surface covers, for the triangle that covers most of it: at the middle of that part, so never
/// on a border.
struct Texel {
    int x = 0, y = 0;
    std::uint32_t triangle = 0, chart = 0;
    glm::vec3 weights{0.0f}; // of the triangle's corners
    float area = 0;          // of it that its chart's triangles cover together, 0 to 1
};
/// All that are covered, each once: by the chart in whose area it lies. In rows.
std::vector<Texel> covered_texels(const MappedMesh& mapped);

} // namespace mirolux
