#include "core/path/surface_pass.h"

// Ambient light of deferred paths where something on the screen takes part in it: the G-buffer's pass cannot know that
// yet, and leaves it to a pass of its own.
namespace mirolux::technique {

static void plan_deferred_ambient(const FrameInputs& in, PlanBuilder& b) {
    if (!lays_ambient_later(in)) return;
    b.pass({.name = "ambient light",
            .family = "ambient",
            .what = "Adds ambient light to the surfaces of the G-buffer.",
            .reads = {"depth", "base colour, metallic", "normal", "roughness, unlit"},
            .writes = with_diffuse_light(b, with_mirror_shares(b, {"scene"})),
            .settings = {"ambient.kind", "occlusion.kind", "shading.model"},
            .expected = screen_work(),
            .called = unlit_slots});
}

static void price_deferred_ambient(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &deferred_ambient()) return;
    const auto fragments = static_cast<double>(w.at("fragments"));
    t["run"] = 1;
    t["decode"] = fragments;
    t[blend_term(plan)] = fragments * scene_bytes(plan);
    price_mirror_shares(plan, pass, w, t);
    price_diffuse_light(pass, fragments, true, t);
}

const Technique& deferred_ambient() {
    static const Technique technique{
        .name = "deferred_ambient", .plan = plan_deferred_ambient, .price = price_deferred_ambient};
    return technique;
}

} // namespace mirolux::technique
