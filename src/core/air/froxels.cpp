#include "core/air/froxels.h"
#include "core/air/air.h"
#include "core/air/air_lists.h"
#include "core/shadow/shadow_maps.h"
#include <cmath>

namespace mirolux {

double FroxelGrid::begin(double slice) const {
    return far * std::pow(slice / slices, spread);
}

double FroxelGrid::slice_at(double metres) const {
    return std::pow(std::clamp(metres / far, 0.0, 1.0), 1 / spread) * slices;
}

FroxelGrid froxel_grid(const Setup& setup, const View& view) {
    FroxelGrid g;
    g.cell = setup.whole("air.cell");
    g.columns = (view.width + g.cell - 1) / g.cell;
    g.rows = (view.height + g.cell - 1) / g.cell;
    g.slices = setup.whole("air.slices");
    g.across = static_cast<int>(std::ceil(std::sqrt(double(g.slices))));
    g.far = setup.number("air.far");
    g.spread = setup.number("air.spread");
    return g;
}

namespace technique {

/// A quick picture stands alone: history would cost it many frames.
static bool keeps_history(const FrameInputs& in) {
    return in.setup.flag("air.history") && in.view.wholeWidth <= in.view.width;
}

/// Where within its slice each frame looks: van der Corput's sequence (1935), eight frames long.
static double slice_jitter(std::uint64_t index) {
    static constexpr double at[] = {0, -0.25, 0.25, -0.375, 0.125, -0.125, 0.375, -0.4375};
    return at[index % 8];
}

static std::vector<std::string> keys_of_cells() {
    std::vector<std::string> keys = {"air.kind",   "air.extinction", "air.albedo",
                                     "air.height", "air.base",       "air.lampShare"};
    for (const Setting& s : froxels().settings)
        keys.push_back(s.key);
    return keys;
}

static void plan_froxels(const FrameInputs& in, PlanBuilder& b) {
    if (in.setup.choice("air.kind") != "froxels") return;
    const FroxelGrid g = froxel_grid(in.setup, in.view);
    const bool history = keeps_history(in);
    const double wide = 2 * std::tan(0.5 * in.view.camera.fovY) / in.view.height; // of a pixel, one metre away
    b.set("airGrid", {g.columns, g.rows, g.slices, g.across});
    b.set("airDepths", {g.far, g.spread, g.cell, wide});
    // Of the first frames after a cut each counts as much as those before it.
    const double share = std::max(in.setup.number("air.historyShare"), 1.0 / double(in.time.index + 1));
    b.set("airHistory", {share, history && in.setup.flag("air.jitter") ? slice_jitter(in.time.index) : 0.0, 0, 0});
    b.resource({.name = "air cells",
                .sampler = "airCells",
                .format = Format::rgba16f,
                .width = g.width(),
                .height = g.height(),
                .life = history ? Life::history : Life::frame});
    b.resource({.name = "air sums",
                .sampler = "airSums",
                .format = Format::rgba16f,
                .width = g.width(),
                .height = g.height(),
                .kept = true});
    PlannedPass light{.name = "light in the air",
                      .family = "air",
                      .what = "Light that each cell of air sends toward the eye: of lamps by their lists and through "
                              "their shadows, of everywhere, its own.",
                      .reads = {air_lists_resource},
                      .writes = {"air cells"},
                      .settings = keys_of_cells(),
                      .inLedger = true,
                      .needsBefore = history};
    for (const char* shadows : {shadow_atlas_resource, shadow_cubes_resource})
        if (b.has(shadows)) light.reads.emplace_back(shadows);
    b.pass(light);
    b.pass({.name = "air before points",
            .family = "air",
            .what = "Sums the cells from the eye on: what they send and what they let through, to each slice's end.",
            .reads = {"air cells"},
            .writes = {"air sums"},
            .settings = {"air.kind", "air.slices", "air.cell", "air.far", "air.spread"}});
    b.feed(Slot::air, "froxels/feed.glsl", "froxelAir", {"air sums"});
    if (history) b.settles(froxel_settle_frames);
}

static void price_froxels(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (plan.feeds_slot(&froxels(), pass)) t["airSum"] = static_cast<double>(w.at("airEvaluations"));
    if (pass.technique != &froxels()) return;
    if (w.at("airCells") > 0) {
        t["airCell"] = static_cast<double>(w.at("airCells"));
        t["airInjection"] = static_cast<double>(w.at("airInjections"));
    }
    if (w.at("airSteps") > 0) t["airStep"] = static_cast<double>(w.at("airSteps"));
}

/// As the device found it: cells are what they are there.
static void air_of_froxels(const FrameInputs&, const AirQuestion& q, AirShare& share) {
    if (q.told.w >= 0) share.add(glm::dvec3(q.told.w), glm::dvec3(q.told));
}

static void froxels_by_light(const FrameInputs&, const AirQuestion&, const PixelProbe& probe,
                             std::vector<glm::dvec3>& out) {
    for (std::size_t i = 0; i < std::min(out.size(), probe.airByLight.size()); ++i)
        out[i] += glm::dvec3(probe.airByLight[i]);
}

static std::vector<Setting> froxel_settings() {
    const auto only = [](Setting s) { return std::move(s).only_when("air.kind", {"froxels"}); };
    return {
        only(number_setting("air.anisotropy", "Anisotropy", "Air", 0.0, -0.95, 0.95, "",
                            "Mean cosine of the angle that light is scattered by: 0 to all sides alike, toward 1 on "
                            "its way (a lamp glows when one looks at it), toward -1 back.")),
        only(toggle_setting("air.secondLobe", "Second lobe", "Air", false,
                            "Mixes a second lobe in: water drops throw light far onward and a little back.")),
        only(number_setting("air.secondAnisotropy", "Its anisotropy", "Air", -0.3, -0.95, 0.95, "",
                            "Mean cosine of the second lobe."))
            .only_when("air.secondLobe", {"on"}),
        only(number_setting("air.secondShare", "Its share", "Air", 0.3, 0.0, 1.0, "",
                            "How much the second lobe counts."))
            .only_when("air.secondLobe", {"on"}),
        only(color_setting("air.emission", "Own light", "Air", {0, 0, 0}, 1000.0, "cd/m2/m",
                           "What a metre of the fog shines by itself where it is densest.")),
        only(whole_setting("air.slices", "Slices", "Air", 64, 8, 256, "",
                           "Cells into the depth; more follow light and shadow more closely and cost as much more.")
                 .on_ratio()),
        only(whole_setting("air.cell", "Cell", "Air", 8, 2, 64, "pixels",
                           "Pixels on a cell's side: half as many make four times the cells.")
                 .on_ratio()),
        only(number_setting("air.far", "Far end", "Air", 100.0, 1.0, 10000.0, "m",
                            "Distance from the eye where the cells end; behind it lamps no longer light the fog.")
                 .on_ratio()),
        only(number_setting("air.spread", "Spread", "Air", 1.7, 1.0, 4.0, "",
                            "How slices lie: 1 evenly, more make those near the eye thin and the far ones thick.")),
        only(toggle_setting("air.history", "History", "Air", false,
                            "Mixes each cell with what its place held in frames before, followed as the camera moves; "
                            "cells that a changed light reaches start anew.")),
        only(number_setting("air.historyShare", "New share", "Air", 0.1, 0.02, 1.0, "",
                            "How much of a cell is this frame's; less is calmer and lags more."))
            .only_when("air.history", {"on"}),
        only(toggle_setting("air.jitter", "Jitter", "Air", true,
                            "Each frame looks at another place of each slice; history makes the mean of them."))
            .only_when("air.history", {"on"}),
        only(toggle_setting("air.reproject", "Reprojection", "Air", true,
                            "A cell's place is looked for where the camera saw it last frame; off: in the same cell, "
                            "which smears when the camera moves."))
            .only_when("air.history", {"on"}),
    };
}

const Technique& froxels() {
    static const std::vector<std::pair<std::string, std::string>> exercise = {
        {"air.kind", "froxels"}, {"air.cell", "16"}, {"air.slices", "32"}};
    static const Technique technique{
        .name = "froxels",
        .settings = froxel_settings(),
        .counters = {{"airCells", "Cells of air", "cells whose light was computed"},
                     {"airInjections", "Lights in cells", "lights taken up for a cell of air; near a lamp eight times"},
                     {"airSteps", "Air steps", "cells summed along the columns of the view"}},
        .terms = {{"airCell", "a cell of air", exercise, 0.4},
                  {"airInjection", "a light taken up for a cell of air", exercise, 0.2},
                  {"airStep", "a cell summed along its column", exercise, 0.1},
                  {"airSum", "a point's air read from the cells' sums", exercise, 0.15}},
        .parameters = {"airGrid",     // columns, rows, slices, slices side by side
                       "airDepths",   // far end, m; spread; pixels of a cell; width of a pixel one metre away, m
                       "airHistory"}, // share of this frame; place in the slice
        .mayFeed = {Slot::air},
        .plan = plan_froxels,
        .price = price_froxels,
        .air = air_of_froxels,
        .airByLight = froxels_by_light,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
