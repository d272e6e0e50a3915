#include "core/air/air.h"
#include <cmath>

namespace mirolux::technique {

static bool dims(const Setup& setup) {
    return setup.choice("air.kind") != "none" && setup.flag("air.dimsLights");
}

static void plan_air_dimming(const FrameInputs& in, PlanBuilder& b) {
    if (dims(in.setup)) b.feed(Slot::lightFactor, "air_dimming/dimming.glsl", "dimmedOnItsWay");
}

static void price_air_dimming(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (plan.feeds_slot(&air_dimming(), pass)) t["airDimming"] = static_cast<double>(w.at("airDimmings"));
}

static void factors_of_air(const FrameInputs& in, const SurfaceSample& s, std::size_t light,
                           std::vector<LightFactor>& out) {
    if (!dims(in.setup)) return;
    const AirMedium m = medium_of(in);
    const Light& l = in.draws.lights[light];
    const glm::dvec3 from(s.position), toLight = -glm::dvec3(l.direction);
    const glm::dvec3 to =
        l.type != LightType::directional
            ? glm::dvec3(l.position)
            : from + toLight *
                         std::min(air_ball(in.scene.bounds(), in.scene.lights, in.view.camera.eye).ahead(from, toLight),
                                  1e6);
    out.push_back({"air", glm::dvec3(transmittance(m, from, to))});
}

/// Fog on the way from lamps to surfaces.
const Technique& air_dimming() {
    static const Technique technique{
        .name = "air_dimming",
        .settings = {toggle_setting("air.dimsLights", "Fog dims lamps", "Air", false,
                                    "The scene's fog also takes away light on its way from each lamp to surfaces: "
                                    "true, and one more exponential a light.")
                         .only_when("air.kind", {"uniform", "height", "froxels"})},
        .counters = {{"airDimmings", "Lights dimmed", "lights whose way through the fog to a surface was evaluated"}},
        .terms = {{"airDimming",
                   "a light's way through the fog to a surface",
                   {{"air.kind", "height"}, {"air.dimsLights", "on"}},
                   0.15}},
        .mayFeed = {Slot::lightFactor},
        .plan = plan_air_dimming,
        .price = price_air_dimming,
        .factors = factors_of_air,
    };
    return technique;
}

} // namespace mirolux::technique
