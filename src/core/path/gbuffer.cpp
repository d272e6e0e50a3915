#include "core/ambient/reflection.h"
#include "core/bake/baked_light.h"
#include "core/path/surface_pass.h"
#include "core/surface/subsurface.h"

namespace mirolux::technique {

static void plan_gbuffer(const FrameInputs& in, PlanBuilder& b) {
    if (!path_kind(in.setup).deferred) return;
    const bool full = in.setup.choice("gbuffer.packing") == "full", laid = lays_depth_first(in.setup),
               later = lays_ambient_later(in), optics = shades_optics(*in.scene.asset, in.setup),
               wide = later || optics;
    b.resource({.name = "base colour, metallic",
                .sampler = "baseColorMetallic",
                .format = full ? Format::rgba32f : Format::rgba8});
    b.resource({.name = "normal",
                .sampler = "normals",
                .format = full ? Format::rgba32f : Format::rg16,
                .formatNote = full ? "" : "octahedral"});
    b.resource({.name = "roughness, unlit",
                .sampler = "roughnessUnlit",
                .format = wide   ? full ? Format::rgba32f : Format::rgba8
                          : full ? Format::rg32f
                                 : Format::rg8,
                .formatNote = later && optics ? "occlusion, optics"
                              : later         ? "and occlusion"
                              : optics        ? "and optics"
                                              : ""});
    std::vector<std::string> writes = {"base colour, metallic", "normal", "roughness, unlit", "scene", "depth"};
    if (b.wanted(map_place_resource)) {
        b.resource({.name = map_place_resource,
                    .sampler = "mapPlaces",
                    .format = Format::rg16,
                    .formatNote = "of baked texels"});
        writes.emplace_back(map_place_resource);
    }
    b.pass(
        {.name = "g-buffer",
         .family = "opaque",
         .what = later ? "Draws opaque and masked surfaces into the G-buffer, with their emission into the scene."
                       : "Draws opaque and masked surfaces into the G-buffer, with ambient light and emission into the "
                         "scene.",
         .reads = laid ? std::vector<std::string>{"depth"} : std::vector<std::string>{},
         .writes = with_diffuse_light(b, later ? writes : with_mirror_shares(b, writes)),
         .settings = {"path.kind", "gbuffer.packing", "path.targetFormat", "shading.normalMaps"},
         .expected = work_of(in, in.draws.opaque),
         .called = later ? std::vector<Slot>{Slot::air, Slot::baked, Slot::bakedOcclusion} : unlit_slots,
         .overGeometry = true,
         .inLedger = true,
         .laidDepth = laid});
    if (full) b.define("GBUFFER_FULL 1");
    if (later) b.define("AMBIENT_LATER");
}

static void price_gbuffer(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &gbuffer()) return;
    price_surface(w, t);
    price_opaque(plan, pass, w, t);
    const auto fragments = static_cast<double>(w.at("fragments"));
    double bytes = 0;
    for (const std::string& target : pass.writes)
        if (target != "scene" && target != "depth" && target != mirror_share_resource &&
            target != diffuse_light_resource)
            bytes += info_of(plan.resource(target)->spec.format).bytes;
    t[plan.setup.choice("gbuffer.packing") == "full" ? "writeFloat" : "writeUnorm"] += fragments * bytes;
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
