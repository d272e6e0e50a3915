#include "core/surface/subsurface.h"
#include "core/path/surface_pass.h"
#include "core/surface/surface_model.h"
#include "core/technique/plan_builder.h"
#include <cmath>

namespace mirolux {

Subsurface subsurface_kind(const Setup& setup, const SceneAsset& asset) {
    const std::string& kind = setup.choice("subsurface.kind");
    if (kind == "none" || !scatters(asset)) return Subsurface::none;
    return kind == "blur" ? Subsurface::blur : Subsurface::wrapped;
}

bool shines_through(const Setup& setup, const SceneAsset& asset) {
    return subsurface_kind(setup, asset) != Subsurface::none && setup.choice("subsurface.thickness") != "none";
}

const std::array<ScatterGaussian, 6>& scatter_profile() {
    static const auto profile = [] {
        std::array<ScatterGaussian, 6> red = {
            {{0.233, 0.0064}, {0.100, 0.0484}, {0.118, 0.187}, {0.113, 0.567}, {0.358, 1.99}, {0.078, 7.41}}}; // mm2
        double whole = 0;
        for (const ScatterGaussian& g : red)
            whole += g.weight * g.variance;
        for (ScatterGaussian& g : red)
            g.variance /= whole;
        return red;
    }();
    return profile;
}

/// Of the profile with root mean square 1, what lies left of x.
static double left_of(double x) {
    double sum = 0;
    for (const ScatterGaussian& g : scatter_profile())
        sum += g.weight * 0.5 * std::erfc(-x / std::sqrt(2 * g.variance));
    return sum;
}

std::vector<ScatterTap> scatter_taps(const glm::dvec3& distance, int taps) {
    const int side = taps / 2;
    const double reach = 3 * brdf::largest(distance);
    std::vector<ScatterTap> out(static_cast<std::size_t>(2 * side + 1));
    for (int i = -side; i <= side; ++i) {
        const double u = side > 0 ? double(i) / side : 0;
        out[static_cast<std::size_t>(i + side)].metres = reach * u * std::abs(u);
    }
    for (int c = 0; c < 3; ++c)
        for (std::size_t i = 0; i < out.size(); ++i) {
            if (distance[c] <= 0) {
                out[i].weight[c] = static_cast<int>(i) == side ? 1 : 0;
                continue;
            }
            const double below = i == 0 ? 0 : left_of(0.5 * (out[i - 1].metres + out[i].metres) / distance[c]),
                         above =
                             i + 1 == out.size() ? 1 : left_of(0.5 * (out[i].metres + out[i + 1].metres) / distance[c]);
            out[i].weight[c] = above - below;
        }
    return out;
}

glm::dvec3 through_slab(double metres, const glm::dvec3& distance) {
    glm::dvec3 out(0.0);
    for (int c = 0; c < 3; ++c) {
        if (distance[c] <= 0) continue;
        const double t = metres / distance[c];
        for (const ScatterGaussian& g : scatter_profile())
            out[c] += g.weight * std::exp(-t * t / (2 * g.variance));
    }
    return out;
}

glm::dvec3 wrapped_ramp(double cosine, const glm::dvec3& wrap) {
    return glm::max(glm::dvec3(cosine) + wrap, glm::dvec3(0.0)) / ((1.0 + wrap) * (1.0 + wrap));
}

glm::dvec3 wrap_of(const glm::dvec3& distance, double most) {
    const double farthest = brdf::largest(distance);
    return farthest > 0 ? distance * (most / farthest) : glm::dvec3(0.0);
}

glm::dvec3 beneath_lobe(brdf::Model model, const brdf::Surface& s, double cosView) {
    const glm::dvec3 body = s.baseColor * brdf::lambert();
    if (model == brdf::Model::lambert) return body;
    if (model != brdf::Model::ggx) return body * (1 - s.metallic);
    return body * ((1 - s.metallic) * (1 - brdf::largest(s.optics.f0)) * (1 - s.coated(cosView)));
}

glm::dvec3 ball_shade(const Setup& setup, const brdf::Optics& optics, double radius, double cosine) {
    const std::string& kind = setup.choice("subsurface.kind");
    const glm::dvec3 distance(optics.scatterDistance);
    if (kind == "none" || distance == glm::dvec3(0.0)) return glm::dvec3(std::max(cosine, 0.0));
    glm::dvec3 out(0.0);
    if (kind == "wrapped")
        out = wrapped_ramp(cosine, wrap_of(distance, setup.number("subsurface.wrap")));
    else {
        const double angle = std::acos(std::clamp(cosine, -1.0, 1.0));
        for (const ScatterTap& t : scatter_taps(distance, 65))
            out +=
                t.weight *
                std::max(0.0, std::cos(angle + std::clamp(t.metres / radius, -glm::pi<double>(), glm::pi<double>())));
    }
    if (cosine < 0 && setup.choice("subsurface.thickness") != "none")
        out += -cosine * through_slab(-2 * radius * cosine, distance);
    return out;
}

namespace technique {

static std::vector<std::string> wants_light(const FrameInputs& in) {
    if (in.view.stereo == Stereo::onePass || subsurface_kind(in.setup, *in.scene.asset) != Subsurface::blur) return {};
    return {diffuse_light_resource};
}

static void plan_blur(const FrameInputs& in, PlanBuilder& b) {
    if (in.view.stereo == Stereo::onePass)
        return b.note("Light beneath surfaces is not spread: one pass over both eyes has no depth of its own.");
    const int taps = in.setup.whole("subsurface.taps") | 1;
    b.define("SUBSURFACE_TAPS " + std::to_string(taps));
    const auto target = [&](const char* name, const char* sampler, bool kept) {
        b.resource({.name = name, .sampler = sampler, .format = Format::rgba16f, .kept = kept});
    };
    target(diffuse_light_resource, "diffuseLight", true);
    target("spread across", "spreadAcross", false);
    target(subsurface_resource, "spreadLight", true);
    const std::vector<std::string> keys = {"subsurface.kind", "subsurface.taps", "subsurface.distance"};
    b.pass({.name = "spread across",
            .family = "lights",
            .what = "Spreads diffuse light along the picture's width, as far as it goes beneath each surface.",
            .reads = {"depth", diffuse_light_resource},
            .writes = {"spread across"},
            .settings = keys,
            .expected = screen_work()});
    b.pass({.name = "spread down",
            .family = "lights",
            .what = "Spreads it along the height, and puts it in the place of the light that fell there.",
            .reads = {"depth", diffuse_light_resource, "spread across"},
            .writes = {"scene", subsurface_resource},
            .settings = keys,
            .expected = screen_work()});
}

static void plan_subsurface(const FrameInputs& in, PlanBuilder& b) {
    const Subsurface kind = subsurface_kind(in.setup, *in.scene.asset);
    if (kind == Subsurface::none) return;
    const bool wrapped = kind == Subsurface::wrapped;
    b.define("SUBSURFACE");
    if (wrapped) b.define("SUBSURFACE_WRAPPED");
    const std::string& thickness = in.setup.choice("subsurface.thickness");
    if (thickness != "none") b.define(thickness == "map" ? "SUBSURFACE_THICKNESS 1" : "SUBSURFACE_THICKNESS 2");
    b.set("subsurface", {wrapped ? in.setup.number("subsurface.wrap") : 0,
                         in.view.height / (2 * std::tan(0.5 * in.view.camera.fovY)), 0, 0});
    if (!wrapped) plan_blur(in, b);
}

static void price_subsurface(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (w.at("throughLights") > 0) t["through"] = static_cast<double>(w.at("throughLights"));
    if (pass.technique != &subsurface()) return;
    const auto fragments = static_cast<double>(w.at("fragments"));
    t["run"] = 1;
    t["spreadRead"] = static_cast<double>(w.at("spreadReads"));
    t["spreadPixel"] = fragments;
    if (pass.name == "spread down") t["clear"] += plan.pixels() * info_of(Format::rgba16f).bytes;
}

const Technique& subsurface() {
    static const std::vector<std::pair<std::string, std::string>> exercise = {{"subsurface.kind", "blur"},
                                                                              {"subsurface.thickness", "texture"}};
    const auto of = [](Setting s) { return std::move(s).only_when("subsurface.kind", {"blur", "wrapped"}); };
    const std::vector<Condition> through = {{"subsurface.kind", {"blur", "wrapped"}},
                                            {"subsurface.thickness", {"texture", "map"}}};
    static const Technique technique{
        .name = "subsurface",
        .settings =
            {choice_setting(
                 "subsurface.kind", "Light beneath", "Ambient", {"none", "blur", "wrapped"}, "none",
                 "Of materials that tell how far light goes beneath their surface (wax, skin). blur: diffuse "
                 "light is spread on the screen by a measured profile; wrapped: each light's shade begins "
                 "later, softer in the colours that go far; costs next to nothing."),
             of(number_setting("subsurface.distance", "Goes beneath", "Ambient", 1, 0.1, 10, "",
                               "Times the distance that the materials tell.")
                    .on_ratio()),
             whole_setting("subsurface.taps", "Spread taps", "Ambient", 17, 5, 49, "",
                           "blur: places looked at along each axis, an odd number; fewer show steps, time follows.")
                 .only_when("subsurface.kind", {"blur"}),
             number_setting("subsurface.wrap", "Wrap", "Ambient", 0.5, 0, 1, "",
                            "wrapped: how far past the terminator light comes, as a cosine, in the colour that goes "
                            "farthest.")
                 .only_when("subsurface.kind", {"wrapped"}),
             of(choice_setting(
                 "subsurface.thickness", "Shines through", "Ambient", {"none", "map", "texture"}, "none",
                 "Light comes through thin parts to the far side. map: as thick as the light's shadow map "
                 "tells, and not from lights without one; texture: as the material tells."))},
        .counters = {{"spreadReads", "Spread reads", "places looked at to spread light beneath surfaces"},
                     {"throughLights", "Lights from behind",
                      "lights behind a surface that lets light through, evaluated"}},
        .terms = {{"spreadRead", "a place looked at to spread light beneath surfaces", exercise, 0.05},
                  {"spreadPixel", "a pixel asked whether light goes beneath its surface", exercise, 0.02},
                  {"through", "a light evaluated through a thing that stands before it", exercise, 0.2}},
        .layers = {{.name = "subsurface",
                    .label = "Beneath",
                    .help = "Diffuse light of surfaces that let it in, spread as far as it goes beneath them.",
                    .view = LayerView::radiance,
                    .resource = subsurface_resource,
                    .role = "takes the place of Diffuse",
                    .when = {{"subsurface.kind", {"blur"}}}},
                   {.name = "through",
                    .label = "Through",
                    .help = "Light that comes through thin parts from behind.",
                    .view = LayerView::radiance,
                    .file = "subsurface/layers.glsl",
                    .throughGlass = true,
                    .when = through}},
        .parameters = {"subsurface"}, // x: wrap, y: pixels of a metre at distance 1
        .wants = wants_light,
        .plan = plan_subsurface,
        .price = price_subsurface,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
