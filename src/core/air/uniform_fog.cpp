#include "core/air/air.h"

namespace mirolux::technique {

static void plan_uniform_fog(const FrameInputs& in, PlanBuilder& b) {
    if (in.setup.choice("air.kind") == "uniform") b.feed(Slot::air, "uniform_fog/fog.glsl", "uniformFog");
}

static void price_uniform_fog(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (plan.feeds_slot(&uniform_fog(), pass)) t["fog"] = static_cast<double>(w.at("airEvaluations"));
}

static void air_of_uniform_fog(const FrameInputs& in, const AirQuestion& q, AirShare& share) {
    if (in.setup.choice("air.kind") != "uniform") return;
    add_fog(medium_of(in), fog_radiance(in.setup, mirolux::ambient_light(in.scene, in.setup, in.view)),
            glm::dvec3(in.view.camera.eye), q, share);
}

const Technique& uniform_fog() {
    static const Technique technique{
        .name = "uniform_fog",
        .terms = {{"fog", "a point's uniform fog toward the eye", {{"air.kind", "uniform"}}, 0.1}},
        .mayFeed = {Slot::air},
        .plan = plan_uniform_fog,
        .price = price_uniform_fog,
        .air = air_of_uniform_fog,
    };
    return technique;
}

} // namespace mirolux::technique
