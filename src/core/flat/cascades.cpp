#include "core/flat/cascades.h"
#include "core/flat/flat_stage.h"
#include <algorithm>

namespace mirolux::flat {

std::uint64_t CascadeShape::rays() const {
    std::uint64_t sum = 0;
    for (const CascadeLevel& l : levels)
        sum += static_cast<std::uint64_t>(l.columns) * static_cast<std::uint64_t>(l.rows) *
               static_cast<std::uint64_t>(l.rays) * (aimed && &l != &levels.back() ? 4 : 1);
    return sum;
}

CascadeShape cascade_shape(const Setup& setup, const View& view) {
    CascadeShape out;
    out.grid = occluder_grid(setup, view);
    out.aimed = setup.choice("cascades2d.join") == "aimed";
    out.bounces = setup.whole("cascades2d.bounces");
    const int first = std::stoi(setup.choice("cascades2d.rays"));
    // Level 0 keeps its directions, side by side: 2x2, 4x2, 4x4 of them.
    const int across = first == 4 ? 2 : 4, down = first / across;
    for (int n = 0; n < setup.whole("cascades2d.levels"); ++n) {
        CascadeLevel l;
        l.step = 1 << n;
        l.columns = (out.grid.width + l.step - 1) / l.step;
        l.rows = (out.grid.height + l.step - 1) / l.step;
        l.rays = first << (2 * n);
        l.start = first_interval * ((1 << (2 * n)) - 1) / 3;
        l.end = first_interval * ((1 << (2 * n + 2)) - 1) / 3;
        const int blocks = n == 0 ? 1 : 1 << (n - 1);
        l.across = across * blocks;
        l.down = down * blocks;
        out.levels.push_back(l);
    }
    return out;
}

} // namespace mirolux::flat

namespace mirolux::technique {

using namespace flat;

static void plan_cascades(const FrameInputs& in, PlanBuilder& b) {
    if (way_of(in.setup) != Way::cascades) return;
    const CascadeShape shape = cascade_shape(in.setup, in.view);
    const OccluderGrid& g = shape.grid;
    const auto levels = static_cast<int>(shape.levels.size());
    b.set("cascadeShape", glm::vec4(static_cast<float>(levels), static_cast<float>(shape.levels.front().rays),
                                    static_cast<float>(first_interval), static_cast<float>(lit_depth / g.cell)));
    if (const double across = std::hypot(g.width, g.height); shape.reach() < across)
        b.note("The last level ends " + std::to_string(static_cast<int>(100 * shape.reach() / across)) +
               " % of the way across: what lies farther gives nothing. Take a level more.");
    if (std::any_of(in.draws.lights.begin(), in.draws.lights.end(),
                    [](const Light& l) { return !l.flat.layers.empty() || l.flat.strongest > 0 || !l.flat.casts; }))
        b.note(
            "Light that travels is stopped by walls, reaches all layers and adds up: what lights say of their layers, "
            "limits and shadows does not count.");
    const auto target = [&](const char* name, const char* sampler, Format format, int width, int height, bool kept) {
        b.resource(
            {.name = name, .sampler = sampler, .format = format, .width = width, .height = height, .kept = kept});
    };
    target("surface light", "surfaceLight", Format::rgba16f, g.width, g.height, true);
    const CascadeLevel& first = shape.levels.front();
    target("cascade 0", "cascadeFirst", Format::rgba16f, first.columns * first.across, first.rows * first.down, true);
    // Levels are gone through from the last to the first: each reads the one after it.
    int widths[2] = {1, 1}, heights[2] = {1, 1};
    for (std::size_t n = 1; n < shape.levels.size(); ++n) {
        const CascadeLevel& l = shape.levels[n];
        widths[n % 2] = std::max(widths[n % 2], l.columns * l.across);
        heights[n % 2] = std::max(heights[n % 2], l.rows * l.down);
    }
    target("even cascades", "cascadeEven", Format::rgba16f, widths[0], heights[0], false);
    target("odd cascades", "cascadeOdd", Format::rgba16f, widths[1], heights[1], false);
    target("plane light", "planeLight", Format::rgba16f, g.width, g.height, true);
    Work rays;
    rays.set("raysCast", shape.rays());
    for (int bounce = 0; bounce <= shape.bounces; ++bounce)
        b.pass({.name = bounce == 0 ? "cascades" : "bounce " + std::to_string(bounce),
                .family = "lights",
                .what = bounce == 0
                            ? "From the coarsest level to the finest: rays over each level's interval, and behind it "
                              "what the level before has found."
                            : "Walls throw back what the finest level shows before them; then all levels again.",
                .reads = {"occluders", "distance field"},
                .writes = {"surface light", "even cascades", "odd cascades", "cascade 0", "plane light"},
                .settings = flat_keys({"cascades2d.levels", "cascades2d.join", "cascades2d.rays", "cascades2d.bounces",
                                       "cascades2d.scale", "cascades2d.margin", "flat.ambient"}),
                .expected = rays});
    b.pass(shown_pass(in, "light the sheets", {"plane light", "open places"},
                      "Multiplies the scene by the light that comes by, no more than 1.", {"cascades2d.scale"}));
}

static void price_cascades(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &cascades()) return;
    if (pass.family == "transparent") return price_shown_pass(plan, w, 20, t);
    t["planeRay"] = static_cast<double>(w.at("raysCast"));
    t["fieldStep"] = static_cast<double>(w.at("fieldSteps"));
}

