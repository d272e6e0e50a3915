#pragma once
#include "core/flat/plane_source.h"
#include "core/flat/world.h"

// Rays in the plane of a flat stage.
namespace mirolux::flat {

/// Cells of a grid that a straight way passes, one after the other, without a gap (J. Amanatides and A. Woo, A Fast
/// Voxel Traversal Algorithm for Ray Tracing, 1987). `visit` is asked for each cell (column, row) and the share of the
/// way at which it is left; it stops when that says false.
template <class Visit>
void traverse(const glm::dvec2& from, const glm::dvec2& to, Visit&& visit) {
    glm::ivec2 cell(glm::floor(from));
    const glm::ivec2 last(glm::floor(to));
    const glm::dvec2 way = to - from;
    glm::ivec2 step(0);
    glm::dvec2 next(1e300), delta(1e300); // shares of the way
    for (int a = 0; a < 2; ++a)
        if (way[a] != 0) {
            step[a] = way[a] > 0 ? 1 : -1;
            delta[a] = 1 / std::abs(way[a]);
            next[a] = ((way[a] > 0 ? cell[a] + 1 : cell[a]) - from[a]) / way[a];
        }
    for (int left = std::abs(last.x - cell.x) + std::abs(last.y - cell.y);; --left) {
        const int a = next.x < next.y ? 0 : 1;
        if (!visit(cell, std::min(next[a], 1.0)) || left <= 0) return;
        cell[a] += step[a];
        next[a] += delta[a];
    }
}

/// What a ray meets first.
struct PlaneHit {
    double distance = std::numeric_limits<double>::infinity();
    int wall = -1;          // into World::walls
    int source = -1;        // into the sources
    glm::dvec2 normal{0.0}; // of a wall: toward where the ray came from
};

/// Walls that stop light and sources, in a grid. Queries from any number of threads.
class PlaneRays {
public:
    PlaneRays(const World& world, std::vector<PlaneSource> sources);
    PlaneHit nearest(const glm::dvec2& from, const glm::dvec2& way) const;
    const std::vector<PlaneSource>& sources() const { return sources_; }

private:
    struct Piece {
        glm::dvec2 a{0.0}, b{0.0}; // of an edge
        int wall = -1, source = -1;
    };
    void put(const Piece& piece, int number);
    void meet(const Piece& piece, const glm::dvec2& from, const glm::dvec2& way, PlaneHit& hit) const;

    std::vector<PlaneSource> sources_;
    std::vector<Piece> pieces_;
    glm::dvec2 low_{0.0};
    double cell_ = 1; // units
    int columns_ = 1, rows_ = 1;
    std::vector<std::vector<int>> cells_; // into pieces_
};

} // namespace mirolux::flat
