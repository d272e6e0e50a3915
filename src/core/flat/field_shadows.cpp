#include "core/flat/flat_stage.h"
#include "core/flat/occluder_picture.h"

namespace mirolux::technique {

using namespace flat;

static void plan_field_shadows(const FrameInputs& in, PlanBuilder& b) {
    if (shadow_of(in.setup) != Shadow::field || !b.has("distance field")) return;
    b.set("fieldShape", glm::vec4(in.setup.flag("field.penumbra") ? 1.0f : 0.0f,
                                  static_cast<float>(in.setup.whole("field.steps")), 0, 0));
    b.feed(Slot::flatFactor, "field_shadows/march.glsl", "fieldFactor", {"distance field"});
}

static void price_field_shadows(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (!plan.feeds_slot(&field_shadows(), pass)) return;
    t["fieldStep"] += static_cast<double>(w.at("fieldSteps"));
}

const Technique& field_shadows() {
    static const Technique technique{
        .name = "field_shadows",
        .stages = Stages::flat,
        .settings = {toggle_setting("field.penumbra", "Penumbrae by size", "Shadows", false,
                                    "Shadows soften with the light's size and the distance that they fall: how near "
                                    "the way comes to a wall, over how wide the light is there.")
                         .only_when("flat.shadow", {"field"}),
                     whole_setting("field.steps", "Field steps at most", "Shadows", 64, 8, 256, "",
                                   "A way along a wall takes many short steps: with too few, light there is lost.")
                         .only_when("flat.shadow", {"field"})},
        .counters = {{"fieldSteps", "Field steps", "steps of ways through a distance field"}},
        .terms = {{"fieldStep",
                   "a step of a way through a distance field",
                   {{"flat.kind", "mask"}, {"flat.shadow", "field"}},
                   0.02}},
        .parameters = {"fieldShape"}, // x: 1 penumbrae, y: most steps
        .mayFeed = {Slot::flatFactor},
        .plan = plan_field_shadows,
        .price = price_field_shadows,
    };
    return technique;
}

} // namespace mirolux::technique
