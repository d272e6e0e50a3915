#include "core/blocks/block_stage.h"

// Light by the direction of faces alone.
namespace mirolux::technique {

using namespace blocks;

static void plan_block_faces(const FrameInputs& in, PlanBuilder& b) {
    if (way_of(in.setup) == Way::faces)
        b.pass(light_pass("Lights each pixel by the direction of its face: the sun, and light from everywhere.", {}));
}

static void price_block_faces(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique == &block_faces()) price_light_pass(plan, w, 1, 40, t);
}

const Technique& block_faces() {
    static const Technique technique{
        .name = "block_faces", .stages = Stages::blocks, .plan = plan_block_faces, .price = price_block_faces};
    return technique;
}

} // namespace mirolux::technique
