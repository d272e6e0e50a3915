#include "core/blocks/block_stage.h"

// Rays from each cell toward the sun and away from it.
namespace mirolux::technique {

using namespace blocks;

static void plan_block_cast(const FrameInputs& in, PlanBuilder& b) {
    if (way_of(in.setup) != Way::cast) return;
    const CastOptions o = cast_options(in.setup);
    b.set("blockCast", glm::vec4(static_cast<float>(o.clamp), static_cast<float>(o.shade), static_cast<float>(o.power),
                                 static_cast<float>(o.hue)));
    b.pass(light_pass("Lights each pixel by its face, and by what its cell's rays toward the sun and away from it met.",
                      {"cast.reach", "cast.clamp", "cast.shade", "cast.power", "cast.hue", "cast.headings"}));
}

static void price_block_cast(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique == &block_cast()) price_light_pass(plan, w, 3, 60, t);
}

const Technique& block_cast() {
    static const auto of = [](Setting s) { return std::move(s).only_when("blocks.light", {"cast"}); };
    static const Technique technique{
        .name = "block_cast",
        .stages = Stages::blocks,
        .settings = {of(whole_setting(
                         "cast.reach", "Reach of rays", "Shadows", 12, 1, 64, "cells",
                         "How far rays look from each cell, toward the sun and away from it: longer shadows, and "
                         "more to cast when the world or the sun changes.")),
                     of(whole_setting("cast.clamp", "Counted at most", "Shadows", 4, 1, 32, "cells",
                                      "Solid cells from which on more count no more: fewer make harder shadows.")),
                     of(number_setting("cast.shade", "Shade", "Shadows", 0.8, 0.0, 1.0, "",
                                       "Share of the light that full shadow takes.")),
                     of(number_setting("cast.power", "Highlight's power", "Shadows", 1.5, 0.1, 8.0, "",
                                       "How much of the highlight is left where little lies behind a lit cell."))
                         .on_ratio(),
                     of(number_setting("cast.hue", "Shift of hue", "Shadows", 0.35, 0.0, 1.0, "",
                                       "How much cooler shadows are, and how much warmer what is lit.")),
                     of(whole_setting("cast.headings", "Headings cast beforehand", "Shadows", 0, 0, 64, "",
                                      "Of props that turn: this many headings are cast before the first frame and the "
                                      "nearest is taken; 0 casts each turn anew when it comes."))},
        .layers = {{.name = "castShadow",
                    .label = "Cast shadow",
                    .help = "What the rays toward the sun leave of its light: white all, black none.",
                    .view = LayerView::grey,
                    .file = "blocks/cast_layers.glsl",
                    .role = "multiplies the light of faces",
                    .when = {{"blocks.light", {"cast"}}}},
                   {.name = "castHighlight",
                    .label = "Cast highlight",
                    .help = "What the rays away from the sun add, by how much lies behind a lit cell.",
                    .view = LayerView::grey,
                    .file = "blocks/cast_layers.glsl",
                    .role = "multiplies the light of faces, added to 1",
                    .when = {{"blocks.light", {"cast"}}}}},
        .parameters = {"blockCast"}, // x: clamp, y: shade, z: power, w: hue
        .plan = plan_block_cast,
        .price = price_block_cast,
    };
    return technique;
}

} // namespace mirolux::technique
