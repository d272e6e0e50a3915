#include "core/flat/flat_stage.h"
#include "core/flat/occluder_picture.h"

namespace mirolux::technique {

using namespace flat;

static void plan_marched_shadows(const FrameInputs& in, PlanBuilder& b) {
    if (shadow_of(in.setup) != Shadow::march || !b.has("occluders")) return;
    b.feed(Slot::flatFactor, "marched_shadows/march.glsl", "marchFactor", {"occluders"});
}

static void price_marched_shadows(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (!plan.feeds_slot(&marched_shadows(), pass)) return;
    t["marchedCell"] += static_cast<double>(w.at("cellsMarched"));
}

const Technique& marched_shadows() {
    static const Technique technique{
        .name = "marched_shadows",
        .stages = Stages::flat,
        .counters = {{"cellsMarched", "Cells marched", "cells of the occluder picture that ways to lights pass"}},
        .terms = {{"marchedCell",
                   "a cell of the occluder picture on a way to a light",
                   {{"flat.kind", "mask"}, {"flat.shadow", "march"}},
                   0.01}},
        .mayFeed = {Slot::flatFactor},
        .plan = plan_marched_shadows,
        .price = price_marched_shadows,
    };
    return technique;
}

} // namespace mirolux::technique
