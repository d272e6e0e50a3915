#include "core/ambient/ambient_light.h"
#include "core/ambient/environment.h"
#include "core/technique/plan_builder.h"

namespace mirolux {

AmbientLight ambient_light(const Setup& setup) {
    const std::string& kind = setup.choice("ambient.kind");
    if (kind == "constant") {
        const glm::vec3 c = setup.color("ambient.constant");
        return {c, c, c};
    }
    if (kind == "gradient")
        return {setup.color("ambient.top"), setup.color("ambient.side"), setup.color("ambient.bottom")};
    return {};
}

AmbientLight ambient_light(const Scene& scene, const Setup& setup, const View& view) {
    AmbientLight a = ambient_light(setup);
    if (setup.choice("ambient.kind") == "environment") {
        a.sky = sky_model(environment_sky(scene, setup, view));
        a.strength = environment_strength(setup);
    }
    return a;
}

glm::dvec3 ambient_radiance(const AmbientLight& a, const glm::dvec3& normal) {
    if (a.sky) return glm::max(harmonic_radiance(a.sky->harmonics(), normal), glm::dvec3(0.0)) * a.strength;
    const double y2 = normal.y * normal.y;
    return glm::dvec3(a.side) * (1.0 - y2) + glm::dvec3(normal.y > 0.0 ? a.top : a.bottom) * y2;
}

glm::dvec3 mean_radiance(const AmbientLight& a) {
    if (a.sky) return a.sky->harmonics()[0] * (0.282095 * a.strength);
    return (4.0 * glm::dvec3(a.side) + glm::dvec3(a.top) + glm::dvec3(a.bottom)) / 6.0;
}

void set_by_ambient(const FrameInputs& in, PlanBuilder& b, std::function<Parameters(const AmbientLight&)> values) {
    if (in.setup.choice("ambient.kind") == "environment") {
        b.set_later([values = std::move(values), sky = environment_sky(in.scene, in.setup, in.view),
                     strength = environment_strength(in.setup)] {
            return values({.sky = sky_model(sky), .strength = strength});
        });
        return;
    }
    for (const auto& [name, value] : values(ambient_light(in.setup)))
        b.set(name, value);
}

namespace technique {

static void plan_ambient_light(const FrameInputs& in, PlanBuilder& b) {
    const std::string& kind = in.setup.choice("ambient.kind");
    if (kind != "constant" && kind != "gradient") return;
    set_by_ambient(in, b, [](const AmbientLight& a) {
        return Parameters{{"ambientTop", glm::vec4(a.top, 0)},
                          {"ambientSide", glm::vec4(a.side, 0)},
                          {"ambientBottom", glm::vec4(a.bottom, 0)}};
    });
    b.feed(Slot::ambientDiffuse, "ambient_light/gradient.glsl", "gradientRadiance");
}

const Technique& ambient_light() {
    static const auto colour = [](const char* key, const char* label, const char* kind, glm::vec3 standard,
                                  const char* help) {
        return color_setting(key, label, "Ambient", standard, 1000.0, "cd/m2", help).only_when("ambient.kind", {kind});
    };
    static const Technique technique{
        .name = "ambient_light",
        .settings = {choice_setting(
                         "ambient.kind", "Ambient", "Ambient", {"none", "constant", "gradient", "environment"},
                         "gradient",
                         "Light from everywhere: none, one colour, three colours by the normal's height, or the "
                         "surroundings: the sky or a picture.")
                         .once_called("sky", "environment"),
                     colour("ambient.constant", "Constant", "constant", {0.2f, 0.2f, 0.2f},
                            "constant: radiance arriving from every direction."),
                     colour("ambient.top", "Top", "gradient", {0.30f, 0.30f, 0.30f},
                            "gradient: radiance on surfaces that face up."),
                     colour("ambient.side", "Side", "gradient", {0.20f, 0.20f, 0.20f},
                            "gradient: radiance on surfaces that face sideways."),
                     colour("ambient.bottom", "Bottom", "gradient", {0.12f, 0.12f, 0.12f},
                            "gradient: radiance on surfaces that face down.")},
        .parameters = {"ambientTop", "ambientSide", "ambientBottom"}, // cd/m2
        .mayFeed = {Slot::ambientDiffuse},
        .plan = plan_ambient_light,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
