#include "core/air/air_lists.h"
#include "core/air/air.h"

namespace mirolux {

cull::GridSettings air_grid_settings(const Setup& setup) {
    cull::GridSettings s;
    const bool froxels = setup.choice("air.kind") == "froxels";
    s.tile = froxels ? 8 * setup.whole("air.cell") : 32; // the columns that one group of lanes lights
    s.depthBounds = cull::DepthBounds::off;
    s.capacity = setup.whole("culling.listCapacity");
    s.slices = froxels ? 16 : 1;
    if (froxels) {
        s.sliceFar = static_cast<float>(setup.number("air.far"));
        s.sliceNear = s.sliceFar / 64;
    }
    return s;
}

cull::GridShape air_grid_shape(const Setup& setup, const View& view, const DrawList& list) {
    const cull::GridSettings s = air_grid_settings(setup);
    cull::GridShape g;
    g.columns = (view.width + s.tile - 1) / s.tile;
    g.rows = (view.height + s.tile - 1) / s.tile;
    g.slices = s.slices;
    g.capacity = std::min(s.capacity, std::max(8, static_cast<int>(list.lights.size()) - list.directional));
    return g;
}

namespace technique {

static void plan_air_lists(const FrameInputs& in, PlanBuilder& b) {
    if (!air_shows_lamps(in.setup)) return;
    b.resource({.name = air_lists_resource,
                .format = Format::words,
                .entries = air_grid_shape(in.setup, in.view, in.draws).stride()});
    b.pass({.name = "lights of the air",
            .family = "culling",
            .what = "Lists the lights of each column of the view, in slices of depth where the air has cells.",
            .writes = {air_lists_resource},
            .settings = {"air.kind", "air.cell", "air.far", "culling.listCapacity"}});
}

static void price_air_lists(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &air_lists()) return;
    const cull::GridSettings s = air_grid_settings(plan.setup);
    const View& v = plan.view;
    t["group"] = double(plan.eyes()) * ((v.width + s.tile - 1) / s.tile) * ((v.height + s.tile - 1) / s.tile);
    t["sideTest"] = static_cast<double>(w.at("sideTests"));
    t["cell"] = static_cast<double>(w.at("cells"));
    t["cellTest"] = static_cast<double>(w.at("cellTests"));
    t["entry"] = static_cast<double>(w.at("listEntries"));
    for (const char* none : {"draw", "vertex", "triangle", "fragment"})
        t[none] = 0;
}

const Technique& air_lists() {
    static const Technique technique{
        .name = "air_lists",
        .plan = plan_air_lists,
        .price = price_air_lists,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
