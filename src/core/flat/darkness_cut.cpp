#include "core/flat/flat_stage.h"

namespace mirolux::technique {

using namespace flat;

static void plan_darkness_cut(const FrameInputs& in, PlanBuilder& b) {
    if (way_of(in.setup) != Way::cut) return;
    b.set("flatCut", glm::vec4(static_cast<float>(in.setup.number("cut.opacity")), 0, 0, 0));
    b.resource(light_target(in, "darkness", "darkness"));
    b.pass(lights_pass(in, "holes", "darkness", "Fills the dark layer and subtracts each light from it.",
                       {"cut.opacity"}));
    b.pass(
        shown_pass(in, "darken", {"darkness"}, "Lays the dark layer over the scene.", {"mask.scale", "mask.filter"}));
}

static void price_darkness_cut(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &darkness_cut()) return;
    if (pass.name == "darken")
        price_shown_pass(plan, w, 5, t);
    else
        price_lights_pass(plan, w, t);
}

const Technique& darkness_cut() {
    static const Technique technique{
        .name = "darkness_cut",
        .stages = Stages::flat,
        .settings = {number_setting("cut.opacity", "Darkness", "Path", 0.85, 0.0, 1.0, "",
                                    "How much of the scene the dark layer hides where no light falls; lights are "
                                    "subtracted from it.")
                         .only_when("flat.kind", {"cut"})},
        .layers = {{.name = "darkness",
                    .label = "Darkness",
                    .help = "The dark layer with the holes that lights cut: white hides the scene.",
                    .view = LayerView::color,
                    .resource = "darkness",
                    .when = {{"flat.kind", {"cut"}}}}},
        .parameters = {"flatCut"}, // x: opacity
        .plan = plan_darkness_cut,
        .price = price_darkness_cut,
    };
    return technique;
}

} // namespace mirolux::technique
