#include "core/path/surface_pass.h"

namespace mirolux::technique {

static void plan_sorted_transparency(const FrameInputs& in, PlanBuilder& b) {
    if (in.draws.blended.empty() || in.setup.choice("transparency.kind") != "sorted") return;
    std::vector<std::string> reads = {"depth"};
    if (path_kind(in.setup).lists) reads.push_back("light lists");
    b.pass({.name = "transparent",
            .family = "transparent",
            .what = "Draws blended surfaces, farthest first, each with its lights.",
            .reads = reads,
            .writes = {"scene"},
            .settings = joined_keys({"transparency.kind", "path.maxLights"}, shading_keys()),
            .expected = work_of(in, in.draws.blended),
            .called = blended_slots,
            .overGeometry = true});
}

static void price_sorted_transparency(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &sorted_transparency()) return;
    price_surface(w, t);
    price_lights(plan, w, true, t);
    t[blend_term(plan)] = static_cast<double>(w.at("fragments")) * scene_bytes(plan);
}

const Technique& sorted_transparency() {
    static const Technique technique{
        .name = "sorted_transparency",
        .settings = {choice_setting(
            "transparency.kind", "Transparency", "Path", {"sorted", "peeled"}, "sorted",
            "sorted: blended objects, farthest centre first; peeled: nearest fragments first, "
            "layer by layer, right where surfaces cross or nest, at one draw of them all a layer.")},
        .multisamples = true,
        .plan = plan_sorted_transparency,
        .price = price_sorted_transparency,
    };
    return technique;
}

} // namespace mirolux::technique
