#include "core/technique/plan_builder.h"

// Points, spots and directional lights: how far they reach and how they end. The formulas are in core/light/falloff.h.
namespace mirolux::technique {

static void plan_punctual_lights(const FrameInputs& in, PlanBuilder& b) {
    b.define(in.setup.choice("light.window") == "squared" ? "WINDOW_SQUARED 1" : "WINDOW_SQUARED 0");
}

const Technique& punctual_lights() {
    static const Technique technique{
        .name = "punctual_lights",
        .settings = {choice_setting(
                         "light.window", "Range window", "Lights", {"squared", "unsquared"}, "squared",
                         "How irradiance ends at a light's range: clamp(1-(d/r)^4)^2, or without the square as "
                         "glTF recommends."),
                     number_setting("light.threshold", "Reach threshold", "Lights", 0.05, 0.0001, 10.0, "lx",
                                    "A light without range reaches as far as its irradiance stays over this; smaller "
                                    "reaches farther and costs more.")
                         .on_ratio(),
                     number_setting("light.fadeInner", "Fade from", "Lights", 0.0, 0.0, 10000.0, "m",
                                    "Lights farther from the eye than this begin to fade; only with a distance for the "
                                    "fade's end."),
                     number_setting("light.fadeOuter", "Fade to", "Lights", 0.0, 0.0, 10000.0, "m",
                                    "From here on lights are not rendered and cost nothing; 0: no fade. A light's own "
                                    "distances go before.")},
        .layers = {{.name = "light",
                    .label = "One light",
                    .help = "What the chosen light alone gives: diffuse and specular.",
                    .view = LayerView::radiance,
                    .file = "surface/layers.glsl",
                    .throughGlass = true,
                    .ofLight = true}},
        .plan = plan_punctual_lights,
    };
    return technique;
}

} // namespace mirolux::technique
