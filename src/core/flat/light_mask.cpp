#include "core/flat/flat_stage.h"

namespace mirolux::technique {

using namespace flat;

static void plan_light_mask(const FrameInputs& in, PlanBuilder& b) {
    b.set("flatMask", glm::vec4(in.setup.choice("mask.filter") == "smooth" ? 1.0f : 0.0f,
                                static_cast<float>(mask_scale(in.setup)), 0, 0));
    if (way_of(in.setup) != Way::mask) return;
    b.resource(light_target(in, "light mask", "lightMask"));
    b.pass(lights_pass(in, "lights", "light mask", "Fills the mask with ambient light and joins each light to it.",
                       {"mask.blend", "flat.ambient"}));
    b.pass(shown_pass(in, "multiply", {"light mask"}, "Multiplies the scene by the mask, no more than 1.",
                      {"mask.scale", "mask.filter"}));
}

static void price_light_mask(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &light_mask()) return;
    if (pass.name == "multiply")
        price_shown_pass(plan, w, 4, t);
    else
        price_lights_pass(plan, w, t);
}

const Technique& light_mask() {
    static const Technique technique{
        .name = "light_mask",
        .stages = Stages::flat,
        .settings =
            {choice_setting("mask.scale", "Mask size 1 /", "Path", {"1", "2", "4", "8", "16"}, "1",
                            "Pixels of the picture along one of the mask's: cost falls with its square, edges of light "
                            "and shadow grow coarse.")
                 .only_when("flat.kind", {"mask", "cut", "grade"}),
             choice_setting("mask.filter", "Mask stretched", "Path", {"nearest", "smooth"}, "smooth",
                            "How a small mask is stretched over the picture: in blocks, or bilinear at four reads a "
                            "pixel.")
                 .only_when("flat.kind", {"mask", "cut", "grade"})
                 .only_when("mask.scale", {"2", "4", "8", "16"}),
             choice_setting(
                 "mask.area", "A light is drawn on", "Path", {"reach", "screen"}, "reach",
                 "reach: the box that it reaches; screen: the whole mask, as one pass a light costs that knows "
                 "no bounds.")
                 .only_when("flat.kind", {"mask", "cut", "grade"})
                 .only_when("flat.shadow", {"none", "polar", "field", "march"}),
             choice_setting(
                 "mask.blend", "Lights joined", "Path", {"add", "screen", "largest"}, "add",
                 "add: they sum and wash out where many meet; screen: 1 - product of (1 - light), never over "
                 "1; largest: the strongest of each channel wins.")
                 .only_when("flat.kind", {"mask"})},
        .layers = {{.name = "lightmask",
                    .label = "Mask",
                    .help = "Ambient and all lights: what the scene is multiplied by.",
                    .view = LayerView::color,
                    .resource = "light mask",
                    .when = {{"flat.kind", {"mask"}}}},
                   {.name = "lamplight",
                    .label = "One light",
                    .help = "What the chosen light gives by itself, with its shadows: 1 shows sheets as they are.",
                    .view = LayerView::color,
                    .file = "flat_stage/lights_fragment.glsl",
                    .ofLight = true}},
        .parameters = {"flatMask"}, // x: 1 smooth, y: scale
        .plan = plan_light_mask,
        .price = price_light_mask,
    };
    return technique;
}

} // namespace mirolux::technique
