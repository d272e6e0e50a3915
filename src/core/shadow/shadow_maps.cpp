#include "core/shadow/shadow_maps.h"
#include "core/base/text.h"
#include "core/motion/skinning.h"
#include "core/shadow/shadow_mask.h"
#include "core/surface/subsurface.h"
#include "core/technique/plan_builder.h"
#include <algorithm>
#include <utility>

// Shadow maps (L. Williams, Casting Curved Shadows on Curved Surfaces, 1978): what each light sees of the scene, in one
// atlas, asked by every path's light loop.
namespace mirolux {

std::string unmapped_text(const ShadowSet& set, const DrawList& draws) {
    std::string text;
    for (const NoMap why : {NoMap::casters, NoMap::budget}) {
        int count = 0;
        std::string first;
        for (const MapRefused& r : set.refused) {
            if (r.why != why) continue;
            if (count++ == 0) first = draws.lights[static_cast<std::size_t>(r.light)].name;
        }
        if (count == 0) continue;
        if (!text.empty()) text += " ";
        text += std::to_string(count) + (count == 1 ? " light has" : " lights have") + " no shadow map, " +
                (count == 1 ? "" : "first of them ") + first + ": " +
                (why == NoMap::casters ? "shadow.casters allows no more." : "they do not fit into shadow.budget.");
    }
    return text;
}

std::vector<std::string> shadow_targets(const ShadowSet& set, const Setup& setup) {
    std::vector<std::string> out = {shadow_atlas_resource};
    if (set.cubes > 0) out.emplace_back(shadow_cubes_resource);
    if (is_filterable(shadow_filter(setup))) out.emplace_back(blurred_shadows_resource);
    return out;
}

namespace technique {

/// Taps that one lookup takes.
static int taps_of(ShadowFilter filter, const Setup& setup) {
    switch (filter) {
    case ShadowFilter::hard:
    case ShadowFilter::bilinear:
        return 1;
    case ShadowFilter::disc:
    case ShadowFilter::pcss:
        return setup.whole("shadow.taps");
    default:
        return 1;
    }
}

static Work drawn_into(const FrameInputs& in, const ShadowSet& set, MapKind kind, bool only) {
    Work w;
    for (const ShadowedLight& l : set.lights) {
        if ((l.kind == kind) != only) continue;
        for (int m = l.first; m < l.first + l.count; ++m) {
            const ShadowMap& map = set.maps[static_cast<std::size_t>(m)];
            const std::vector<Object>& objects = in.scene.objects();
            std::uint64_t commands = 0; // neighbours of one mesh are instances of one
            int last = -1;
            for (const int object : map.casters)
                if (const int own = objects[static_cast<std::size_t>(object)].primitive;
                    own != std::exchange(last, own))
                    ++commands;
            w += Work::drawing(commands, map.triangles);
            w.add("shadowTriangles", map.triangles);
            for (const int object : map.casters)
                add_bending(in, object, w);
            w.add("shadowCleared", std::uint64_t(map.size) * static_cast<std::uint64_t>(map.size));
        }
    }
    return w;
}

static const std::vector<std::string> map_keys = {
    "shadow.maps",    "shadow.casters", "shadow.resolution", "shadow.budget", "shadow.near",   "shadow.points",
    "shadow.blended", "shadow.update",  "shadow.still",      "shadow.turn",   "shadow.proxies"};

static void plan_shadow_maps(const FrameInputs& in, PlanBuilder& b) {
    if (!in.setup.flag("shadow.maps")) return;
    const ShadowSet set = shadow_set(in.scene, in.setup, in.view, in.draws);
    if (std::string text = unmapped_text(set, in.draws); !text.empty()) b.note(std::move(text));
    if (set.maps.empty()) return;
    b.resource({.name = shadow_atlas_resource,
                .sampler = "shadowAtlas",
                .format = Format::depth32f,
                .width = std::max(set.width, 16),
                .height = std::max(set.height, 16),
                .life = Life::scene,
                .forBothEyes = true,
                .ownDepths = true,
                .kept = true});
    if (set.cubes > 0)
        b.resource({.name = shadow_cubes_resource,
                    .format = Format::depth32f,
                    .width = set.cubeSize,
                    .height = set.cubeSize,
                    .cubes = set.cubes,
                    .life = Life::scene,
                    .forBothEyes = true,
                    .ownDepths = true,
                    .kept = true});
    const bool apart = keeps_still_apart(in.setup);
    if (apart)
        b.resource({.name = still_shadows_resource,
                    .sampler = "stillShadows",
                    .format = Format::depth32f,
                    .width = std::max(set.width, 16),
                    .height = std::max(set.height, 16),
                    .life = Life::scene,
                    .forBothEyes = true,
                    .ownDepths = true,
                    .kept = true});
    bool suns = false, lamps = false, ownFilters = false;
    for (const ShadowedLight& l : set.lights) {
        (l.kind == MapKind::cascades ? suns : lamps) = true;
        ownFilters = ownFilters || l.look.filter != shadow_filter(in.setup);
    }
    PlannedPass pass{.family = "shadows",
                     .writes = apart ? std::vector<std::string>{shadow_atlas_resource, still_shadows_resource}
                                     : std::vector<std::string>{shadow_atlas_resource},
                     .settings = map_keys,
                     .inLedger = true, // each light's own time
                     .needsBefore = shadow_update(in.setup) == ShadowUpdate::inTurn,
                     .forBothEyes = true};
    if (suns) {
        pass.name = "sun shadow";
        pass.what = "Draws what stands between the directional light and each slice of the view.";
        pass.expected = drawn_into(in, set, MapKind::cascades, true);
        PlannedPass sun = pass;
        for (const char* key : {"cascade.count", "cascade.spread", "cascade.split", "cascade.end1", "cascade.end2",
                                "cascade.end3", "cascade.distance", "cascade.fade", "cascade.blend",
                                "cascade.resolution", "cascade.fit", "cascade.casterReach"})
            sun.settings.emplace_back(key);
        b.pass(sun);
    }
    if (lamps) {
        pass.name = "lamp shadows";
        pass.what = "Draws what each spot sees, and each point in six directions.";
        pass.expected = drawn_into(in, set, MapKind::cascades, false);
        if (set.cubes > 0) pass.writes.emplace_back(shadow_cubes_resource);
        b.pass(pass);
    }
    const ShadowFilter filter = shadow_filter(in.setup);
    b.define("SHADOW_FILTER " + std::to_string(static_cast<int>(filter)));
    b.define("SHADOW_TAPS " + std::to_string(taps_of(ownFilters ? ShadowFilter::pcss : filter, in.setup)));
    b.define(std::string("SHADOW_RECEIVER_PLANE ") + (in.setup.flag("shadow.receiverPlane") ? "1" : "0"));
    if (ownFilters) b.define("SHADOW_FILTER_OF_LIGHT");
    const CascadeChoices& c = set.cascades;
    b.set("shadowFilter", {in.setup.number("shadow.radius"), in.setup.number("shadow.widest"), 0, 0});
    const auto sun = std::find_if(set.lights.begin(), set.lights.end(),
                                  [](const ShadowedLight& l) { return l.kind == MapKind::cascades; });
    b.set("shadowCascades", {c.distance * (1 - c.fade), c.distance, sun == set.lights.end() ? 0 : sun->light + 1, 0});
    if (set.cubes > 0) b.define("SHADOW_CUBES");
    if (mask_layout(in, set).empty())
        b.feed(Slot::lightFactor, "shadow_maps/lookup.glsl", "shadowFactor", shadow_targets(set, in.setup));
    if (shines_through(in.setup, *in.scene.asset) && in.setup.choice("subsurface.thickness") == "map")
        b.feed(Slot::lightThickness, "shadow_maps/lookup.glsl", "shadowThickness", shadow_targets(set, in.setup));
}

static void price_shadow_maps(const FramePlan&, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique == &shadow_maps()) {
        t["run"] = 1;
        if (w.at("draws") == 0) return; // all maps are as they were
        t["writeDepth"] = static_cast<double>(w.at("shadowTexels")) * 4;
        t["clear"] = static_cast<double>(w.at("shadowCleared")) * 4;
        if (w.at("shadowCopied") > 0) t["copy"] = static_cast<double>(w.at("shadowCopied")) * 4;
        return;
    }
    if (w.at("shadowLookups") == 0) return;
    t["shadowLookup"] = static_cast<double>(w.at("shadowLookups"));
    t["shadowTap"] = static_cast<double>(w.at("shadowTaps"));
}

/// As the device found it; 1 where the light has no map.
static void factors(const FrameInputs& in, const SurfaceSample& s, std::size_t light, std::vector<LightFactor>& out) {
    if (!in.setup.flag("shadow.maps") || light >= s.lightFactors.size()) return;
    out.push_back({"shadow", glm::dvec3(s.lightFactors[light])});
}

static std::vector<Setting> settings() {
    const std::vector<std::string> on = {"on"};
    const auto shadow = [&](Setting s) { return std::move(s).only_when("shadow.maps", on); };
    return {
        toggle_setting("shadow.maps", "Shadow maps", "Shadows", false,
                       "Lights draw what they see and light only that; each map costs a pass over what stands in its "
                       "light, each lit pixel a lookup."),
        shadow(choice_setting(
            "shadow.filter", "Filter", "Shadows",
            {"hard", "bilinear", "disc", "pcss", "variance", "exponential", "moments"}, "bilinear",
            "hard: one texel, edges of steps; bilinear: four texels weighed; disc: taps over a disc of fixed width; "
            "pcss: as wide as the light's real size makes the penumbra, with a search before it; variance, "
            "exponential, moments: maps are blurred once and asked once, but light leaks behind a second caster.")),
        shadow(whole_setting("shadow.taps", "Taps", "Shadows", 16, 4, 64, "",
                             "Lookups a pixel of disc and pcss (pcss searches with half as many before); fewer are "
                             "cheaper and show grain."))
            .only_when("shadow.filter", {"disc", "pcss"}),
        shadow(number_setting("shadow.radius", "Disc", "Shadows", 2.0, 0.5, 32.0, "texels",
                              "Radius of the disc; wider is softer and needs more taps and bias.")
                   .on_ratio())
            .only_when("shadow.filter", {"disc"}),
        shadow(number_setting("shadow.widest", "Widest search", "Shadows", 48.0, 2.0, 512.0, "texels",
                              "Farthest from a pixel's place in the map that pcss searches and filters; bounds grain "
                              "and cost of very soft shadows.")
                   .on_ratio())
            .only_when("shadow.filter", {"pcss"}),
        shadow(whole_setting("shadow.casters", "Casting lights", "Shadows", 8, 0, 64, "",
                             "Lights that get maps at most: directional ones first, then by projected size times "
                             "intensity; the rest shine through everything.")),
        shadow(whole_setting("shadow.resolution", "Map of a lamp", "Shadows", 512, 16, 8192, "texels",
                             "Side of the most important lamp's maps, a power of two; others get less by the root of "
                             "their importance.")
                   .on_ratio()),
        shadow(number_setting("shadow.bias", "Bias", "Shadows", 0.02, 0.0, 10.0, "m",
                              "Moves each lookup toward the light: less acne, but shadows come off what casts them.")),
        shadow(number_setting("shadow.slopeBias", "Bias by slope", "Shadows", 1.0, 0.0, 32.0, "texels",
                              "The same by as much as the surface's depth changes over so many texels of the map.")),
        shadow(number_setting("shadow.normalOffset", "Normal offset", "Shadows", 0.5, 0.0, 32.0, "texels",
                              "Moves each lookup along the surface's normal, the more the flatter the light falls.")),
        shadow(toggle_setting("shadow.receiverPlane", "Receiver plane", "Shadows", true,
                              "Filters compare each tap with the surface's own plane there, not with one depth: wide "
                              "filters without more bias."))
            .only_when("shadow.filter", {"disc", "pcss"}),
        shadow(number_setting("shadow.opacity", "Opacity", "Shadows", 1.0, 0.0, 1.0, "",
                              "How much of the light a shadow takes away; a light at 0 gets no map.")),
        shadow(number_setting("shadow.near", "Near plane", "Shadows", 0.3, 0.001, 100.0, "m",
                              "Around a lamp nothing casts up to here: its own glass and shade.")
                   .on_ratio()),
        shadow(number_setting("shadow.budget", "Budget of maps", "Shadows", 64.0, 0.25, 1024.0, "MiB",
                              "The atlas takes no more than this; maps are halved until they fit, the least important "
                              "lights go without.")
                   .on_ratio()),
        shadow(choice_setting("shadow.points", "Points' maps", "Shadows", {"atlas", "cube"}, "atlas",
                              "atlas: six places, each light as large as it matters; cube: a cube map that is asked by "
                              "direction, without seams between faces, all lights of one size."))
            .only_when("shadow.filter", {"hard", "bilinear", "disc", "pcss"}),
        shadow(choice_setting("shadow.update", "Update", "Shadows", {"always", "changed", "in-turn"}, "changed",
                              "always: every map, every frame; changed: those whose light or casters have changed, the "
                              "same picture for less; in-turn: the oldest few, which lag behind what moves.")),
        shadow(toggle_setting("shadow.still", "Still casters apart", "Shadows", false,
                              "Depths of what stands still are kept in an atlas of their own: a map in which something "
                              "moves is those copied, with only that drawn anew; twice the bytes."))
            .only_when("shadow.update", {"changed", "in-turn"}),
        shadow(whole_setting("shadow.turn", "Maps a frame", "Shadows", 2, 1, 64, "",
                             "How many of the oldest maps are drawn in a frame; the others show what was."))
            .only_when("shadow.update", {"in-turn"}),
        shadow(choice_setting("shadow.blended", "Blended surfaces cast", "Shadows", {"nothing", "whole", "dithered"},
                              "dithered",
                              "What glass and the like cast: nothing, a whole shadow, or as many texels as their "
                              "alpha says; they receive shadows in any case.")),
        shadow(
            toggle_setting("shadow.proxies", "Proxies", "Shadows", true,
                           "Boxes cast in place of the objects that are marked so: fewer triangles in every map, and "
                           "shadows as exact as the boxes are.")),
        shadow(whole_setting("cascade.count", "Cascades", "Shadows", 4, 1, 4, "",
                             "Maps of a directional light, one for each slice of the view's depth; each costs a pass "
                             "over what it sees.")),
        shadow(choice_setting("cascade.split", "Slices end", "Shadows", {"by-spread", "by-hand"}, "by-spread",
                              "Where slices end: between even steps and equal ratios, or at depths by hand.")),
        shadow(number_setting("cascade.spread", "Spread", "Shadows", 0.75, 0.0, 1.0, "",
                              "0: slices of equal depth; 1: of equal ratio, fine near the eye."))
            .only_when("cascade.split", {"by-spread"}),
        shadow(number_setting("cascade.end1", "First ends", "Shadows", 8.0, 0.1, 10000.0, "m",
                              "View depth where the first slice ends.")
                   .on_ratio())
            .only_when("cascade.split", {"by-hand"}),
        shadow(number_setting("cascade.end2", "Second ends", "Shadows", 20.0, 0.1, 10000.0, "m",
                              "View depth where the second slice ends.")
                   .on_ratio())
            .only_when("cascade.split", {"by-hand"}),
        shadow(number_setting("cascade.end3", "Third ends", "Shadows", 50.0, 0.1, 10000.0, "m",
                              "View depth where the third slice ends.")
                   .on_ratio())
            .only_when("cascade.split", {"by-hand"}),
        shadow(number_setting("cascade.distance", "Distance", "Shadows", 120.0, 1.0, 10000.0, "m",
                              "View depth to which the directional light casts; shorter gives finer texels.")
                   .on_ratio()),
        shadow(number_setting("cascade.fade", "Fade", "Shadows", 0.1, 0.0, 1.0, "",
                              "Share of the distance over which shadows fade out at its end.")),
        shadow(number_setting("cascade.blend", "Blend", "Shadows", 0.1, 0.0, 1.0, "",
                              "Share of a slice over which it goes over into the next: hides the seam, costs a second "
                              "lookup there.")),
        shadow(whole_setting("cascade.resolution", "Map of a slice", "Shadows", 1024, 16, 8192, "texels",
                             "Side of each cascade's map; rounded down to a power of two.")
                   .on_ratio()),
        shadow(choice_setting("cascade.fit", "Fit", "Shadows", {"slice", "sphere"}, "sphere",
                              "slice: the finest texels, which crawl when the camera turns; sphere: as large in every "
                              "direction, texels stay where they are.")),
        shadow(number_setting("cascade.casterReach", "Casters' reach", "Shadows", 60.0, 0.0, 10000.0, "m",
                              "How far toward the light from a slice casters count; nearer the light they are "
                              "flattened onto the map's near plane.")),
    };
}

const Technique& shadow_maps() {
    static const std::vector<Condition> on = {{"shadow.maps", {"on"}}};
    static const Technique technique{
        .name = "shadow_maps",
        .settings = settings(),
        .counters = {{"shadowTriangles", "Shadow triangles", "triangles drawn into shadow maps"},
                     {"shadowTexels", "Shadow texels", "texels that triangles write in shadow maps"},
                     {"shadowCleared", "Shadow texels cleared", "texels of shadow maps cleared before they are drawn"},
                     {"shadowCopied", "Shadow texels copied", "texels of still casters copied into shadow maps"},
                     {"shadowLookups", "Shadow lookups", "times a map was asked about a light at a point"},
                     {"shadowTaps", "Shadow taps", "depths compared or searched in shadow maps"}},
        .terms = {{"shadowLookup",
                   "a place found in a shadow map",
                   {{"shadow.maps", "on"}, {"shadow.filter", "hard"}, {"shadow.update", "always"}},
                   0.15},
                  {"shadowTap",
                   "a depth compared in a shadow map",
                   {{"shadow.maps", "on"}, {"shadow.filter", "disc"}, {"shadow.update", "always"}},
                   0.03}},
        .layers = {{.name = "shadow",
                    .label = "Shadow",
                    .help = "Share of the lamps' light that shadows leave, over all lights of the pixel.",
                    .view = LayerView::plain,
                    .file = "shadow_maps/layers.glsl",
                    .role = "multiplies the lamps' light",
                    .when = on},
                   {.name = "lightshadow",
                    .label = "Shadow of one light",
                    .help = "Share of the chosen light that its shadow leaves.",
                    .view = LayerView::plain,
                    .file = "shadow_maps/layers.glsl",
                    .exact = true,
                    .ofLight = true,
                    .when = on},
                   {.name = "cascades",
                    .label = "Cascades",
                    .help = "Which of a directional light's maps each pixel takes: blue, green, yellow, red from near "
                            "to far, grey beyond.",
                    .view = LayerView::color,
                    .file = "shadow_maps/layers.glsl",
                    .when = on}},
        .parameters = {"shadowFilter",    // x: disc's radius, texels; y: widest search, texels
                       "shadowCascades"}, // metres of view depth, x: where fading begins, y: ends; z: first directional
                                          // light with maps, plus one
        .mayFeed = {Slot::lightFactor, Slot::lightThickness},
        .plan = plan_shadow_maps,
        .price = price_shadow_maps,
        .factors = factors,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
