#include "core/air/uniform_fog.h"
#include "core/air/air.h"
#include <cmath>

namespace mirolux {

UniformFog uniform_fog(const Setup& setup, const AmbientLight& ambient) {
    UniformFog fog;
    fog.on = setup.choice("air.kind") == "uniform";
    fog.extinction = setup.number("air.extinction");
    fog.scattered = fog_radiance(setup, ambient);
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
    if (in.setup.choice("air.kind") != "uniform") return;
    set_fog(in, b, "uniformFog");
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
    share.add(glm::dvec3(t), (1.0 - t) * fog.scattered);
}

const Technique& uniform_fog() {
    static const Technique technique{
        .name = "uniform_fog",
        .terms = {{"fog", "a point's uniform fog toward the eye", {{"air.kind", "uniform"}}, 0.1}},
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
