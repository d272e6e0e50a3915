#include "core/cull/light_lists.h"
#include "core/path/path_kind.h"
#include "core/technique/plan_builder.h"
#include <algorithm>

namespace mirolux::cull {

GridSettings grid_settings(const Setup& setup) {
    GridSettings s;
    s.tile = std::stoi(setup.choice("culling.tile"));
    const std::string& bounds = setup.choice("culling.depthBounds");
    s.depthBounds = bounds == "off" ? DepthBounds::off : bounds == "min-max" ? DepthBounds::minMax : DepthBounds::mask;
    s.test = setup.choice("culling.test") == "sphere-planes" ? TileTest::spherePlanes : TileTest::sphereBox;
    s.coneTest = setup.flag("culling.coneTest");
    s.capacity = setup.whole("culling.listCapacity");
    s.slices = path_kind(setup).clustered ? setup.whole("cluster.slices") : 1;
    s.sliceNear = static_cast<float>(setup.number("cluster.near"));
    s.sliceExponent = static_cast<float>(setup.number("cluster.exponent"));
    s.sliceFar = std::max(static_cast<float>(setup.number("cluster.far")), s.sliceNear * 1.01f);
    return s;
}

GridShape grid_shape(const Setup& setup, const View& view, const DrawList& list) {
    const GridSettings s = grid_settings(setup);
    const int bounded = static_cast<int>(list.lights.size()) - list.directional;
    GridShape g;
    g.columns = (view.width + s.tile - 1) / s.tile;
    g.rows = (view.height + s.tile - 1) / s.tile;
    g.slices = s.slices;
    // A list never holds more than all lights: small scenes need no room for the full capacity.
    g.capacity = std::min(s.capacity, std::max(8, bounded));
    g.transparent = !list.blended.empty();
    return g;
}

} // namespace mirolux::cull

namespace mirolux::technique {

static void plan_light_lists(const FrameInputs& in, PlanBuilder& b) {
    const PathKind& path = path_kind(in.setup);
    if (!path.lists) return;
    b.resource({.name = "light lists",
                .format = Format::words,
                .kept = true,
                .entries = cull::grid_shape(in.setup, in.view, in.draws).stride()});
    std::vector<std::string> keys = {"path.kind"};
    for (const Setting& s : light_lists().settings)
        if (applies(s, in.setup)) keys.push_back(s.key);
    b.pass({.name = "culling",
            .family = "culling",
            .what = path.clustered ? "Lists the lights of each cluster on the GPU."
                                   : "Lists the lights of each tile on the GPU.",
            .reads = {"depth"},
            .writes = {"light lists"},
            .settings = keys});
}

static void price_light_lists(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &light_lists()) return;
    const cull::GridSettings s = cull::grid_settings(plan.setup);
    const View& v = plan.view;
    t["group"] = double(plan.eyes()) * ((v.width + s.tile - 1) / s.tile) * ((v.height + s.tile - 1) / s.tile);
    const int reads = s.depthBounds == cull::DepthBounds::off ? 0 : s.depthBounds == cull::DepthBounds::minMax ? 1 : 2;
    t["cullSample"] = plan.pixels() * reads;
    if (s.slices > 1) t["slice"] = t["cullSample"];
    t["sideTest"] = static_cast<double>(w.at("sideTests"));
    t["cell"] = static_cast<double>(w.at("cells"));
    t["cellTest"] = static_cast<double>(w.at("cellTests"));
    t["entry"] = static_cast<double>(w.at("listEntries"));
    for (const char* none : {"draw", "vertex", "triangle", "fragment"})
        t[none] = 0;
}

/// A setting that means something where lights are listed, or where lists are clustered.
static Setting on_lists(Setting s) {
    return std::move(s).only_when("path.kind", path_words([](const PathKind& k) { return k.lists; }));
}
static Setting on_clusters(Setting s) {
    return std::move(s).only_when("path.kind", path_words([](const PathKind& k) { return k.clustered; }));
}

static std::vector<Setting> settings() {
    return {
        on_lists(
            choice_setting("culling.tile", "Tile", "Path", {"8", "16", "32", "64"}, "16",
                           "Pixels on a tile's side: smaller tiles list fewer needless lights and cost more culling.")),
        on_lists(
            choice_setting("culling.depthBounds", "Depth bounds", "Path", {"off", "min-max", "mask"}, "mask",
                           "off: a tile reaches from the eye to infinity; min-max: from its nearest to its farthest "
                           "sample; mask: also which 32nds of that hold samples.")),
        on_lists(choice_setting("culling.test", "Bounds test", "Path", {"sphere-planes", "sphere-box"}, "sphere-box",
                                "A light's sphere against the tile's sides, then against its near and far planes, or "
                                "against its view-space box: tighter where depth is bounded.")),
        on_lists(toggle_setting("culling.coneTest", "Cone test", "Path", true,
                                "Spots are also tested as cones against the sphere around the tile's box.")),
        on_lists(whole_setting("culling.listCapacity", "List capacity", "Path", 256, 8, 1024, "lights",
                               "Most lights in a list; those that could give least leave first, and are counted.")),
        on_lists(
            choice_setting("culling.lanes", "Group lanes", "Path", {"auto", "8", "16", "32", "64", "128"}, "auto",
                           "Lanes that cull one tile together: same lists, other cost. auto: 64, or 8 on a software "
                           "device, which runs 8 at once.")),
        on_clusters(whole_setting("cluster.slices", "Cluster slices", "Path", 24, 2, 64, "",
                                  "clustered: depth slices, exponential between near and far.")),
        on_clusters(number_setting("cluster.near", "Cluster near", "Path", 0.5, 0.01, 100.0, "m",
                                   "clustered: where the exponential slices begin; nearer samples go to the first.")
                        .on_ratio()),
        on_clusters(number_setting("cluster.far", "Cluster far", "Path", 120.0, 1.0, 10000.0, "m",
                                   "clustered: where they end; farther samples go to the last.")
                        .on_ratio()),
        on_clusters(
            number_setting("cluster.exponent", "Cluster exponent", "Path", 1.0, 0.25, 4.0, "",
                           "clustered: 1 spaces the slices exponentially; over 1 the near ones are thinner still, "
                           "under 1 thicker.")
                .on_ratio()),
    };
}

const Technique& light_lists() {
    static const Technique technique{
        .name = "light_lists",
        .settings = settings(),
        .counters = {{"sideTests", "Side tests",
                      "culling: lights against the sides of tiles, each tile's rounded up to eights"},
                     {"cells", "Cells", "culling: tiles or clusters that were listed"},
                     {"cellTests", "Cell tests", "culling: lights against the bounds of those, rounded likewise"},
                     {"listEntries", "List entries", "culling: entries written"}},
        .terms = {{"listRead", "a light fetched by an index that differs between pixels", {}},
                  {"cullSample", "a depth sample taken into a tile's bounds", {}},
                  {"slice", "a depth turned into a cluster's slice", {}},
                  {"sideTest", "a light against a tile's sides", {}},
                  {"cell", "a tile or cluster listed", {}},
                  {"cellTest", "a light against a cell's bounds", {}},
                  {"entry", "an entry written into a list", {}}},
        .multisamples = true,
        .plan = plan_light_lists,
        .price = price_light_lists,
    };
    return technique;
}

} // namespace mirolux::technique
