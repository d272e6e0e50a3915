#include "core/path/surface_pass.h"

namespace mirolux::technique {

static void plan_gbuffer(const FrameInputs& in, PlanBuilder& b) {
    if (!path_kind(in.setup).deferred) return;
    const bool full = in.setup.choice("gbuffer.packing") == "full", laid = lays_depth_first(in.setup);
    b.resource({.name = "base colour, metallic",
                .sampler = "baseColorMetallic",
                .format = full ? Format::rgba32f : Format::rgba8});
    b.resource({.name = "normal",
                .sampler = "normals",
                .format = full ? Format::rgba32f : Format::rg16,
                .formatNote = full ? "" : "octahedral"});
    b.resource({.name = "roughness, unlit", .sampler = "roughnessUnlit", .format = full ? Format::rg32f : Format::rg8});
    b.pass(
        {.name = "g-buffer",
         .family = "opaque",
         .what = "Draws opaque and masked surfaces into the G-buffer, with ambient light and emission into the scene.",
         .reads = laid ? std::vector<std::string>{"depth"} : std::vector<std::string>{},
         .writes = {"base colour, metallic", "normal", "roughness, unlit", "scene", "depth"},
         .settings = {"path.kind", "gbuffer.packing", "path.targetFormat", "shading.normalMaps"},
         .expected = work_of(in.scene, in.draws.opaque),
         .called = unlit_slots,
         .overGeometry = true,
         .inLedger = true,
         .laidDepth = laid});
    if (full) b.define("GBUFFER_FULL 1");
}

static void price_gbuffer(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &gbuffer()) return;
    price_surface(w, t);
    price_opaque(plan, pass, w, t);
    const auto fragments = static_cast<double>(w.at("fragments"));
    if (plan.setup.choice("gbuffer.packing") == "full")
        t["writeFloat"] += fragments * 40;
    else
        t["writeUnorm"] = fragments * 10;
}

const Technique& gbuffer() {
    static const Technique technique{
        .name = "gbuffer",
        .settings = {choice_setting("gbuffer.packing", "G-buffer", "Path", {"packed", "full"}, "packed",
                                    "deferred paths: packed holds octahedral 16-bit normals and 8-bit colours in 10 "
                                    "bytes a pixel; full holds floats in 40, as a reference.")
                         .only_when("path.kind", path_words([](const PathKind& k) { return k.deferred; }))},
        .plan = plan_gbuffer,
        .price = price_gbuffer,
    };
    return technique;
}

} // namespace mirolux::technique
