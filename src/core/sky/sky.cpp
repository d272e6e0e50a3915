#include "core/sky/sky.h"
#include "core/path/surface_pass.h"

namespace mirolux {

glm::dvec3 sky_radiance(const Sky& sky, const glm::dvec3& direction) {
    const double height = 1.0 - std::exp(-4.0 * std::max(direction.y, 0.0));
    return glm::mix(glm::dvec3(sky.horizon), glm::dvec3(sky.zenith), height);
}

namespace technique {

static void plan_sky(const FrameInputs& in, PlanBuilder& b) {
    b.set("skyHorizon", glm::vec4(in.scene.sky.horizon, 0));
    b.set("skyZenith", glm::vec4(in.scene.sky.zenith, 0));
    b.pass({.name = "sky",
            .family = "sky",
            .what = "Fills what no surface covers.",
            .reads = {"depth"},
            .writes = {"scene"},
            .settings = {},
            .expected = screen_work(),
            .called = {Slot::air}});
}

static void price_sky(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &sky()) return;
    const auto fragments = static_cast<double>(w.at("fragments"));
    t["sky"] = fragments;
    t["hidden"] = std::max(0.0, plan.pixels() - fragments);
    t[write_term(plan)] = fragments * scene_bytes(plan);
}

const Technique& sky() {
    static const Technique technique{
        .name = "sky",
        .terms = {{"sky", "a pixel of sky", {}}},
        .parameters = {"skyHorizon", "skyZenith"}, // cd/m2
        .plan = plan_sky,
        .price = price_sky,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
