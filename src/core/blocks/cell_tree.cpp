#include "core/blocks/cell_tree.h"
#include <bit>
#include <cmath>
#include <limits>
#include <optional>

namespace mirolux::blocks {

namespace {

class Builder {
public:
    Builder(const Volume& cells, const std::vector<Material>& palette) : cells_(cells) {
        for (std::size_t i = 1; i < palette.size() && i < 256; ++i)
            stops_[i] = palette[i].stops_light();
    }

    std::optional<TreeNode> node(int level, const glm::ivec3& corner) {
        if (!any(level, corner)) return std::nullopt;
        std::uint64_t bits = 0;
        std::vector<TreeNode> parts;
        std::vector<std::uint8_t> materials;
        const int edge = 1 << (2 * (level - 1)); // of a part
        for (int i = 0; i < 64; ++i) {
            const glm::ivec3 at = corner + edge * glm::ivec3(i & 3, i >> 4, i >> 2 & 3);
            if (level == 1) {
                const std::uint8_t m = cells_.at(at);
                if (!stops_[m]) continue;
                materials.push_back(m);
            } else {
                const auto part = node(level - 1, at);
                if (!part) continue;
                parts.push_back(*part);
            }
            bits |= std::uint64_t(1) << i;
        }
        if (bits == 0) return std::nullopt;
        TreeNode n{static_cast<std::uint32_t>(bits), static_cast<std::uint32_t>(bits >> 32), 0, 0};
        n.first = static_cast<std::uint32_t>(level == 1 ? tree.cells.size() : tree.nodes.size());
        tree.cells.insert(tree.cells.end(), materials.begin(), materials.end());
        tree.nodes.insert(tree.nodes.end(), parts.begin(), parts.end());
        return n;
    }
    CellTree tree;

private:
    /// False where the volume ends, or the chunk is all of what lets light through.
    bool any(int level, const glm::ivec3& corner) const {
        if (!cells_.holds(corner)) return false; // corners are the least of their cubes
        if (level > 2) return true;              // 16 cells and less lie within a chunk
        const std::size_t chunk = cells_.chunk_of(corner);
        return cells_.cells_of(chunk) || stops_[cells_.all_of(chunk)];
    }
    const Volume& cells_;
    std::array<bool, 256> stops_{};
};

} // namespace

CellTree cell_tree(const Volume& cells, const std::vector<Material>& palette) {
    Builder b(cells, palette);
    const glm::ivec3 size = cells.size();
    while (1 << (2 * b.tree.levels) < std::max({size.x, size.y, size.z}))
        ++b.tree.levels;
    if (const auto root = b.node(b.tree.levels, glm::ivec3(0))) b.tree.nodes.push_back(*root);
    return std::move(b.tree);
}

TreeHit trace(const CellTree& tree, const glm::dvec3& from, const glm::dvec3& direction, double most) {
    TreeHit out;
    if (tree.nodes.empty()) return out;
    const int edge = 1 << (2 * tree.levels);
    // To the tree's cube first.
    double t = 0, end = most;
    int axis = 0;
    for (int a = 0; a < 3; ++a) {
        if (direction[a] == 0) {
            if (from[a] < 0 || from[a] >= edge) return out;
            continue;
        }
        const double p = (0 - from[a]) / direction[a], q = (edge - from[a]) / direction[a];
        if (std::min(p, q) > t) {
            t = std::min(p, q);
            axis = a;
        }
        end = std::min(end, std::max(p, q));
    }
    if (!(t < end)) return out;
    glm::ivec3 cell = glm::clamp(glm::ivec3(glm::floor(from + direction * t)), glm::ivec3(0), glm::ivec3(edge - 1));
    bool entered = t > 0;
    while (t < end) {
        ++out.steps;
        // Down to where there is nothing, or to a cell.
        TreeNode n = tree.nodes.back();
        int level = tree.levels;
        for (;; --level) {
            const int shift = 2 * (level - 1);
            const int i = (cell.x >> shift & 3) | (cell.z >> shift & 3) << 2 | (cell.y >> shift & 3) << 4;
            if (!(n.bits() >> i & 1)) break;
            const auto place =
                n.first + static_cast<std::uint32_t>(std::popcount(n.bits() & ((std::uint64_t(1) << i) - 1)));
            if (level == 1) {
                if (!entered) break; // it begins there: what it begins in is not met
                out.cell = cell;
                out.material = tree.cells[place];
                out.face = 2 * axis + (direction[axis] > 0 ? 1 : 0);
                out.distance = t;
                return out;
            }
            n = tree.nodes[place];
        }
        // Out of the empty cube.
        const int shift = 2 * (level - 1), size = 1 << shift;
        const glm::ivec3 low = (cell >> shift) << shift;
        double next = std::numeric_limits<double>::infinity();
        for (int a = 0; a < 3; ++a) {
            if (direction[a] == 0) continue;
            const double at = ((direction[a] > 0 ? low[a] + size : low[a]) - from[a]) / direction[a];
            if (at < next) {
                next = at;
                axis = a;
            }
        }
        t = next;
        const glm::ivec3 there(glm::floor(from + direction * t));
        for (int a = 0; a < 3; ++a)
            cell[a] = a == axis ? (direction[a] > 0 ? low[a] + size : low[a] - 1)
                                : std::clamp(there[a], low[a], low[a] + size - 1);
        if (cell[axis] < 0 || cell[axis] >= edge) return out;
        entered = true;
    }
    return out;
}

} // namespace mirolux::blocks
