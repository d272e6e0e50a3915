#include "core/air/air.h"

namespace mirolux::technique {

static void plan_height_fog(const FrameInputs& in, PlanBuilder& b) {
    if (in.setup.choice("air.kind") == "height") b.feed(Slot::air, "height_fog/fog.glsl", "heightFog");
}

static void price_height_fog(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (plan.feeds_slot(&height_fog(), pass)) t["heightFog"] = static_cast<double>(w.at("airEvaluations"));
}

static void air_of_height_fog(const FrameInputs& in, const AirQuestion& q, AirShare& share) {
    if (in.setup.choice("air.kind") != "height") return;
    add_fog(medium_of(in), fog_radiance(in.setup, mirolux::ambient_light(in.scene, in.setup, in.view)),
            glm::dvec3(in.view.camera.eye), q, share);
}

const Technique& height_fog() {
    static const Technique technique{
        .name = "height_fog",
        .terms = {{"heightFog", "a point's fog by height toward the eye", {{"air.kind", "height"}}, 0.15}},
        .mayFeed = {Slot::air},
        .plan = plan_height_fog,
        .price = price_height_fog,
        .air = air_of_height_fog,
    };
    return technique;
}

} // namespace mirolux::technique
