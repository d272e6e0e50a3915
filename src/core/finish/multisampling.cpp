#include "core/finish/edges.h"
#include "core/finish/exposure.h"
#include "core/technique/plan_builder.h"
#include <algorithm>

namespace mirolux::technique {

static int samples_of(const FramePlan& plan) {
    return plan.resource("scene")->spec.samples;
}

static void plan_multisampling(const FrameInputs& in, PlanBuilder& b) {
    if (b.samples_of("scene") < 2) return;
    b.resource({.name = resolved_resource, .sampler = "resolved", .formatOf = "scene", .kept = true});
    b.set("resolveForm", {averages_toned(in.setup) ? 1 : 0, 0, 0, 0});
    PlannedPass pass{.name = "resolve samples",
                     .family = "finish",
                     .what = "Averages the samples of each pixel.",
                     .reads = {"scene"},
                     .writes = {resolved_resource},
                     .settings = {"edges.kind", "edges.samples", "edges.resolve"},
                     .expected = screen_work()};
    if (averages_toned(in.setup) && meters(in.setup, in.scene.is_flat())) pass.reads.emplace_back(exposure_resource);
    b.pass(pass);
    b.take_radiance(resolved_resource);
}

/// Samples beyond the first of what surfaces are drawn to, and those that are averaged.
static void price_multisampling(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    const int samples = samples_of(plan);
    if (samples < 2) return;
    const auto fragments = static_cast<double>(w.at("fragments"));
    const int bytes = info_of(plan.resource("scene")->spec.format).bytes;
    if (pass.technique == &multisampling()) {
        t["sampleResolved"] = fragments * samples;
        t[bytes == 8 ? "writeHalf" : "writeFloat"] = fragments * bytes;
        return;
    }
    for (const std::string& target : pass.writes)
        if (target == "scene" || target == "depth") t["moreSamples"] += fragments * (samples - 1);
}

const Technique& multisampling() {
    static const std::vector<std::pair<std::string, std::string>> exercise = {{"edges.kind", "multisample"},
                                                                              {"path.kind", "forward"}};
    static const Technique technique{
        .name = "multisampling",
        .stages = Stages::all,
        .terms = {{"moreSamples", "a sample of a pixel beyond its first, drawn to one target", exercise, 0.004},
                  {"sampleResolved", "a sample of a pixel averaged", exercise, 0.01}},
        .parameters = {"resolveForm"}, // x: 1 averaged as a tone curve shows
        .multisamples = true,
        .plan = plan_multisampling,
        .price = price_multisampling,
    };
    return technique;
}

} // namespace mirolux::technique
