#pragma once
#include "core/flat/occluder_picture.h"

// Radiance cascades in the plane (A. Sannikov, Radiance Cascades: A Novel Approach to Calculating Global Illumination,
// 2023): level n has a probe for every 2^n by 2^n cells, each with 4^n times the rays of level 0, over an interval four
// times as long as that of the level before.
namespace mirolux::flat {

struct CascadeLevel {
    int step = 1;              // cells from probe to probe
    int columns = 1, rows = 1; // probes
    int rays = 4;              // of a probe
    double start = 0, end = 0; // of their interval, cells
    int across = 1, down = 1;  // blocks of probes in its target: one for each direction, or for four that are one below
};

struct CascadeShape {
    OccluderGrid grid;
    std::vector<CascadeLevel> levels; // finest first
    int bounces = 0;
    bool aimed = true; // a ray for each of the next level's probes about it

    /// Rays of all levels, once through.
    std::uint64_t rays() const;
    /// Cells that the last level's interval ends at.
    double reach() const { return levels.back().end; }
};
CascadeShape cascade_shape(const Setup& setup, const View& view);

/// Cells of the first level's interval.
constexpr double first_interval = 1.5;

} // namespace mirolux::flat
