#pragma once
#include "core/plan/settings.h"
#include "core/plan/view.h"

namespace mirolux {

/// Cells of air in the view: columns of `cell` pixels and slices of depth, laid side by side in one target.
struct FroxelGrid {
    int columns = 0, rows = 0, slices = 0; // across, down, into the depth
    int across = 0;                        // slices side by side in a row of the target
    int cell = 0;                          // pixels
    double far = 0;                        // metres from the eye where the last slice ends
    double spread = 1;                     // slice i of n ends at far ((i + 1) / n)^spread

    int width() const { return across * columns; } // of the target
    int height() const { return (slices + across - 1) / across * rows; }
    double begin(double slice) const; // metres from the eye
    double slice_at(double metres) const;
};
FroxelGrid froxel_grid(const Setup& setup, const View& view);

/// Frames that history needs to settle.
inline constexpr int froxel_settle_frames = 16;

} // namespace mirolux
