#include "core/finish/edges.h"
#include "core/finish/exposure.h"
#include "core/technique/plan_builder.h"
#include <algorithm>

namespace mirolux::technique {

static bool accumulates_here(const FrameInputs& in) {
    return accumulates(in.setup, in.view, in.scene.stage() != Stage::solid);
}

static std::vector<std::string> wants_motion(const FrameInputs& in) {
    return accumulates_here(in) ? std::vector<std::string>{"motion"} : std::vector<std::string>{};
}

static void plan_temporal(const FrameInputs& in, PlanBuilder& b) {
    if (!accumulates_here(in)) return;
    const Setup& s = in.setup;
    const glm::ivec2 shown = shown_size(in.view), rendered(in.view.width, in.view.height);
    const bool up = rendered.x <= shown.x && rendered.y <= shown.y; // grows to the shown size as it settles
    const int places = jitter_places(s, in.view);
    const double clip = s.number("edges.clip");
    b.set("temporal",
          {1 / s.number("edges.share") - 1, clip, s.flag("edges.follow") ? 1 : 0, averages_toned(s) ? 1 : 0});
    const auto target = [&](const char* name, const char* sampler, Format format, Life life) {
        b.resource({.name = name, .sampler = sampler, .format = format, .ofShown = up, .life = life, .kept = true});
    };
    target(accumulated_resource, "accumulated", Format::rgba16f, Life::history);
    target(ghosts_resource, "ghostMap", Format::rg8, Life::frame);
    PlannedPass pass{.name = "join frames",
                     .family = "finish",
                     .what = "Joins the frame with those before it, moved as their surfaces moved; what the frame "
                             "speaks against is cut away.",
                     .reads = {b.radiance(), "depth", "motion"},
                     .writes = {accumulated_resource, ghosts_resource},
                     .settings = {"edges.kind", "edges.samples", "edges.resolve", "edges.share", "edges.clip",
                                  "edges.follow", "output.scaleX", "output.scaleY"},
                     .expected = screen_work(),
                     .needsBefore = true};
    if (averages_toned(s) && meters(s, false)) pass.reads.emplace_back(exposure_resource);
    b.pass(pass);
    b.take_radiance(accumulated_resource);
    b.settles(std::max(8, places), places);
}

static void price_temporal(const FramePlan&, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &temporal()) return;
    const auto fragments = static_cast<double>(w.at("fragments"));
    t["joinedPixel"] = fragments;
    t["writeHalf"] = fragments * 8;
    t["writeUnorm"] = fragments * 2;
}

const Technique& temporal() {
    const auto only = [](Setting s) { return std::move(s).only_when("edges.kind", {"temporal"}); };
    static const Technique technique{
        .name = "temporal",
        .settings = {only(number_setting("edges.share", "Least new share", "Finish", 0.1, 0.02, 1, "",
                                         "How much of a pixel is this frame's once it has settled: less is calmer and "
                                         "lags more.")
                              .on_ratio()),
                     only(number_setting("edges.clip", "Cut ghosts at", "Finish", 1.25, 0, 8, "deviations",
                                         "What the frames before show is kept within so many standard deviations of "
                                         "the pixel's surroundings: less cuts ghosts and lets edges crawl; 0: all is "
                                         "kept.")),
                     only(toggle_setting("edges.follow", "Follow motion", "Finish", true,
                                         "Looks for a surface where it stood the frame before; off: in the same "
                                         "pixel, which smears whatever moves."))},
        .terms = {{"joinedPixel",
                   "a pixel joined with the frames before",
                   {{"edges.kind", "temporal"}, {"edges.samples", "2"}},
                   0.2}},
        .layers = {{.name = "ghosts",
                    .label = "Ghosts",
                    .help = "How far the frames before stood off what this frame's surroundings allow, as shown: cut "
                            "away, or, where nothing is cut, seen as ghosts.",
                    .view = LayerView::grey,
                    .resource = ghosts_resource,
                    .when = {{"edges.kind", {"temporal"}}}}},
        .parameters = {"temporal"}, // x: most frames that history counts for, y: deviations, 0: all is kept, z: 1 moved
                                    // things are followed, w: 1 averaged as a tone curve shows
        .wants = wants_motion,
        .plan = plan_temporal,
        .price = price_temporal,
    };
    return technique;
}

} // namespace mirolux::technique
