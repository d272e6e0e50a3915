#pragma once
#include "core/cull/light_grid.h"
#include "core/plan/draw_list.h"

namespace mirolux::cull {

/// The settings of the light lists; `slices` is 1 unless the path is clustered.
GridSettings grid_settings(const Setup& setup);

/// How the lists of one eye lie in their buffer: a count for each cell, then `capacity` places for each cell; the lists
/// of blended surfaces, where there are any, follow in the same form.
struct GridShape {
    int columns = 0, rows = 0, slices = 1;
    int capacity = 0;         // no more than lights in view, and no less than 8
    bool transparent = false; // lists of blended surfaces follow
    std::size_t cells() const {
        return std::size_t(columns) * static_cast<std::size_t>(rows) * static_cast<std::size_t>(slices);
    }
    /// Words of one half.
    std::size_t half() const { return cells() * (1 + static_cast<std::size_t>(capacity)); }
    /// Words from one eye's lists to the next one's: begins where a buffer range may (256 bytes serve every device).
    std::size_t stride() const { return (half() * (transparent ? 2 : 1) + 63) / 64 * 64; }
};
GridShape grid_shape(const Setup& setup, const View& view, const DrawList& list);

} // namespace mirolux::cull
