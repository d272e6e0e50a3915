#include "core/bake/baked_light.h"
#include "core/technique/plan_builder.h"
#include <fmt/format.h>

// Light that was computed beforehand, in a frame: surfaces that have a place in a light map read it.
namespace mirolux::technique {

static void plan_indirect_light(const FrameInputs& in, PlanBuilder& b) {
    if (!uses_light_map(in.setup)) return;
    std::string remark;
    (void)baked_light_of(in.scene, in.setup, &remark);
    if (!remark.empty()) b.note(remark);
    if (!in.scene.baked || !in.scene.baked->lit()) return;
    const BakedLight& baked = *in.scene.baked;
    const std::vector<glm::vec3> factors = layer_factors(in.scene, in.time.seconds);
    const auto lit =
        std::count_if(factors.begin(), factors.end(), [](const glm::vec3& f) { return f != glm::vec3(0.0f); });
    const Format formats[] = {Format::rgb16f, Format::rgba8, Format::rgb9e5, Format::bc6h};
    const int layers = static_cast<int>(baked.layers.size()), directions = directions_of(baked.kind);
    b.resource({.name = light_map_resource,
                .sampler = "mapLight2D",
                .format = formats[static_cast<std::size_t>(baked.store)],
                .width = baked.layout.width,
                .height = baked.layout.height,
                .layers = layers,
                .life = Life::scene,
                .fromTop = true,
                .forBothEyes = true,
                .formatNote = baked.store == TexelStore::rgbm ? "roots over a factor" : ""});
    std::vector<std::string> reads = {light_map_resource};
    if (directions > 0) {
        b.resource({.name = light_map_directions_resource,
                    .sampler = "mapDirections2D",
                    .format = Format::rgba8,
                    .width = baked.layout.width,
                    .height = baked.layout.height,
                    .layers = layers * directions,
                    .life = Life::scene,
                    .fromTop = true,
                    .forBothEyes = true});
        reads.emplace_back(light_map_directions_resource);
    }
    b.define("LIGHT_MAP");
    b.define("MAP_PLACES");
    b.define("MAP_DIRECTIONS " + std::to_string(directions));
    b.define(std::string("MAP_FACTORED ") + (baked.store == TexelStore::rgbm ? "1" : "0"));
    b.set("lightMap", {static_cast<float>(lit), 0, 0, 0});
    b.feed(Slot::baked, "indirect_light/lookup.glsl", "bakedLight", reads);
}

static void price_indirect_light(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (!plan.feeds_slot(&indirect_light(), pass)) return;
    if (const std::uint64_t reads = w.at("mapReads")) t["mapRead"] = static_cast<double>(reads);
}

const Technique& indirect_light() {
    static const std::vector<std::pair<std::string, std::string>> exercise = {{"indirect.kind", "lightmap"}};
    const auto of = [](Setting s) { return std::move(s).only_when("indirect.kind", {"lightmap"}); };
    const std::vector<Condition> shown = {{"indirect.kind", {"lightmap"}}};
    static const Technique technique{
        .name = "indirect_light",
        .settings =
            {choice_setting("indirect.kind", "Indirect light", "Ambient", {"none", "lightmap", "probes"}, "none",
                            "Light that was computed beforehand. lightmap: what stands still takes all light of still "
                            "and switched lights, bounced light and ambient light from a map; what moves is lit live. "
                            "probes: bounced light and ambient light come from probes in space."),
             of(number_setting(
                    "lightmap.density", "Texels", "Ambient", 8.0, 0.25, 128.0, "a metre",
                    "Texels of the light map a metre of surface. Memory and the time of baking grow with its "
                    "square.")
                    .on_ratio()
                    .or_when("shadow.baked", {"on"})
                    .or_when("occlusion.baked", {"texture"})),
             of(choice_setting("lightmap.source", "Computed by", "Ambient", {"paths", "patches"}, "paths",
                               "paths: followed from each texel, for every material; patches: each texel is a patch, "
                               "and those with most light left shoot first: matt surfaces alone, light to its end, "
                               "and every step can be watched.")),
             of(whole_setting("patches.rays", "Rays a shot", "Ambient", 512, 16, 65536, "",
                              "Rays by which a patch finds what its light falls on.")
                    .on_ratio()
                    .only_when("lightmap.source", {"patches"})),
             of(number_setting("patches.rest", "Light left", "Ambient", 1, 0.01, 50, "%",
                               "Patches stop shooting when so much of all light is left.")
                    .on_ratio()
                    .only_when("lightmap.source", {"patches"})),
             of(whole_setting("lightmap.paths", "Paths", "Ambient", 64, 1, 16384, "a texel",
                              "Paths that are followed from each texel: twice as smooth takes four times as many.")
                    .on_ratio()
                    .only_when("lightmap.source", {"paths"})),
             of(whole_setting("lightmap.bounces", "Bounces", "Ambient", -1, -1, 64, "",
                              "Bounces of light after the surface itself; -1: as many as it takes.")
                    .only_when("lightmap.source", {"paths"})),
             of(choice_setting(
                 "lightmap.store", "Stored as", "Ambient", {"half", "rgbm", "exponent", "bc6h"}, "half",
                 "half: 6 bytes a texel; rgbm: 8 bits and a factor, 4 bytes, read four times; exponent: 9 "
                 "bits and an exponent, 4 bytes; bc6h: blocks of 4x4, 1 byte.")),
             of(choice_setting(
                 "lightmap.kind", "Directions", "Ambient", {"plain", "dominant", "harmonics"}, "dominant",
                 "plain: none, highlights of still lights are gone; dominant: one direction, 4 bytes more "
                 "a texel; harmonics: one for each channel, 12 bytes more.")),
             of(toggle_setting("lightmap.stitch", "Seams stitched", "Ambient", true,
                               "Makes lookups on both sides of a chart's border agree.")),
             of(toggle_setting("lightmap.denoise", "Smoothed", "Ambient", false,
                               "Bounced light is smoothed along surfaces, so that fewer paths do."))},
        .counters = {{"mapReads", "Light map reads", "lookups in the light map and its directions"}},
        .terms = {{"mapRead", "a lookup in the light map", exercise, 0.05}},
        .layers = {{.name = "baked",
                    .label = "Baked",
                    .help = "What surfaces send on of light from the map, diffuse and specular.",
                    .view = LayerView::radiance,
                    .file = "indirect_light/layers.glsl",
                    .throughGlass = true,
                    .addsUp = true,
                    .when = shown},
                   {.name = "bakedSpecular",
                    .label = "Baked spec.",
                    .help = "The part of it that a specular lobe sends: what is left of still lights' highlights.",
                    .view = LayerView::radiance,
                    .file = "indirect_light/layers.glsl",
                    .throughGlass = true,
                    .role = "part of Baked",
                    .when = shown},
                   {.name = "mapTexels",
                    .label = "Texels",
                    .help =
                        "A checker of the light map's texels, by how many there are a metre: red 1, yellow 4, green "
                        "16, blue 64; as .exr, alpha holds the number. Grey: no place in the map.",
                    .view = LayerView::color,
                    .file = "indirect_light/layers.glsl",
                    .when = shown},
                   {.name = "mapCharts",
                    .label = "Charts",
                    .help = "A colour for each chart that a mesh is cut into to lie flat in the map.",
                    .view = LayerView::color,
                    .file = "indirect_light/layers.glsl",
                    .when = shown}},
        .parameters = {"lightMap"}, // x: layers that are lit
        .mayFeed = {Slot::baked},
        .plan = plan_indirect_light,
        .price = price_indirect_light,
    };
    return technique;
}

} // namespace mirolux::technique
