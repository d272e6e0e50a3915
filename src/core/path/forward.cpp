#include "core/path/surface_pass.h"

namespace mirolux::technique {

static void plan_forward(const FrameInputs& in, PlanBuilder& b) {
    if (in.setup.choice("path.kind") != "forward") return;
    const bool laid = lays_depth_first(in.setup);
    b.pass(
        {.name = "opaque",
         .family = "opaque",
         .what = "Draws opaque and masked surfaces, each with its up to K lights.",
         .reads = laid ? std::vector<std::string>{"depth"} : std::vector<std::string>{},
         .writes = with_diffuse_light(b, with_mirror_shares(b, {"scene", "depth"})),
         .settings = joined_keys({"path.kind", "path.maxLights", "path.choose", "path.targetFormat"}, shading_keys()),
         .expected = work_of(in, in.draws.opaque),
         .called = lit_slots,
         .overGeometry = true,
         .inLedger = true,
         .laidDepth = laid});
}

static void price_forward(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &forward()) return;
    price_surface(w, t);
    price_lights(plan, w, true, t);
    price_opaque(plan, pass, w, t);
}

const Technique& forward() {
    static const Technique technique{
        .name = "forward",
        .settings =
            {whole_setting("path.maxLights", "Lights an object (K)", "Path", 8, 1, 64, "",
                           "forward: lights beyond K are dropped and counted; cost grows with K times fragments.")
                 .only_when("path.kind", {"forward"}),
             choice_setting("path.choose", "Which K lights", "Path", {"strongest", "nearest"}, "strongest",
                            "forward: by largest possible irradiance on the object, or by distance to its bounds.")
                 .only_when("path.kind", {"forward"})},
        .multisamples = true,
        .plan = plan_forward,
        .price = price_forward,
    };
    return technique;
}

} // namespace mirolux::technique
