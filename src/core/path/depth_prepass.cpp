#include "core/path/surface_pass.h"
#include <algorithm>

namespace mirolux::technique {

/// A path without G-buffer lays the normals that some technique reads.
static bool lays_normals(const Setup& setup, bool wanted) {
    return wanted && !path_kind(setup).deferred;
}

/// Nothing but ambient occlusion asks for it: that is what it is charged to.
static bool laid_for_occlusion(const Setup& setup) {
    Setup without = setup;
    without.set("occlusion.kind", std::string("none"));
    return !lays_depth_first(without);
}

static void plan_depth_prepass(const FrameInputs& in, PlanBuilder& b) {
    if (!lays_depth_first(in.setup)) return;
    const bool normals = lays_normals(in.setup, b.wanted("normal"));
    if (normals)
        b.resource({.name = "normal", .sampler = "normals", .format = Format::rg16, .formatNote = "octahedral"});
    b.pass({.name = "depth",
            .family = laid_for_occlusion(in.setup) ? "ambient" : "depth",
            .what = normals ? std::string("Lays depth and normals of opaque and masked surfaces") +
                                  (laid_for_occlusion(in.setup) ? ", for occlusion." : ".")
                            : "Lays the depth of opaque and masked surfaces.",
            .reads = {},
            .writes = normals ? std::vector<std::string>{"normal", "depth"} : std::vector<std::string>{"depth"},
            .settings = normals ? std::vector<std::string>{"path.depthPrepass", "shading.normalMaps"}
                                : std::vector<std::string>{"path.depthPrepass"},
            .expected = work_of(in, in.draws.opaque),
            .overGeometry = true,
            .inLedger = true,
            .marks = true}); // later passes draw once a pixel where depth is equal
}

static void price_depth_prepass(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &depth_prepass()) return;
    t["writeDepth"] = static_cast<double>(w.at("fragments")) * 4;
    t["clear"] = plan.pixels() * depth_bytes(plan);
    t["filteredRead"] = static_cast<double>(w.at("textureReads"));
    if (std::find(pass.writes.begin(), pass.writes.end(), "normal") == pass.writes.end()) return;
    price_surface(w, t);
    t["writeUnorm"] = static_cast<double>(w.at("fragments")) * 4;
}

const Technique& depth_prepass() {
    static const Technique technique{
        .name = "depth_prepass",
        .settings = {toggle_setting(
                         "path.depthPrepass", "Depth pre-pass", "Path", false,
                         "Lays depth first, so that hidden fragments are not shaded; draws the geometry twice.")
                         .only_when("path.kind", path_words([](const PathKind& k) { return k.deferred || !k.lists; }))},
        .multisamples = true,
        .plan = plan_depth_prepass,
        .price = price_depth_prepass,
    };
    return technique;
}

} // namespace mirolux::technique
