#include "core/air/height_fog.h"
#include "core/air/air.h"
#include <cmath>

namespace mirolux {

HeightFog height_fog(const Setup& setup, const AmbientLight& ambient) {
    HeightFog fog;
    fog.on = setup.choice("air.kind") == "height";
    fog.extinction = setup.number("air.extinction");
    fog.height = setup.number("air.height");
    fog.base = setup.number("air.base");
    fog.scattered = fog_radiance(setup, ambient);
    return fog;
}

double density(const HeightFog& fog, double y) {
    return std::exp(-std::max(y - fog.base, 0.0) / fog.height);
}

/// Integral of the density over height, from the base up.
static double column(const HeightFog& fog, double y) {
    const double over = y - fog.base;
    return over < 0 ? over : fog.height * (1 - std::exp(-over / fog.height));
}

double transmittance(const HeightFog& fog, const glm::dvec3& from, const glm::dvec3& to) {
    if (!fog.on) return 1;
    const double metres = glm::length(to - from), rise = to.y - from.y;
    const double mean =
        std::abs(rise) < 1e-6 ? density(fog, 0.5 * (from.y + to.y)) : (column(fog, to.y) - column(fog, from.y)) / rise;
    return std::exp(-fog.extinction * mean * metres);
}

double transmittance_of_ray(const HeightFog& fog, const glm::dvec3& from, const glm::dvec3& direction) {
    if (!fog.on) return 1;
    if (direction.y <= 0) return 0;
    return std::exp(-fog.extinction * (fog.height - column(fog, from.y)) / direction.y);
}

namespace technique {

static HeightFog height_fog_of(const FrameInputs& in) {
    if (in.setup.choice("air.kind") != "height") return {};
    return mirolux::height_fog(in.setup, mirolux::ambient_light(in.scene, in.setup, in.view));
}

static void plan_height_fog(const FrameInputs& in, PlanBuilder& b) {
    if (in.setup.choice("air.kind") != "height") return;
    set_fog(in, b, "heightFog");
    b.set("heightFogShape",
          {static_cast<float>(in.setup.number("air.base")), static_cast<float>(in.setup.number("air.height")), 0, 0});
    b.feed(Slot::air, "height_fog/fog.glsl", "heightFog");
}

static void price_height_fog(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (plan.feeds_slot(&height_fog(), pass)) t["heightFog"] = static_cast<double>(w.at("airEvaluations"));
}

static void air_of_height_fog(const FrameInputs& in, const glm::dvec3& point, bool sky, AirShare& share) {
    const HeightFog fog = height_fog_of(in);
    if (!fog.on) return;
    const glm::dvec3 eye(in.view.camera.eye);
    const double t = sky ? transmittance_of_ray(fog, eye, glm::normalize(point - eye)) : transmittance(fog, eye, point);
    share.add(glm::dvec3(t), (1.0 - t) * fog.scattered);
}

const Technique& height_fog() {
    static const Technique technique{
        .name = "height_fog",
        .settings = {number_setting("air.height", "Height", "Air", 12, 0.5, 2000, "m",
                                    "height: metres in which the fog thins out to 1/e over its base.")
                         .on_ratio()
                         .only_when("air.kind", {"height"}),
                     number_setting("air.base", "Base", "Air", 0, -1000, 1000, "m",
                                    "height: where the fog is as dense as its extinction says; below it no denser.")
                         .only_when("air.kind", {"height"})},
        .terms = {{"heightFog", "a point's fog by height toward the eye", {{"air.kind", "height"}}, 0.15}},
        .parameters = {"heightFog",       // xyz: scattered, cd/m2; w: extinction, 1/m
                       "heightFogShape"}, // base, height, m
        .mayFeed = {Slot::air},
        .plan = plan_height_fog,
        .price = price_height_fog,
        .air = air_of_height_fog,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
