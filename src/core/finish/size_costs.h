#pragma once
#include "core/cost/frame_record.h"
#include "core/cost/statistics.h"
#include <functional>

namespace mirolux {

/// What a frame costs at a size of rendering.
struct SizeCost {
    double scale = 1;          // of the shown width and height
    int width = 0, height = 0; // rendered
    Interval frame;            // ms: sum of the fenced passes, median with its 95 % interval
};

/// The sizes that are looked at, least first.
inline constexpr double size_scales[] = {0.25, 0.35, 0.5, 0.7, 1, 1.4, 2};

/// The setup's frame at each scale, in rounds whose order is seeded, so that what drifts meets all alike. Sizes that
/// the device has no room for are left out. Errors: the session's where none is left. go_on is told the share that is
/// done; false stops with the rounds that were taken.
Result<std::vector<SizeCost>> size_costs(RenderSession& session, const Scene& scene, const Setup& setup,
                                         const View& view, int rounds, const std::function<bool(double)>& go_on = {});

/// The setup at this scale, both ways.
Setup at_scale(Setup setup, double scale);

} // namespace mirolux
