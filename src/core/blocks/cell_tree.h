#pragma once
#include "core/blocks/volume.h"

namespace mirolux::blocks {

/// A node of a sparse tree over cells: 64 parts, 4 along each axis; 16 bytes, as the device reads them
/// (shaders/blocks/trace.glsl). Bit x + 4 z + 16 y: the part holds something.
struct TreeNode {
    std::uint32_t low = 0, high = 0; // the bits
    std::uint32_t first = 0; // of its parts that hold something, in the order of their bits: into nodes, or of a leaf
                             // into cells
    std::uint32_t pad = 0;

    std::uint64_t bits() const { return low | std::uint64_t(high) << 32; }
    bool operator==(const TreeNode&) const = default;
};
static_assert(sizeof(TreeNode) == 16);

/// The cells of a volume that stop light, as a tree of 64 parts a node: rays step over what is empty in large strides.
/// Leaves are 4 x 4 x 4 cells. Bytes: 16 a node, one for each cell that is held.
struct CellTree {
    std::vector<TreeNode> nodes; // the root last; none: nothing stops light
    std::vector<std::uint8_t> cells;
    int levels = 1; // edge: 4^levels cells
    std::size_t bytes() const { return nodes.size() * sizeof(TreeNode) + cells.size(); }
};
CellTree cell_tree(const Volume& cells, const std::vector<Material>& palette);

/// The first cell that a ray meets, none: 0 of `material`. Distances in cells; the ray begins in no such cell.
struct TreeHit {
    glm::ivec3 cell{0};
    std::uint8_t material = 0;
    int face = 0; // of Neighbours::directions, the side that is met
    double distance = 0;
    int steps = 0; // that it took
};
TreeHit trace(const CellTree& tree, const glm::dvec3& from, const glm::dvec3& direction, double most);

} // namespace mirolux::blocks
