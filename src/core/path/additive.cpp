#include "core/path/surface_pass.h"

namespace mirolux::technique {

static void plan_additive(const FrameInputs& in, PlanBuilder& b) {
    if (in.setup.choice("path.kind") != "additive") return;
    const bool laid = lays_depth_first(in.setup);
    b.pass({.name = "ambient",
            .family = "opaque",
            .what = "Draws opaque and masked surfaces with ambient light and their own emission.",
            .reads = laid ? std::vector<std::string>{"depth"} : std::vector<std::string>{},
            .writes = with_diffuse_light(b, with_mirror_shares(b, {"scene", "depth"})),
            .settings = {"path.kind", "path.targetFormat", "shading.normalMaps"},
            .expected = work_of(in, in.draws.opaque),
            .called = unlit_slots,
            .overGeometry = true,
            .inLedger = true,
            .laidDepth = laid});
    Work lights;
    for (const LightDraws& per : in.draws.perLight) {
        std::vector<Draw> draws;
        for (const std::uint32_t d : per.draws)
            draws.push_back(in.draws.opaque[d]);
        lights += work_of(in, draws);
    }
    b.pass({.name = "lights",
            .family = "lights",
            .what = "Adds each light in turn inside its scissor, where depth is equal: draws times lights.",
            .reads = {"depth"},
            .writes = with_diffuse_light(b, {"scene"}),
            .settings = joined_keys({"path.kind"}, shading_keys()),
            .expected = lights,
            .called = added_light_slots,
            .overGeometry = true,
            .inLedger = true,
            .marks = true});
}

static void price_additive(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &additive()) return;
    price_surface(w, t);
    if (pass.name == "ambient") {
        price_opaque(plan, pass, w, t);
        return;
    }
    price_lights(plan, w, false, t);
    t[blend_term(plan)] = static_cast<double>(w.at("fragments")) * scene_bytes(plan);
    price_diffuse_light(pass, static_cast<double>(w.at("fragments")), true, t);
}

const Technique& additive() {
    static const Technique technique{
        .name = "additive", .multisamples = true, .plan = plan_additive, .price = price_additive};
    return technique;
}

} // namespace mirolux::technique
