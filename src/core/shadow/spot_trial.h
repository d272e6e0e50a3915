#pragma once
#include "core/cost/measure.h"
#include "core/image/difference.h"
#include "core/shadow/point_spots.h"
#include "core/shadow/shadow_session.h"

// A point light tried as two, three or four spots: what that gains, and what it does to the picture.
namespace mirolux {

struct SpotTrial {
    int count = 0;
    std::vector<UsedDirection> used; // by the point
    SpotCover cover;
    std::vector<Light> spots;           // in place of the point; without ids
    int mapsBefore = 0, mapsAfter = 0;  // of the point, of all spots
    int casters = 0;                    // what shadow.casters is with the spots, so that no other light goes without
    int unmapped = 0;                   // of the spots, those that get no map
    PairedMeasurement times;            // A with the point, B with the spots; every map drawn in each frame
    std::optional<PassComparison> maps; // of the pass that draws lamps' maps; none: one of the two has none
    PictureDifference picture;          // over 5 %: PictureDifference::shareOver
};

struct SpotQuestion {
    ShadowQuestion shadows; // its light is the point
    std::vector<int> counts = {2, 3, 4};
    int rounds = 9;
};

/// Tries each count. Errors: no such light, one that is no point, one that lights nothing; the session's. go_on is told
/// what is being done and the share of it; false stops, and what was tried so far is returned.
Result<std::vector<SpotTrial>> try_spots(RenderSession& session, const SpotQuestion& question,
                                         const std::function<bool(const char*, double)>& go_on = {});

} // namespace mirolux
