#include "core/blocks/block_stage.h"

// Cells as merged rectangles: what is opaque into targets, what lets light through over the lit picture.
namespace mirolux::technique {

using namespace blocks;

static void plan_block_mesh(const FrameInputs& in, PlanBuilder& b) {
    if (in.setup.choice("blocks.draw") != "mesh") return;
    b.pass({.name = "blocks",
            .family = "opaque",
            .what = "Draws the faces of cells that look toward the eye, merged into rectangles, with their material.",
            .writes = {"block surface", "depth"},
            .settings = {"blocks.draw"},
            .expected = work_of(seen_runs(in, false))});
}

static void price_block_mesh(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &block_mesh()) return;
    const auto fragments = static_cast<double>(w.at("fragments"));
    const PlannedResource& depth = *plan.resource("depth");
    t["writeUnorm"] = 4 * fragments;
    t["writeDepth"] = 4 * fragments;
    t["clear"] = 8.0 * depth.width * depth.height;
}

const Technique& block_mesh() {
    static const Technique technique{
        .name = "block_mesh",
        .stages = Stages::blocks,
        .layers = {{.name = "blockDepth",
                    .label = "Depth",
                    .help = "Distance along the view axis, near white to far black.",
                    .view = LayerView::depth,
                    .resource = "depth"}},
        .plan = plan_block_mesh,
        .price = price_block_mesh,
    };
    return technique;
}

} // namespace mirolux::technique
