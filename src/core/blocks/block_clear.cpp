#include "core/blocks/block_stage.h"

// Water and glass: what lets light through, over the lit picture.
namespace mirolux::technique {

using namespace blocks;

static void plan_block_clear(const FrameInputs& in, PlanBuilder& b) {
    const std::vector<SeenRun> runs = seen_runs(in, true);
    if (runs.empty()) return;
    PlannedPass pass{.name = "clear blocks",
                     .family = "transparent",
                     .what =
                         "Draws the faces of cells that let light through, lit as the others, over what lies behind.",
                     .reads = {},
                     .writes = {"scene", "depth"},
                     .settings = {"blocks.light"},
                     .expected = work_of(runs)};
    b.pass(std::move(pass));
}

static void price_block_clear(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &block_clear()) return;
    const auto fragments = static_cast<double>(w.at("fragments"));
    t["fetch"] = 6 * fragments;
    t["operation"] = 60 * fragments;
    t[info_of(plan.resource("scene")->spec.format).bytes == 8 ? "blendHalf" : "blendFloat"] =
        fragments * info_of(plan.resource("scene")->spec.format).bytes;
}

const Technique& block_clear() {
    static const Technique technique{
        .name = "block_clear",
        .stages = Stages::blocks,
        .plan = plan_block_clear,
        .price = price_block_clear,
    };
    return technique;
}

} // namespace mirolux::technique
