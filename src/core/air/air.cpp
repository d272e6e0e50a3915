#include "core/air/air.h"

namespace mirolux {

glm::dvec3 fog_radiance(const Setup& setup, const AmbientLight& ambient) {
    return glm::dvec3(setup.color("air.albedo")) * mean_radiance(ambient);
}

void set_fog(const FrameInputs& in, PlanBuilder& b, const std::string& parameter) {
    const auto value = [setup = in.setup](const AmbientLight& ambient) {
        return glm::vec4(glm::vec3(fog_radiance(setup, ambient)), static_cast<float>(setup.number("air.extinction")));
    };
    set_by_ambient(in, b, [value, parameter](const AmbientLight& a) { return Parameters{{parameter, value(a)}}; });
}

namespace technique {

/// What all kinds of air share: the choice of one, what the pixel account and the layers show of it.
const Technique& air() {
    static const std::vector<Condition> fog = {{"air.kind", {"uniform", "height"}}},
                                        atmosphere = {{"sky.kind", {"atmosphere"}}, {"sky.perspective", {"on"}}};
    static const Technique technique{
        .name = "air",
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
        .layers = {{.name = "transmittance",
                    .label = "Through",
                    .help = "Share of a surface's light that comes through the air to the eye.",
                    .view = LayerView::plain,
                    .file = "air/layers.glsl",
                    .when = fog,
                    .orWhen = atmosphere},
                   {.name = "airlight",
                    .label = "Air light",
                    .help = "What the air itself sends toward the eye.",
                    .view = LayerView::radiance,
                    .file = "air/layers.glsl",
                    .throughGlass = true,
                    .sky = SkyPart::scattered,
                    .addsUp = true,
                    .when = fog,
                    .orWhen = atmosphere}},
        .mayFeed = {Slot::air},
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
