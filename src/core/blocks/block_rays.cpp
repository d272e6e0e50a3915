#include "core/blocks/block_stage.h"

// Cells met by rays through a sparse tree, into the targets that rectangles fill.
namespace mirolux::technique {

using namespace blocks;

static void plan_block_rays(const FrameInputs& in, PlanBuilder& b) {
    if (in.setup.choice("blocks.draw") != "rays") return;
    b.pass({.name = "blocks",
            .family = "opaque",
            .what = "A ray for each pixel steps through the tree of cells, over what is empty in strides of 4, 16, 64.",
            .reads = {},
            .writes = {"block surface", "depth"},
            .settings = {"blocks.draw"},
            .expected = screen_work()});
}

static void price_block_rays(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &block_rays()) return;
    const auto steps = static_cast<double>(w.at("cellSteps"));
    const PlannedResource& depth = *plan.resource("depth");
    const double pixels = double(depth.width) * depth.height;
    t["fetch"] = 3 * steps;
    t["operation"] = 45 * steps;
    t["writeUnorm"] = 4 * pixels;
    t["writeDepth"] = 4 * pixels;
}

const Technique& block_rays() {
    static const Technique technique{
        .name = "block_rays",
        .stages = Stages::blocks,
        .counters = {{"cellSteps", "Cells stepped", "steps of rays through the tree of cells"}},
        .plan = plan_block_rays,
        .price = price_block_rays,
    };
    return technique;
}

} // namespace mirolux::technique
