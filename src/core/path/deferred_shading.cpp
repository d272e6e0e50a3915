#include "core/path/surface_pass.h"

namespace mirolux::technique {

static void plan_deferred_shading(const FrameInputs& in, PlanBuilder& b) {
    const PathKind& path = path_kind(in.setup);
    if (!path.deferred || in.setup.choice("path.kind") == "volumes") return;
    std::vector<std::string> reads = {"depth", "base colour, metallic", "normal", "roughness, unlit"};
    if (path.lists) reads.push_back("light lists");
    b.pass(
        {.name = "shading",
         .family = "lights",
         .what = path.lists ? "Shades each pixel with the lights of its list." : "Shades each pixel with every light.",
         .reads = reads,
         .writes = with_diffuse_light(b, {"scene"}),
         .settings = joined_keys({"path.kind"}, shading_keys()),
         .expected = screen_work(),
         .called = added_light_slots,
         .inLedger = true});
}

static void price_deferred_shading(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &deferred_shading()) return;
    const auto fragments = static_cast<double>(w.at("fragments"));
    t["decode"] = fragments;
    price_lights(plan, w, path_kind(plan.setup).lists, t);
    t[blend_term(plan)] = fragments * scene_bytes(plan);
    price_diffuse_light(pass, fragments, true, t);
}

const Technique& deferred_shading() {
    static const Technique technique{
        .name = "deferred_shading",
        .terms = {{"decode", "a pixel's surface taken from the G-buffer", {}}},
        .plan = plan_deferred_shading,
        .price = price_deferred_shading,
    };
    return technique;
}

} // namespace mirolux::technique
