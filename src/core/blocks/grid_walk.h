#pragma once
#include "core/blocks/volume.h"
#include <cmath>
#include <limits>

namespace mirolux::blocks {

/// The cells that a ray enters after its own, in order, each once (J. Amanatides and A. Woo, A Fast Voxel Traversal
/// Algorithm for Ray Tracing, 1987). visit(cell, distance in cells at which it is entered, axis that is crossed): false
/// ends it. Through an edge or a corner it goes by x first, then y, then z.
template <class Visit>
void walk_grid(const glm::dvec3& from, const glm::dvec3& direction, double most, const Visit& visit) {
    glm::ivec3 cell(glm::floor(from));
    glm::ivec3 step;
    glm::dvec3 next, each;
    for (int a = 0; a < 3; ++a) {
        step[a] = direction[a] > 0 ? 1 : -1;
        each[a] = direction[a] != 0 ? 1 / std::abs(direction[a]) : std::numeric_limits<double>::infinity();
        next[a] = direction[a] != 0 ? (direction[a] > 0 ? cell[a] + 1 - from[a] : from[a] - cell[a]) * each[a]
                                    : std::numeric_limits<double>::infinity();
    }
    for (;;) {
        const int a = next.x <= next.y ? (next.x <= next.z ? 0 : 2) : (next.y <= next.z ? 1 : 2);
        const double at = next[a];
        if (!(at < most)) return;
        cell[a] += step[a];
        next[a] += each[a];
        if (!visit(cell, at, a)) return;
    }
}

/// True if the straight way between the middles of two cells goes through open cells only; one that passes an edge or a
/// corner exactly needs all cells around it open. The two themselves are not asked. open(cell).
template <class Open>
bool sees(const glm::ivec3& from, const glm::ivec3& to, const Open& open) {
    const glm::ivec3 d = to - from, size = glm::abs(d), step(d.x > 0 ? 1 : -1, d.y > 0 ? 1 : -1, d.z > 0 ? 1 : -1);
    glm::ivec3 cell = from, done(0);
    const auto clear = [&](const glm::ivec3& c) { return c == from || c == to || open(c); };
    // The way crosses the middle plane between steps k and k + 1 of axis a at (2 k + 1) / (2 size[a]) of its length:
    // compared as whole numbers.
    while (cell != to) {
        std::int64_t best[2] = {1, 0}; // a share: first over second; infinite
        for (int a = 0; a < 3; ++a) {
            if (done[a] >= size[a]) continue;
            const std::int64_t over = 2 * done[a] + 1, under = 2 * size[a];
            if (best[1] == 0 || over * best[1] < best[0] * under) best[0] = over, best[1] = under;
        }
        int axes = 0;
        for (int a = 0; a < 3; ++a)
            if (done[a] < size[a] && (2 * done[a] + 1) * best[1] == best[0] * (2 * size[a])) axes |= 1 << a;
        for (int part = 1; part < axes; ++part) // the cells around an edge or a corner
            if ((part & axes) == part) {
                glm::ivec3 beside = cell;
                for (int a = 0; a < 3; ++a)
                    if (part & 1 << a) beside[a] += step[a];
                if (!clear(beside)) return false;
            }
        for (int a = 0; a < 3; ++a)
            if (axes & 1 << a) {
                cell[a] += step[a];
                ++done[a];
            }
        if (!clear(cell)) return false;
    }
    return true;
}

} // namespace mirolux::blocks
