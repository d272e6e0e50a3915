#pragma once
#include "core/flat/visibility.h"
#include <functional>

namespace mirolux::flat {

/// Closed outlines of what is solid in a grid of pixels: outer borders counter-clockwise, holes clockwise; y up, in
/// pixels from the lower left corner. Pixels that touch at a corner only are apart. No point of the exact border lies
/// farther than `tolerance` pixels from the outline (D. Douglas and T. Peucker, Algorithms for the reduction of the
/// number of points, 1973). `solid`: column, row from the bottom.
std::vector<Occluder> trace_outline(int width, int height, const std::function<bool(int, int)>& solid,
                                    double tolerance);

} // namespace mirolux::flat
