#include "core/air/air.h"
#include <cmath>

namespace mirolux {

AirMedium medium_of(const FrameInputs& in) {
    return medium(in.setup, in.scene.volumes, in.view.seconds);
}

glm::dvec3 fog_radiance(const Setup& setup, const AmbientLight& ambient) {
    const AirMedium m = medium(setup);
    return m.albedo * mean_radiance(ambient) + (m.extinction > 0 ? m.emission / m.extinction : glm::dvec3(0.0));
}

double AirBall::ahead(const glm::dvec3& from, const glm::dvec3& direction) const {
    if (radius <= 0) return std::numeric_limits<double>::infinity();
    const glm::dvec3 o = from - center;
    const double b = glm::dot(o, direction), c = glm::dot(o, o) - radius * radius;
    return std::max(0.0, -b + std::sqrt(std::max(0.0, b * b - c)));
}

AirBall air_ball(const Box& scene, const std::vector<Light>& lights, const glm::vec3& eye) {
    if (scene.empty()) return {};
    Box all = scene;
    for (const Light& l : lights)
        if (l.enabled && l.type != LightType::directional) all.add(l.position);
    all.add(eye);
    return {glm::dvec3(all.center()), 0.5 * double(glm::length(all.size())) * 1.001};
}

double air_share(const Light& light, const Setup& setup) {
    return light.airShare ? double(*light.airShare) : setup.number("air.lampShare");
}

bool air_shows_lamps(const Setup& setup) {
    const std::string& kind = setup.choice("air.kind");
    return kind == "froxels" || (kind == "uniform" && setup.choice("air.lamps") == "closed-form");
}

void add_fog(const AirMedium& m, const glm::dvec3& deep, const glm::dvec3& from, const AirQuestion& q,
             AirShare& share) {
    const double t =
        q.sky ? transmittance_of_ray(m, from, glm::normalize(q.point - from)) : transmittance(m, from, q.point);
    share.add(glm::dvec3(t), (1.0 - t) * deep);
}

namespace technique {

static void plan_air(const FrameInputs& in, PlanBuilder& b) {
    const AirMedium m = medium_of(in);
    if (!m.on()) return;
    const auto vec = [](const glm::dvec3& v, double w) { return glm::vec4(glm::vec3(v), static_cast<float>(w)); };
    b.set("airFog", vec(m.albedo, m.extinction));
    b.set("airShape",
          vec({m.base, m.height, m.shape == AirShape::byHeight ? 1 : 0}, static_cast<double>(m.volumes.size())));
    b.set("airPhase", vec({m.phase.first, m.phase.second, m.phase.share}, 0));
    b.set("airEmission", vec(m.emission, 0));
    const AirBall ball = air_ball(in.scene.bounds(), in.scene.lights, in.view.camera.eye);
    b.set("airBall", vec(ball.center, ball.radius > 0 ? ball.radius : 1e6));
    set_by_ambient(in, b, [](const AmbientLight& a) {
        return Parameters{{"airAmbient", glm::vec4(glm::vec3(mean_radiance(a)), 0)}};
    });
}

/// What all kinds of air share: the choice of one, its numbers, what the pixel account and the layers show of it.
const Technique& air() {
    static const std::vector<std::string> any = {"uniform", "height", "froxels"};
    static const std::vector<Condition> fog = {{"air.kind", any}},
                                        atmosphere = {{"sky.kind", {"atmosphere"}}, {"sky.perspective", {"on"}}};
    static const Technique technique{
        .name = "air",
        .settings = {choice_setting(
                         "air.kind", "Air", "Air", {"none", "uniform", "height", "froxels"}, "none",
                         "none: clear; uniform: fog of one density everywhere; height: fog that thins out upward, "
                         "both lit from everywhere; froxels: cells of air that lamps light, through shadows."),
                     number_setting("air.extinction", "Extinction", "Air", 0.02, 0.0001, 10.0, "1/m",
                                    "Share of light that a metre of fog takes away; 0.02 leaves a third after 50 m.")
                         .on_ratio()
                         .only_when("air.kind", any),
                     color_setting("air.albedo", "Albedo", "Air", {0.92f, 0.95f, 1.0f}, 1.0, "",
                                   "Share of that light that the fog scatters instead of swallowing it.")
                         .only_when("air.kind", any),
                     choice_setting("air.profile", "Profile", "Air", {"even", "height"}, "even",
                                    "froxels: one density everywhere, or thinning out upward.")
                         .only_when("air.kind", {"froxels"}),
                     number_setting("air.height", "Height", "Air", 12, 0.5, 2000, "m",
                                    "By height: metres in which the fog thins out to 1/e over its base.")
                         .on_ratio()
                         .only_when("air.kind", {"height", "froxels"}),
                     number_setting("air.base", "Base", "Air", 0, -1000, 1000, "m",
                                    "By height: where the fog is as dense as its extinction says; below it no denser.")
                         .only_when("air.kind", {"height", "froxels"})},
        .counters = {{"airEvaluations", "Air evaluations", "points whose air toward the eye was evaluated"}},
        .layers = {{.name = "transmittance",
                    .label = "Through",
                    .help = "Share of a surface's light that comes through the air to the eye.",
                    .view = LayerView::plain,
                    .file = "air/layers.glsl",
                    .role = "multiplies all but air light",
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
        .parameters = {"airFog",      // xyz: albedo; w: extinction, 1/m
                       "airShape",    // base and height, m; 1: by height; volumes
                       "airPhase",    // mean cosine of both lobes, share of the second
                       "airEmission", // cd/m2 a metre
                       "airAmbient",  // mean radiance from everywhere, cd/m2
                       "airBall"},    // where the air around the scene ends: centre and radius, m
        .mayFeed = {Slot::air},
        .plan = plan_air,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
