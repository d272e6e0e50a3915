#include "core/bake/baked_light.h"
#include "core/path/path_kind.h"
#include "core/technique/plan_builder.h"

// Shadows from masks that were computed beforehand, in a frame: what stands still asks a texel where a shadow map would
// be searched. Paths with a G-buffer lay each pixel's place in the masks there.
namespace mirolux::technique {

static std::vector<std::string> wants_places(const FrameInputs& in) {
    return in.scene.baked && in.scene.baked->masks && path_kind(in.setup).deferred
               ? std::vector<std::string>{map_place_resource}
               : std::vector<std::string>{};
}

static void plan_baked_shadows(const FrameInputs& in, PlanBuilder& b) {
    if (!uses_masks(in.setup)) return;
    std::string remark;
    (void)baked_masks_of(in.scene, in.setup, density_of_map(in.scene, in.setup), &remark);
    if (!remark.empty()) b.note(remark);
    if (!in.scene.baked || !in.scene.baked->masks) return;
    const BakedMasks& masks = *in.scene.baked->masks;
    const auto left =
        std::count_if(masks.lamps.begin(), masks.lamps.end(), [](const auto& l) { return l.channel < 0; });
    if (left > 0)
        b.note(std::to_string(left) + " lamps share texels with more than " + std::to_string(most_mask_channels) +
               " others: their shadows are live.");
    b.resource({.name = baked_masks_resource,
                .sampler = "bakedMasks2D",
                .format = Format::rgba8,
                .width = masks.width,
                .height = masks.height,
                .layers = static_cast<int>(masks.sheets.size()),
                .life = Life::scene,
                .fromTop = true,
                .forBothEyes = true,
                .formatNote = "a lamp a channel"});
    b.define("MAP_PLACES");
    b.define("BAKED_MASKS");
    b.set("mapSize", {masks.width, masks.height, 0, 0});
    std::vector<std::string> reads = {baked_masks_resource};
    if (b.wanted(map_place_resource)) {
        b.define("PLACES_ON_SCREEN");
        reads.emplace_back(map_place_resource);
    }
    b.feed(Slot::lightFactor, "baked_shadows/lookup.glsl", "bakedShadow", reads);
}

static void price_baked_shadows(const FramePlan&, const PlannedPass&, const Work& w, CostTerms& t) {
    if (const std::uint64_t reads = w.at("bakedMaskReads")) t["bakedMaskRead"] = static_cast<double>(reads);
}

/// As the device found it, together with what shadow maps leave.
static void factors(const FrameInputs& in, const SurfaceSample& s, std::size_t light, std::vector<LightFactor>& out) {
    if (!uses_masks(in.setup) || in.setup.flag("shadow.maps") || light >= s.lightFactors.size()) return;
    out.push_back({"baked shadow", glm::dvec3(s.lightFactors[light])});
}

const Technique& baked_shadows() {
    static const std::vector<std::pair<std::string, std::string>> exercise = {{"shadow.baked", "on"}};
    static const Technique technique{
        .name = "baked_shadows",
        .settings = {toggle_setting("shadow.baked", "Baked masks", "Shadows", false,
                                    "What stands still has the shadows of lamps that stay where they are from masks "
                                    "that were computed beforehand, four lamps a texel; such a lamp draws shadow maps "
                                    "only while something that moves is in its reach."),
                     whole_setting("shadow.bakedRays", "Rays of masks", "Shadows", 16, 1, 1024, "a lamp",
                                   "Rays to each lamp from a texel of the baked masks that a shadow's edge crosses; "
                                   "baking takes longer, frames do not.")
                         .on_ratio()
                         .only_when("shadow.baked", {"on"})},
        .counters = {{"bakedMaskReads", "Baked mask reads", "lamps whose shadow was read from a baked mask"}},
        .terms = {{"bakedMaskRead", "a lamp's shadow read from a baked mask", exercise, 0.03}},
        .layers = {{.name = "bakedMasks",
                    .label = "Masks",
                    .help = "Share of lamps that baked masks leave: the first three channels of the sheet as red, "
                            "green and blue; a channel holds lamps that reach nothing in common. Grey: no place.",
                    .view = LayerView::color,
                    .file = "baked_shadows/layers.glsl",
                    .when = {{"shadow.baked", {"on"}}}}},
        .parameters = {"mapSize"}, // x, y: of what was baked by texel
        .mayFeed = {Slot::lightFactor},
        .wants = wants_places,
        .plan = plan_baked_shadows,
        .price = price_baked_shadows,
        .factors = factors,
    };
    return technique;
}

} // namespace mirolux::technique
