#pragma once
#include "core/cost/frame_record.h"
#include "core/scene/project.h"
#include <functional>

namespace mirolux {

/// A place on a walk, and what the frame costs there.
struct WalkPoint {
    double metres = 0, seconds = 0; // along the path; of the walk and of the scene's time
    double heading = 0; // radians that the view is turned by from the walk's own, about the vertical (look-around only)
    Camera camera;
    double ms = 0;              // frame: median over sweeps of the passes' sum
    std::vector<double> passMs; // medians, parallel to WalkMeasurement::passes; 0 where a pass did not run
    /// EV100 that the meter asks for at this place, and the one that an eye has come to which goes the walk in its
    /// time; none where the exposure is set by hand.
    std::optional<double> meteredEv100, ev100;
};

struct WalkPass {
    std::string name, family;
};

/// Cost along a walk for one setup.
struct WalkMeasurement {
    std::string walk, clock;
    std::vector<WalkPass> passes;
    std::vector<WalkPoint> points;
    double metres = 0;                           // length of the path
    double p50 = 0, p95 = 0, p99 = 0, worst = 0; // ms over the points
    std::size_t worstPoint = 0;
    int sweeps = 0; // that were finished
    bool stopped = false;

    int over(double budgetMs) const; // points over the budget
};

struct WalkOptions {
    double everyMetres = 2;
    int sweeps = 3; // the whole walk is gone that often, so that a slow spell of the machine does not fall on one place
    bool gpuClock = false;
    int headings = 0; // look-around: at each place, this many directions evenly round; 0: the walk's own
    std::function<bool(int done, int all)> progress; // frames; false stops and keeps the finished sweeps
};

/// Places along the walk, everyMetres apart by the eye's path (chord length at 1/200 of the walk), its end included.
std::vector<WalkPoint> walk_points(const Walk& walk, double everyMetres, int headings = 0);

/// Measures every setup at every point; at each point the setups run in turn, their order mirrored from sweep to sweep.
/// One result a setup. Errors: the session's; a walk stopped before its first sweep ended.
Result<std::vector<WalkMeasurement>> measure_walk(RenderSession& session, const Scene& scene,
                                                  const std::vector<Setup>& setups, const View& view, const Walk& walk,
                                                  const WalkOptions& options);

/// Fills in ev100 of each place from what the meter asks for, along the walk's time: a place that the view is turned at
/// has what its first direction has come to.
void adapt_along(std::vector<WalkPoint>& points, const Setup& setup);

/// Of a look-around: at each place only the direction that costs most, with the percentiles over those.
WalkMeasurement worst_directions(const WalkMeasurement& measurement);

nlohmann::json walk_document(const WalkMeasurement& measurement, double budgetMs);
/// Keeps with a walk's document what it was measured with: settings, how far doors stand open, and whether lights and
/// objects are the same (`setup`, `doors`, `lights`, `objects`).
void keep_circumstances(nlohmann::json& document, const Setup& setup, const Scene& scene);
/// What was changed from one walk's circumstances to the next, in words: "workshop gate 01 closed; Visibility frustum
/// -> cells". Empty: nothing, or one of them has none.
std::string step_between(const nlohmann::json& before, const nlohmann::json& after);
/// The later walk's time against the earlier one's, place by place. None unless both are of one walk's same places.
struct WalkStep {
    double ratio = 1, low = 1, high = 1;
    std::string verdict;
};
std::optional<WalkStep> gain_of(const nlohmann::json& before, const nlohmann::json& after);
/// One row a point: metres, seconds, heading in degrees, eye, frame, then each pass.
std::string walk_csv(const WalkMeasurement& measurement);

} // namespace mirolux