const Technique& cascades() {
    static const Technique technique{
        .name = "cascades",
        .stages = Stages::flat,
        .settings = {whole_setting("cascades2d.levels", "Levels", "Path", 5, 2, 7, "",
                                   "Each reaches four times as far as the one before, with half the probes a side and "
                                   "four times the rays: every level costs about the same.")
                         .only_when("flat.kind", {"cascades"}),
                     choice_setting("cascades2d.rays", "Rays of the first", "Path", {"4", "8", "16"}, "4",
                                    "Directions of a probe of the finest level: cost and smoothness grow with them.")
                         .only_when("flat.kind", {"cascades"}),
                     choice_setting("cascades2d.join", "Levels joined", "Path", {"plain", "aimed"}, "aimed",
                                    "plain: what lies behind a ray is taken between the next level's four probes, and "
                                    "light leaks round corners; aimed: a ray to each of them, four times the rays.")
                         .only_when("flat.kind", {"cascades"}),
                     whole_setting("cascades2d.bounces", "Bounces off walls", "Path", 1, 0, 4, "",
                                   "How often walls throw light back: each goes through all levels once more.")
                         .only_when("flat.kind", {"cascades"}),
                     choice_setting("cascades2d.scale", "Probes 1 /", "Path", {"1", "2", "4", "8"}, "4",
                                    "Pixels of the picture from probe to probe, and of a cell of what light travels "
                                    "through: cost falls with its square, edges of shadows grow coarse.")
                         .only_when("flat.kind", {"cascades"}),
                     number_setting("cascades2d.margin", "Travels beyond the view", "Path", 0.15, 0.0, 1.0, "",
                                    "How far light travels outside of the view, in parts of its height: walls and "
                                    "lights out there still count; costs probes.")
                         .only_when("flat.kind", {"cascades"})},
        .counters = {{"raysCast", "Rays cast", "rays of all levels of radiance cascades"}},
        .terms = {{"planeRay",
                   "a ray of a cascade, joined to what the next level has found",
                   {{"flat.kind", "cascades"}},
                   0.1}},
        .layers = {{.name = "planelight",
                    .label = "Plane light",
                    .help = "The mean of what comes by from all sides: what sheets are multiplied by.",
                    .view = LayerView::color,
                    .resource = "plane light",
                    .when = {{"flat.kind", {"cascades"}}}},
                   {.name = "bodies",
                    .label = "Bodies",
                    .help = "What lights and walls send by themselves, and before walls what these throw back.",
                    .view = LayerView::color,
                    .resource = "surface light",
                    .when = {{"flat.kind", {"cascades"}}}},
                   {.name = "directions",
                    .label = "Directions",
                    .help = "The finest level's probes, once for each of its directions.",
                    .view = LayerView::color,
                    .resource = "cascade 0",
                    .when = {{"flat.kind", {"cascades"}}}}},
        .parameters = {"cascadeShape"}, // x: levels, y: rays of the first, z: its interval in cells, w: cells that
                                        // light enters walls by
        .plan = plan_cascades,
        .price = price_cascades,
    };
    return technique;
}

} // namespace mirolux::technique
