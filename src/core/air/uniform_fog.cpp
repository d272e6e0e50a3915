#include "core/air/uniform_fog.h"
#include "core/ambient/ambient_light.h"
#include "core/technique/plan_builder.h"
#include <cmath>

namespace mirolux {

UniformFog uniform_fog(const Setup& setup, const AmbientLight& ambient) {
    UniformFog fog;
    fog.on = setup.choice("air.kind") == "uniform";
    fog.extinction = setup.number("air.extinction");
    fog.scattered = glm::dvec3(setup.color("air.albedo")) * mean_radiance(ambient);
    return fog;
}

double transmittance(const UniformFog& fog, double metres) {
    return fog.on ? std::exp(-fog.extinction * metres) : 1.0;
}

namespace technique {

static UniformFog uniform_fog_of(const FrameInputs& in) {
    if (in.setup.choice("air.kind") != "uniform") return {};
    return mirolux::uniform_fog(in.setup, mirolux::ambient_light(in.scene, in.setup, in.view));
}

static void plan_uniform_fog(const FrameInputs& in, PlanBuilder& b) {
    const mirolux::UniformFog fog = uniform_fog_of(in);
    if (!fog.on) return;
    b.set("uniformFog", glm::vec4(glm::vec3(fog.scattered), static_cast<float>(fog.extinction)));
    b.feed(Slot::air, "uniform_fog/fog.glsl", "uniformFog");
}

static void price_uniform_fog(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (plan.feeds_slot(&uniform_fog(), pass)) t["fog"] = static_cast<double>(w.at("airEvaluations"));
}

static void air_of_uniform_fog(const FrameInputs& in, const glm::dvec3& point, bool sky, AirShare& share) {
    const UniformFog fog = uniform_fog_of(in);
    if (!fog.on) return;
    const double t = sky ? 0.0 // it is endlessly far
                         : transmittance(fog, glm::length(point - glm::dvec3(in.view.camera.eye)));
    share.transmittance *= t;
    share.scattered = share.scattered * t + (1.0 - t) * fog.scattered;
}

const Technique& uniform_fog() {
    static const std::vector<Condition> on = {{"air.kind", {"uniform", "height"}}},
                                        atmosphere = {{"sky.kind", {"atmosphere"}}, {"sky.perspective", {"on"}}};
    static const Technique technique{
        .name = "uniform_fog",
        .settings = {choice_setting(
                         "air.kind", "Air", "Air", {"none", "uniform", "height"}, "none",
                         "none: clear; uniform: fog of one density everywhere; height: fog that thins out upward; "
                         "both lit by the ambient light, before every surface and the sky."),
                     number_setting("air.extinction", "Extinction", "Air", 0.02, 0.0001, 10.0, "1/m",
                                    "Share of light that a metre of fog takes away; 0.02 leaves a third after 50 m.")
                         .on_ratio()
                         .only_when("air.kind", {"uniform", "height"}),
                     color_setting("air.albedo", "Albedo", "Air", {0.92f, 0.95f, 1.0f}, 1.0, "",
                                   "Share of that light that the fog scatters instead of swallowing it.")
                         .only_when("air.kind", {"uniform", "height"})},
        .counters = {{"airEvaluations", "Air evaluations", "points whose air toward the eye was evaluated"}},
        .terms = {{"fog", "a point's uniform fog toward the eye", {{"air.kind", "uniform"}}, 0.1}},
        .layers = {{.name = "transmittance",
                    .label = "Through air",
                    .help = "Share of a surface's light that comes through the air to the eye.",
                    .view = LayerView::plain,
                    .file = "uniform_fog/fog_layers.glsl",
                    .when = on,
                    .orWhen = atmosphere},
                   {.name = "airlight",
                    .label = "Air light",
                    .help = "What the air itself sends toward the eye.",
                    .view = LayerView::radiance,
                    .file = "uniform_fog/fog_layers.glsl",
                    .throughGlass = true,
                    .sky = SkyPart::scattered,
                    .addsUp = true,
                    .when = on,
                    .orWhen = atmosphere}},
        .parameters = {"uniformFog"}, // xyz: scattered, cd/m2; w: extinction, 1/m
        .mayFeed = {Slot::air},
        .plan = plan_uniform_fog,
        .price = price_uniform_fog,
        .air = air_of_uniform_fog,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
