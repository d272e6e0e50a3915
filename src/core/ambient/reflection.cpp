#include "core/ambient/reflection.h"
#include "core/ambient/environment.h"
#include "core/path/path_kind.h"
#include "core/path/surface_pass.h"
#include "core/technique/plan_builder.h"
#include <cmath>

namespace mirolux {

const char* word(ScreenAnswer answer) {
    switch (answer) {
    case ScreenAnswer::hit:
        return "hit";
    case ScreenAnswer::left:
        return "it leaves the picture";
    case ScreenAnswer::towardEye:
        return "it comes back past the eye";
    case ScreenAnswer::hidden:
        return "it passes behind what the picture shows";
    case ScreenAnswer::back:
        return "it meets a back";
    case ScreenAnswer::tooFar:
        return "nothing within reach";
    default:
        return "not asked";
    }
}

bool reflects_screen(const Setup& setup) {
    return environment_mirrored(setup) && setup.choice("reflection.kind") == "screen";
}

int pyramid_mips(int width, int height) {
    int n = 1;
    while (n < 8 && std::min(width, height) >> n >= 4)
        ++n;
    return n;
}

namespace technique {

static std::vector<std::string> wants_shares(const FrameInputs& in) {
    if (!reflects_screen(in.setup) || in.view.stereo == Stereo::onePass) return {};
    return {"normal", mirror_share_resource};
}

static void plan_reflection(const FrameInputs& in, PlanBuilder& b) {
    if (!reflects_screen(in.setup)) return;
    if (in.view.stereo == Stereo::onePass)
        return b.note("Reflections on the screen are left out: one pass over both eyes has no depth of its own.");
    const Setup& s = in.setup;
    const bool half = s.choice("reflection.scale") == "half", tiles = s.choice("reflection.trace") == "hierarchical";
    const int grow = s.whole("reflection.grow"), width = half ? (in.view.width + 1) / 2 : 0,
              height = half ? (in.view.height + 1) / 2 : 0, mips = pyramid_mips(in.view.width, in.view.height);
    const auto target = [&](const char* name, const char* sampler, Format format, const char* note = "") {
        b.resource({.name = name,
                    .sampler = sampler,
                    .format = format,
                    .width = width,
                    .height = height,
                    .kept = true,
                    .formatNote = note});
    };
    target(reflection_mask_resource, "reflectionMask", Format::rg8);
    target(reflection_hits_resource, "reflectionHits", Format::rgba32f, "pixel, metres, answer");
    target("reflection colour", "reflectionColour", Format::rgba16f);
    if (grow > 0) target("reflection grown", "reflectionGrown", Format::rgba16f);
    b.resource({.name = reflection_resource,
                .sampler = "reflectionPicture",
                .format = Format::rgba16f,
                .width = half ? width : in.view.width,
                .height = half ? height : in.view.height,
                .mips = pyramid_mips(half ? width : in.view.width, half ? height : in.view.height),
                .kept = true});
    b.set("reflectionMask", {s.number("reflection.roughest"), s.number("reflection.edge"),
                             1.2 * in.view.height / (2 * std::tan(0.5 * in.view.camera.fovY)), 0});
    b.set("reflectionTrace", {s.number("reflection.longest"), s.number("reflection.thickness"),
                              s.whole("reflection.steps"), s.whole("reflection.refine")});
    b.set("reflectionUse", {grow, s.number("reflection.stretch"), mips - 1, 0});
    const auto pass = [&](const char* name, const char* what, std::vector<std::string> reads, const char* writes,
                          std::vector<std::string> settings) {
        b.pass({.name = name,
                .family = "ambient",
                .what = what,
                .reads = std::move(reads),
                .writes = {writes},
                .settings = std::move(settings),
                .expected = screen_work()});
    };
    pass("reflection mask", "Finds the surfaces that ask the screen for their mirror image.",
         {"depth", "normal", mirror_share_resource}, reflection_mask_resource, {"reflection.roughest"});
    std::vector<std::string> traced = {"depth", "normal", reflection_mask_resource};
    if (tiles) {
        b.resource({.name = depth_pyramid_resource,
                    .sampler = "nearestDepths",
                    .format = Format::r32f,
                    .width = in.view.width,
                    .height = in.view.height,
                    .mips = mips,
                    .ownDepths = true});
        b.pass({.name = "depth pyramid",
                .family = "ambient",
                .what = "The nearest depth of larger and larger tiles.",
                .reads = {"depth"},
                .writes = {depth_pyramid_resource},
                .settings = {"reflection.trace"},
                .expected = Work::drawing(static_cast<std::uint64_t>(mips), static_cast<std::uint64_t>(mips))});
        traced.emplace_back(depth_pyramid_resource);
    }
    pass("trace reflections", "Follows mirrored rays through the picture's depth.", traced, reflection_hits_resource,
         {"reflection.trace", "reflection.longest", "reflection.steps", "reflection.refine", "reflection.thickness",
          "reflection.scale"});
    pass("reflection colour", "Takes what the hits show, less sure toward edges and the end of the reach.",
         {reflection_hits_resource, reflection_mask_resource, "scene"}, "reflection colour", {"reflection.edge"});
    const char* last = "reflection colour";
    if (grow > 0) {
        pass("grow reflections", "Fills pixels without an answer from the answers around them.",
             {last, reflection_mask_resource}, "reflection grown", {"reflection.grow"});
        last = "reflection grown";
    }
    pass("stretch reflections",
         "Blurs along the picture's width where one looks flat, and makes mips for rough surfaces.",
         {"depth", "normal", last, reflection_mask_resource}, reflection_resource,
         {"reflection.stretch", "reflection.byRoughness"});
    if (half) b.define("REFLECTION_HALF");
    if (s.flag("reflection.byRoughness")) b.define("REFLECTION_BY_ROUGHNESS");
    b.feed(Slot::reflection, "reflection/lookup.glsl", "reflectedOnScreen",
           {reflection_resource, reflection_hits_resource, "depth"});
    b.pass({.name = "reflect",
            .family = "ambient",
            .what = "Puts the screen's answers in the place of mirrored surroundings.",
            .reads = {"depth", "normal", mirror_share_resource},
            .writes = {"scene"},
            .settings = {"reflection.kind"},
            .expected = screen_work(),
            .called = {Slot::reflection, Slot::ambientSpecular, Slot::probeSpecular, Slot::air}});
}

static void price_reflection(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &reflection()) return;
    const auto fragments = static_cast<double>(w.at("fragments"));
    t["run"] = static_cast<double>(std::max<std::uint64_t>(1, w.at("draws")));
    if (pass.name == "reflect") {
        t["reflectPixel"] = fragments;
        return;
    }
    const PlannedResource* target = plan.resource(pass.writes.front());
    t[target && target->spec.format == Format::rg8 ? "writeUnorm" : "writeFloat"] =
        fragments * info_of(target->spec.format).bytes;
    if (pass.name == "trace reflections")
        t[plan.resource(depth_pyramid_resource) ? "tileRead" : "reflectionRead"] =
            static_cast<double>(w.at("reflectionReads"));
    else if (pass.name == "grow reflections" || pass.name == "stretch reflections")
        t["reflectionBlur"] = fragments;
    else
        t["reflectPixel"] = fragments;
}

const Technique& reflection() {
    static const std::vector<std::pair<std::string, std::string>> exercise = {
        {"ambient.kind", "environment"}, {"reflection.kind", "screen"}, {"reflection.roughest", "1"}};
    const auto of_mirrored = [](Setting s) {
        return std::move(s)
            .only_when("ambient.kind", {"environment"})
            .only_when("environment.specular", {"on"})
            .only_when("shading.model", {"phong", "blinn-phong", "ggx"});
    };
    const auto of = [&](Setting s) { return of_mirrored(std::move(s)).only_when("reflection.kind", {"screen"}); };
    const auto linear = [&](Setting s) { return of(std::move(s)).only_when("reflection.trace", {"linear"}); };
    static const auto with_tiles = [] {
        auto out = exercise;
        out.emplace_back("reflection.trace", "hierarchical");
        return out;
    }();
    static const Technique technique{
        .name = "reflection",
        .settings =
            {of_mirrored(choice_setting("reflection.kind", "Reflections", "Ambient", {"none", "screen"}, "none",
                                        "screen: mirrored rays are followed through the picture's own depth, and what "
                                        "they meet takes the place of mirrored surroundings. What the picture does "
                                        "not show is not there.")),
             of(number_setting("reflection.roughest", "Reflected up to roughness", "Ambient", 0.6, 0.05, 1, "",
                               "Rougher surfaces do not ask the screen; the last part fades. Fewer rays, less time.")),
             of(number_setting("reflection.longest", "Longest mirrored ray", "Ambient", 30, 0.5, 1000, "m",
                               "How far a ray is followed; its last tenth fades.")
                    .on_ratio()),
             of(choice_setting("reflection.trace", "Rays followed", "Ambient", {"linear", "hierarchical"}, "linear",
                               "linear: even steps on the screen, then halvings; thin things may slip between. "
                               "hierarchical: pixel by pixel, tiles of nearest depths passed at once; needs a pyramid "
                               "of depths.")),
             of(whole_setting("reflection.steps", "Reflections' steps", "Ambient", 48, 4, 1024, "",
                              "Depths read along a ray at most: time grows with them.")
                    .on_ratio()),
             linear(whole_setting("reflection.refine", "Halvings", "Ambient", 5, 0, 12, "",
                                  "linear: after a step that passes a surface, how often its place is halved.")),
             of(number_setting("reflection.thickness", "Reflections' thickness", "Ambient", 0.2, 0.01, 50, "m",
                               "How thick what the picture shows is taken to be: rays farther behind pass on.")
                    .on_ratio()),
             of(choice_setting("reflection.scale", "Reflections at", "Ambient", {"full", "half"}, "full",
                               "half: one ray for four pixels, spread by depth.")),
             of(number_setting("reflection.edge", "Reflections' edge", "Ambient", 0.08, 0, 0.5, "",
                               "Share of the picture along its edges where answers fade to the surroundings.")),
             of(whole_setting("reflection.grow", "Answers grown", "Ambient", 2, 0, 8, "texels",
                              "How far pixels without an answer look for answers around them; 0 leaves holes.")),
             of(number_setting("reflection.stretch", "Answers stretched", "Ambient", 6, 0, 64, "texels",
                               "Blur along the picture's width where one looks flat at rough surfaces.")),
             of(toggle_setting("reflection.byRoughness", "Blurred by roughness", "Ambient", true,
                               "Rough surfaces read coarser mips of the answers; off shows every one a mirror."))},
        .counters = {{"reflectionRays", "Mirrored rays", "pixels that asked the screen for their mirror image"},
                     {"reflectionHits", "Rays that hit", "of them, those that met something in the picture"},
                     {"reflectionReads", "Reflections' depths", "depths read along mirrored rays"}},
        .terms = {{"reflectionRead", "a depth read along a mirrored ray in even steps", exercise, 0.08},
                  {"tileRead", "a tile's depth read along a mirrored ray", with_tiles, 0.12},
                  {"reflectionBlur", "a pixel of reflections grown or stretched", exercise, 0.2},
                  {"reflectPixel", "a pixel of reflections masked, coloured or put in place", exercise, 0.1}},
        .layers = {{.name = "reflection",
                    .label = "Reflected",
                    .help = "What surfaces mirror of the picture itself; a part of Mirrored.",
                    .view = LayerView::radiance,
                    .file = "reflection/layers.glsl",
                    .role = "part of Mirrored",
                    .when = {{"ambient.kind", {"environment"}},
                             {"environment.specular", {"on"}},
                             {"reflection.kind", {"screen"}}}},
                   {.name = "reflectionMask",
                    .label = "Asking",
                    .help =
                        "Which surfaces ask the screen for their mirror image, and how much of the answer they take.",
                    .view = LayerView::grey,
                    .file = "reflection/layers.glsl",
                    .when = {{"ambient.kind", {"environment"}},
                             {"environment.specular", {"on"}},
                             {"reflection.kind", {"screen"}}}},
                   {.name = "reflectionHits",
                    .label = "Answers",
                    .help = "What came of each mirrored ray: green a hit, darker with its distance; blue it leaves the "
                            "picture; violet it comes back past the eye; orange it passes behind something; red it "
                            "meets a back; grey nothing within reach.",
                    .view = LayerView::color,
                    .file = "reflection/layers.glsl",
                    .when = {{"ambient.kind", {"environment"}},
                             {"environment.specular", {"on"}},
                             {"reflection.kind", {"screen"}}}}},
        .parameters = {"reflectionMask",  // roughest; edge; pixels of a slope of one; -
                       "reflectionTrace", // reach, thickness, metres; steps; halvings
                       "reflectionUse"},  // grown, stretched, texels; last mip of the pyramid; -
        .mayFeed = {Slot::reflection},
        .wants = wants_shares,
        .plan = plan_reflection,
        .price = price_reflection,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
