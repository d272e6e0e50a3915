#include "core/ambient/occlusion.h"
#include "core/path/path_kind.h"
#include "core/technique/plan_builder.h"
#include <algorithm>
#include <cmath>
#include <glm/gtc/constants.hpp>

namespace mirolux {

double open_arc(double n, double h) {
    return 0.25 * (std::cos(n) + 2 * h * std::sin(n) - std::cos(2 * h - n));
}

double open_before_wall(double d, double h) {
    return 1 - 0.5 * (1 - d / std::sqrt(d * d + h * h));
}

double open_before_wall(double d, double h, double radius, double fade) {
    // Directions that are even by the cosine lie evenly over the disc below the hemisphere.
    constexpr int rings = 32, turns = 64;
    double closed = 0;
    for (int i = 0; i < rings; ++i)
        for (int j = 0; j < turns; ++j) {
            const double u = (i + 0.5) / rings, turn = 2 * glm::pi<double>() * (j + 0.5) / turns,
                         toward = std::sqrt(u) * std::cos(turn), metres = toward > 0 ? d / toward : 1e30;
            if (metres * std::sqrt(1 - u) > h || metres >= radius) continue;
            closed += fade > 0 ? std::clamp((radius - metres) / (radius * fade), 0.0, 1.0) : 1.0;
        }
    return 1 - closed / (rings * turns);
}

double mixed_occlusion(OcclusionMix mix, double screen, double baked) {
    switch (mix) {
    case OcclusionMix::product:
        return screen * baked;
    case OcclusionMix::least:
        return std::min(screen, baked);
    case OcclusionMix::screen:
        return screen;
    default:
        return baked;
    }
}

glm::dvec3 bounced_occlusion(double open, const glm::dvec3& albedo) {
    const glm::dvec3 a = 2.0404 * albedo - 0.3324, b = -4.7951 * albedo + 0.6417, c = 2.7552 * albedo + 0.6903;
    return glm::clamp(((open * a + b) * open + c) * open, glm::dvec3(open), glm::dvec3(1.0));
}

double mirrored_occlusion(double cosView, double open, double roughness) {
    return std::clamp(std::pow(std::max(cosView, 0.0) + open, std::exp2(-16 * roughness - 1)) - 1 + open, 0.0, 1.0);
}

OcclusionMix occlusion_mix(const Setup& setup) {
    const std::string& word = setup.choice("occlusion.mix");
    return word == "product"  ? OcclusionMix::product
           : word == "least"  ? OcclusionMix::least
           : word == "screen" ? OcclusionMix::screen
                              : OcclusionMix::texture;
}

namespace technique {

static std::vector<std::string> wants_surfaces(const FrameInputs& in) {
    return occludes_ambient(in.setup) ? std::vector<std::string>{"normal"} : std::vector<std::string>{};
}

static void plan_occlusion(const FrameInputs& in, PlanBuilder& b) {
    if (!occludes_ambient(in.setup)) return;
    if (in.view.stereo == Stereo::onePass)
        return b.note("Occlusion on the screen is left out: one pass over both eyes has no depth of its own to read.");
    const bool half = in.setup.choice("occlusion.scale") == "half",
               horizon = in.setup.choice("occlusion.kind") == "horizon", smooth = in.setup.flag("occlusion.smooth"),
               spread = half || smooth;
    const int reads = in.setup.whole("occlusion.samples"),
              slices = horizon ? std::min(in.setup.whole("occlusion.slices"), std::max(1, reads / 2)) : 1,
              steps = horizon ? std::max(1, reads / (2 * slices)) : reads;
    const auto radius = static_cast<float>(in.setup.number("occlusion.radius"));
    b.resource({.name = occlusion_resource, .sampler = "screenOcclusion", .format = Format::rg8, .kept = true});
    if (spread)
        b.resource({.name = raw_occlusion_resource,
                    .sampler = "rawOcclusion",
                    .format = Format::rg32f,
                    .width = half ? (in.view.width + 1) / 2 : 0,
                    .height = half ? (in.view.height + 1) / 2 : 0,
                    .formatNote = "open, metres"});
    b.set("occlusionReach", {radius, in.setup.number("occlusion.fade"), steps, slices});
    b.set("occlusionUse",
          {in.setup.number("occlusion.power"), static_cast<float>(occlusion_mix(in.setup)), 0, smooth ? 2.0f : 0.5f});
    b.pass({.name = "occlusion",
            .family = "ambient",
            .what = horizon ? "Looks for horizons through the depths of the picture, along lines through each pixel."
                            : "Holds points of the hemisphere over each pixel's surface against the picture's depth.",
            .reads = {"depth", "normal"},
            .writes = {spread ? raw_occlusion_resource : occlusion_resource},
            .settings = {"occlusion.kind", "occlusion.radius", "occlusion.samples", "occlusion.slices",
                         "occlusion.fade", "occlusion.scale"},
            .expected = screen_work()});
    if (spread)
        b.pass({.name = "spread occlusion",
                .family = "ambient",
                .what = half ? "Smooths the pattern of samples and spreads it over the pixels of the same plane."
                             : "Smooths the pattern of samples over the pixels of the same plane.",
                .reads = {"depth", "normal", raw_occlusion_resource},
                .writes = {occlusion_resource},
                .settings = {"occlusion.smooth", "occlusion.scale"},
                .expected = screen_work()});
    if (in.setup.flag("occlusion.bounced")) b.define("OCCLUSION_BOUNCED");
    const std::string& mirrored = in.setup.choice("occlusion.mirrored");
    if (mirrored == "by-roughness") b.define("OCCLUSION_OF_MIRRORED mirroredOcclusion");
    if (mirrored == "none") b.define("OCCLUSION_OF_MIRRORED(cosView, open, roughness) 1.0");
    b.feed(Slot::occlusion, "occlusion/lookup.glsl", "openOnScreen", {occlusion_resource});
}

static void price_occlusion(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &occlusion()) return;
    const auto fragments = static_cast<double>(w.at("fragments")), reads = static_cast<double>(w.at("occlusionReads"));
    t["run"] = 1;
    const bool last = pass.writes.front() == occlusion_resource;
    t[last ? "writeUnorm" : "writeFloat"] = fragments * (last ? 2 : 8);
    if (pass.name == "spread occlusion")
        t["occlusionSpread"] = fragments;
    else
        t[plan.setup.choice("occlusion.kind") == "horizon" ? "horizonRead" : "hemispherePoint"] = reads;
}

const Technique& occlusion() {
    const auto of = [](Setting s, std::vector<std::string> kinds = {"hemisphere", "horizon"}) {
        return std::move(s)
            .only_when("ambient.kind", {"constant", "gradient", "environment"})
            .only_when("occlusion.kind", std::move(kinds));
    };
    static const Technique technique{
        .name = "occlusion",
        .settings =
            {choice_setting("occlusion.kind", "Occlusion", "Ambient", {"none", "hemisphere", "horizon"}, "none",
                            "Darkens ambient light where things stand close, as far as the picture shows them. "
                            "hemisphere: points over the surface held against depth; horizon: how high depth rises "
                            "along lines, and the exact share under it. Depth and normals are laid first.")
                 .only_when("ambient.kind", {"constant", "gradient", "environment"}),
             of(number_setting("occlusion.radius", "Occlusion's radius", "Ambient", 1.5, 0.02, 100, "m",
                               "How far what stands around counts. Wide ones read depth from all over the picture.")
                    .on_ratio()),
             of(whole_setting("occlusion.samples", "Occlusion's samples", "Ambient", 16, 2, 512, "",
                              "Depths read for a pixel: cost grows with them, grain shrinks.")
                    .on_ratio()),
             of(whole_setting("occlusion.slices", "Occlusion's lines", "Ambient", 2, 1, 32, "",
                              "horizon: lines through a pixel that share its samples; few see thin things by chance, "
                              "many make each line coarse."),
                {"horizon"}),
             of(number_setting("occlusion.fade", "Occlusion's fade", "Ambient", 0.5, 0, 1, "",
                               "horizon: over which part of the radius, counted from its end, what stands there counts "
                               "less and less; 0 cuts it off."),
                {"horizon"}),
             of(choice_setting("occlusion.scale", "Occlusion at", "Ambient", {"full", "half"}, "full",
                               "full: for each pixel; half: once for four pixels, spread by depth: a quarter of the "
                               "samples.")),
             of(toggle_setting("occlusion.smooth", "Occlusion smoothed", "Ambient", true,
                               "Averages the pattern of samples over four pixels by four of the same plane; off shows "
                               "the grain.")),
             of(choice_setting("occlusion.mix", "With the material's", "Ambient",
                               {"product", "least", "screen", "texture"}, "product",
                               "How the screen's occlusion joins that of the material's texture: both multiplied (dark "
                               "twice where both know of a crease), the darker one, or one of them alone.")),
             of(number_setting("occlusion.power", "Power of occlusion", "Ambient", 1, 0.1, 8, "",
                               "Power of what is open; 1 is what was found, more is darker than true.")
                    .on_ratio()),
             of(toggle_setting("occlusion.bounced", "Bounced in creases", "Ambient", true,
                               "Light that bounces within a crease, by the surface's own colour: bright and coloured "
                               "surfaces darken less.")),
             of(choice_setting("occlusion.mirrored", "Of mirror images", "Ambient", {"by-roughness", "same", "none"},
                               "by-roughness",
                               "What occlusion takes of mirrored surroundings: by how wide the lobe is; the same as of "
                               "diffuse light; or nothing.")
                    .only_when("environment.specular", {"on"}))},
        .counters = {{"occlusionReads", "Occlusion's depths", "depths of the picture read for occlusion"}},
        .terms = {{"horizonRead",
                   "a depth of the picture read on the way to a horizon",
                   {{"ambient.kind", "constant"}, {"occlusion.kind", "horizon"}},
                   0.05},
                  {"hemispherePoint",
                   "a point over a surface held against the picture's depth",
                   {{"ambient.kind", "constant"}, {"occlusion.kind", "hemisphere"}},
                   0.05},
                  {"occlusionSpread",
                   "a pixel of occlusion smoothed and spread",
                   {{"ambient.kind", "constant"}, {"occlusion.kind", "hemisphere"}, {"occlusion.scale", "half"}},
                   0.15}},
        .layers = {{.name = "occlusion",
                    .label = "Occlusion",
                    .help = "What is left of ambient light: the screen's share and the material's as they are mixed, "
                            "white where nothing stands close.",
                    .view = LayerView::grey,
                    .file = "occlusion/layers.glsl",
                    .role = "multiplies ambient light"},
                   {.name = "screenOcclusion",
                    .label = "By screen",
                    .help = "What the screen's occlusion alone leaves of ambient light.",
                    .view = LayerView::grey,
                    .file = "occlusion/layers.glsl",
                    .role = "multiplies ambient light",
                    .when = {{"occlusion.kind", {"hemisphere", "horizon"}},
                             {"ambient.kind", {"constant", "gradient", "environment"}}}},
                   {.name = "bakedOcclusion",
                    .label = "By texture",
                    .help = "What the occlusion of materials' textures alone leaves of ambient light.",
                    .view = LayerView::grey,
                    .file = "occlusion/layers.glsl",
                    .role = "multiplies ambient light"}},
        .parameters = {"occlusionReach", // radius, metres; fade; steps a side or points; slices
                       "occlusionUse"},  // power; how it is mixed; -; half the width of the smoothed square, texels
        .mayFeed = {Slot::occlusion},
        .wants = wants_surfaces,
        .plan = plan_occlusion,
        .price = price_occlusion,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
