#include "core/air/shafts.h"
#include "core/light/light.h"
#include "core/path/surface_pass.h"
#include <cmath>

namespace mirolux {

std::optional<ShaftSource> shaft_source(const FrameInputs& in) {
    for (int i = 0; i < in.draws.directional; ++i) {
        const Light& l = in.draws.lights[static_cast<std::size_t>(i)];
        if (l.intensity <= 0) continue;
        const View eye = eye_views(in.view).front();
        const glm::dvec4 clip = glm::dmat4(projection_matrix(eye.camera, aspect_of(eye)) * view_matrix(eye.camera)) *
                                glm::dvec4(-glm::dvec3(l.direction), 0);
        if (clip.w <= 1e-4) return std::nullopt; // behind the eye
        const glm::dvec2 at = glm::dvec2(clip) / clip.w;
        // Outside the picture it fades over as much as the picture is wide.
        const double beyond = std::max({std::abs(at.x) - 1, std::abs(at.y) - 1, 0.0});
        if (beyond >= 1) return std::nullopt;
        return ShaftSource{i, at * 0.5 + 0.5, glm::dvec3(effective_color(l)) * double(l.intensity), 1 - beyond};
    }
    return std::nullopt;
}

namespace technique {

static void plan_shafts(const FrameInputs& in, PlanBuilder& b) {
    if (in.setup.choice("shafts.kind") != "radial") return;
    const auto source = shaft_source(in);
    if (!source) return;
    const Setup& s = in.setup;
    b.set("shaftSource", {source->at.x, source->at.y, s.number("shafts.reach"), s.number("shafts.decay")});
    const glm::dvec3 light = source->light * (s.number("shafts.strength") * source->share);
    b.set("shaftLight", {light.x, light.y, light.z, s.whole("shafts.samples")});
    b.resource({.name = "shafts", .sampler = "shaftsTexture", .format = Format::rgba16f, .scale = 0.5, .kept = true});
    std::vector<std::string> keys;
    for (const Setting& setting : shafts().settings)
        keys.push_back(setting.key);
    b.pass({.name = "shafts",
            .family = "air",
            .what = "Looks from every second pixel toward the sun in the picture and counts where the sky is open.",
            .reads = {"depth"},
            .writes = {"shafts"},
            .settings = keys,
            .expected = screen_work()});
    b.pass({.name = "add shafts",
            .family = "air",
            .what = "Adds the shafts to the picture.",
            .reads = {"shafts"},
            .writes = {"scene"},
            .settings = {"shafts.kind"},
            .expected = screen_work()});
}

static void price_shafts(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &shafts()) return;
    if (w.at("shaftSamples") > 0) t["shaftSample"] = static_cast<double>(w.at("shaftSamples"));
    if (pass.name == "add shafts") t[blend_term(plan)] = plan.pixels() * scene_bytes(plan);
}

const Technique& shafts() {
    static const auto radial = [](Setting s) { return std::move(s).only_when("shafts.kind", {"radial"}); };
    static const std::vector<std::pair<std::string, std::string>> exercise = {{"shafts.kind", "radial"}};
    static const Technique technique{
        .name = "shafts",
        .settings =
            {choice_setting("shafts.kind", "Shafts", "Air", {"none", "radial"}, "none",
                            "radial: the sky is smeared away from the sun in the picture: cheap shafts, gone when the "
                            "sun is out of sight; cells of air with shadow maps make true ones."),
             radial(whole_setting("shafts.samples", "Samples", "Air", 32, 4, 256, "",
                                  "Places between pixel and sun; fewer show steps, cost follows.")
                        .on_ratio()),
             radial(number_setting("shafts.reach", "Reach", "Air", 0.9, 0.05, 1.0, "",
                                   "Share of the way to the sun that is looked along.")),
             radial(number_setting("shafts.decay", "Decay", "Air", 2.0, 0.0, 10.0, "",
                                   "How much less a place counts the farther it is from the pixel: 0 not at all.")),
             radial(number_setting("shafts.strength", "Strength", "Air", 0.002, 0.0, 1.0, "1/sr",
                                   "Radiance that a wholly open way adds, for each lux of the sun.")
                        .on_ratio())},
        .counters = {{"shaftSamples", "Shaft samples", "depths asked on ways toward the sun"}},
        .terms = {{"shaftSample", "a depth asked on a way toward the sun", exercise, 0.05}},
        .parameters = {"shaftSource", // place in the picture, 0 to 1 from below; reach, decay
                       "shaftLight"}, // cd/m2 of an open way; samples
        .plan = plan_shafts,
        .price = price_shafts,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
