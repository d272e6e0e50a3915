#include "core/path/surface_pass.h"

namespace mirolux::technique {

static void plan_listed_forward(const FrameInputs& in, PlanBuilder& b) {
    const PathKind& path = path_kind(in.setup);
    if (!path.lists || path.deferred) return;
    b.pass({.name = "opaque",
            .family = "opaque",
            .what = "Draws opaque and masked surfaces, each pixel with the lights of its list.",
            .reads = {"depth", "light lists"},
            .writes = with_diffuse_light(b, with_mirror_shares(b, {"scene", "depth"})),
            .settings = joined_keys({"path.kind", "path.targetFormat"}, shading_keys()),
            .expected = work_of(in, in.draws.opaque),
            .called = lit_slots,
            .overGeometry = true,
            .inLedger = true,
            .laidDepth = true});
}

static void price_listed_forward(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &listed_forward()) return;
    price_surface(w, t);
    price_lights(plan, w, true, t);
    price_opaque(plan, pass, w, t);
}

const Technique& listed_forward() {
    static const Technique technique{
        .name = "listed_forward", .multisamples = true, .plan = plan_listed_forward, .price = price_listed_forward};
    return technique;
}

} // namespace mirolux::technique
