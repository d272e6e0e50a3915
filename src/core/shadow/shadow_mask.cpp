#include "core/shadow/shadow_mask.h"
#include "core/path/path_kind.h"
#include "core/shadow/shadow_maps.h"
#include "core/technique/plan_builder.h"
#include <algorithm>
#include <cmath>

// A screen mask of shadows: where several surfaces cover a pixel before the nearest is known, or a light is taken up
// more than once, looking maps up beforehand costs each pixel once; at half size it costs a quarter, and the picture
// its finest edges.
namespace mirolux {

namespace {

constexpr int largest_target = 16384; // texels along a side that every device of our kind gives

} // namespace

int MaskLayout::channel_of(int light) const {
    const auto it = std::find(lights.begin(), lights.end(), light);
    return it == lights.end() ? -1 : static_cast<int>(it - lights.begin());
}

ShadowResolve shadow_resolve(const Setup& setup) {
    const std::string& word = setup.choice("shadow.resolve");
    return word == "mask"        ? ShadowResolve::mask
           : word == "half-mask" ? ShadowResolve::halfMask
                                 : ShadowResolve::shading;
}

MaskLayout mask_layout(const FrameInputs& in, const ShadowSet& set, std::string* why) {
    MaskLayout out;
    if (!masks_shadows(in.setup) || set.lights.empty()) return out;
    if (in.view.stereo == Stereo::onePass) {
        if (why) *why = "Shadows are looked up in shading: one pass over both eyes has no picture before it to mask.";
        return out;
    }
    std::vector<const ShadowedLight*> order;
    for (const ShadowedLight& l : set.lights)
        order.push_back(&l);
    std::stable_sort(order.begin(), order.end(),
                     [](const ShadowedLight* a, const ShadowedLight* b) { return a->importance > b->importance; });
    const int sets = (static_cast<int>(order.size()) + 3) / 4;
    const int columns = static_cast<int>(std::ceil(std::sqrt(sets))), rows = (sets + columns - 1) / columns;
    if (columns * in.view.width > largest_target || rows * in.view.height > largest_target) {
        if (why)
            *why = "Shadows are looked up in shading: a mask of " + std::to_string(order.size()) +
                   " lights is larger than a target can be; lower shadow.casters.";
        return out;
    }
    out.columns = columns;
    out.rows = rows;
    for (const ShadowedLight* l : order)
        out.lights.push_back(l->light);
    return out;
}

namespace technique {

static std::vector<std::string> wants_normals(const FrameInputs& in) {
    if (!masks_shadows(in.setup)) return {};
    const ShadowSet set = shadow_set(in.scene, in.setup, in.view, in.draws);
    return mask_layout(in, set).empty() ? std::vector<std::string>{} : std::vector<std::string>{"normal"};
}

static std::vector<std::string> lookup_keys() {
    std::vector<std::string> keys = {"shadow.resolve"};
    for (const Setting& s : shadow_maps().settings)
        keys.push_back(s.key);
    return keys;
}

static void plan_shadow_mask(const FrameInputs& in, PlanBuilder& b) {
    if (!masks_shadows(in.setup)) return;
    const ShadowSet set = shadow_set(in.scene, in.setup, in.view, in.draws);
    std::string why;
    const MaskLayout layout = mask_layout(in, set, &why);
    if (!why.empty()) b.note(why);
    if (layout.empty()) return;
    const bool half = shadow_resolve(in.setup) == ShadowResolve::halfMask;
    const int w = in.view.width, h = in.view.height;
    std::vector<std::string> reads = {"depth", "normal"};
    for (std::string& name : shadow_targets(set, in.setup))
        reads.push_back(std::move(name));
    b.resource({.name = shadow_mask_resource,
                .sampler = "shadowMask",
                .format = Format::rgba8,
                .width = layout.columns * w,
                .height = layout.rows * h,
                .kept = true});
    if (half)
        b.resource({.name = half_shadow_mask_resource,
                    .sampler = "halfShadowMask",
                    .format = Format::rgba8,
                    .width = layout.columns * ((w + 1) / 2),
                    .height = layout.rows * ((h + 1) / 2)});
    const Work work =
        Work::drawing(static_cast<std::uint64_t>(layout.sets()), static_cast<std::uint64_t>(layout.sets()));
    b.pass({.name = "shadow mask",
            .family = "shadows",
            .what = half ? "Looks shadow maps up once for four pixels, four lights at a time."
                         : "Looks shadow maps up once for each pixel, four lights at a time.",
            .reads = reads,
            .writes = {half ? half_shadow_mask_resource : shadow_mask_resource},
            .settings = lookup_keys(),
            .expected = work,
            .inLedger = true});
    if (half)
        b.pass({.name = "spread mask",
                .family = "shadows",
                .what = "Spreads the half mask over the pixels that lie in the same plane.",
                .reads = {"depth", "normal", half_shadow_mask_resource},
                .writes = {shadow_mask_resource},
                .settings = {"shadow.resolve"},
                .expected = work});
    b.define("SHADOW_MASKED");
    b.set("shadowMask", {layout.columns, layout.rows, 2 * std::tan(0.5 * in.view.camera.fovY) / std::max(1, h), 0});
    b.feed(Slot::lightFactor, "shadow_mask/fetch.glsl", "maskedShadow", {shadow_mask_resource, "depth"});
}

static void price_shadow_mask(const FramePlan&, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (const std::uint64_t reads = w.at("maskReads")) t["maskRead"] = static_cast<double>(reads);
    if (pass.technique != &shadow_mask()) return;
    const auto fragments = static_cast<double>(w.at("fragments"));
    t["run"] = 1;
    t["writeUnorm"] = fragments * 4;
    t[pass.name == "spread mask" ? "maskSpread" : "maskPixel"] = fragments;
}

const Technique& shadow_mask() {
    static const Technique technique{
        .name = "shadow_mask",
        .settings = {choice_setting("shadow.resolve", "Looked up", "Shadows", {"shading", "mask", "half-mask"},
                                    "shading",
                                    "shading: by each surface for each light; mask: once a pixel into a target before "
                                    "shading, four lights at a time; half-mask: once for four pixels, spread by depth: "
                                    "a quarter of the lookups, and coarser edges.")
                         .only_when("shadow.maps", {"on"})},
        .counters = {{"maskReads", "Mask reads", "lights whose shadow was read from the screen's mask"}},
        .terms = {{"maskPixel",
                   "a pixel's surface taken up for the mask of shadows",
                   {{"shadow.maps", "on"}, {"shadow.resolve", "mask"}, {"shadow.filter", "hard"}},
                   0.02},
                  {"maskSpread",
                   "a pixel of the half mask spread by depth",
                   {{"shadow.maps", "on"}, {"shadow.resolve", "half-mask"}, {"shadow.filter", "hard"}},
                   0.04},
                  {"maskRead",
                   "a light's shadow read from the mask",
                   {{"shadow.maps", "on"}, {"shadow.resolve", "mask"}, {"shadow.filter", "hard"}},
                   0.01}},
        .layers = {{.name = "mask",
                    .label = "Shadow mask",
                    .help = "The screen's mask: shadows of the four most important lights in blue, orange, green and "
                            "red, as coarse as it holds them.",
                    .view = LayerView::color,
                    .file = "shadow_mask/layers.glsl",
                    .when = {{"shadow.maps", {"on"}}, {"shadow.resolve", {"mask", "half-mask"}}}}},
        .parameters = {"shadowMask"}, // x, y: tiles of a set of four lights each, across and up; z: a
                                      // pixel's width at distance 1
        .mayFeed = {Slot::lightFactor},
        .wants = wants_normals,
        .plan = plan_shadow_mask,
        .price = price_shadow_mask,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
