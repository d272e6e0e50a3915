#include "core/blocks/block_stage.h"

// Light whose direction each cell knows.
namespace mirolux::technique {

using namespace blocks;

static void plan_block_origin(const FrameInputs& in, PlanBuilder& b) {
    if (way_of(in.setup) != Way::floodOrigin) return;
    b.set("blockOrigin", glm::vec4(static_cast<float>(in.setup.number("flood.wrap")),
                                   flood_options(in.setup).second ? 1.0f : 0.0f, 0, 0));
    b.pass(light_pass("Lights each pixel from where the strongest light of the cell before its face came, with the "
                      "setup's lobe.",
                      {"flood.loss", "flood.light", "flood.falloff", "flood.wrap", "flood.mix", "flood.budget"}));
}

static void price_block_origin(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique == &block_origin()) {
        const bool second = plan.parameters.at("blockOrigin").y > 0;
        price_light_pass(plan, w, second ? 7 : 5, second ? 230 : 130, t);
    }
}

const Technique& block_origin() {
    static const std::vector<Condition> on = {{"blocks.light", {"flood-origin"}}},
                                        two = {{"blocks.light", {"flood-origin"}}, {"flood.mix", {"on"}}};
    static const Technique technique{
        .name = "block_origin",
        .stages = Stages::blocks,
        .settings = {std::move(number_setting("flood.wrap", "Light round corners", "Lights", 0.35, 0.0, 1.0, "",
                                              "Share of a cell's light that reaches its faces whatever way they look: "
                                              "0 leaves what looks away from its lamp dark."))
                         .only_when("blocks.light", {"flood-origin"}),
                     std::move(toggle_setting("flood.mix", "Two lamps a cell", "Lights", false,
                                              "Each cell keeps its two strongest lamps and is lit by both, each by its "
                                              "own strength and from its own side: eight bytes a cell more."))
                         .only_when("blocks.light", {"flood-origin"})},
        .layers = {{.name = "originDirection",
                    .label = "Light's direction",
                    .help = "The way to the last cell on the light's way that the cell before each face sees.",
                    .view = LayerView::vector,
                    .file = "blocks/origin_layers.glsl",
                    .when = on},
                   {.name = "originLamp",
                    .label = "Lamp's direction",
                    .help = "The way to the lamp that the light came from, whatever stands between.",
                    .view = LayerView::vector,
                    .file = "blocks/origin_layers.glsl",
                    .when = on},
                   {.name = "originSecond",
                    .label = "Second light's direction",
                    .help = "The way to the last cell that is seen on the way of the strongest light of another lamp.",
                    .view = LayerView::vector,
                    .file = "blocks/origin_layers.glsl",
                    .when = two},
                   {.name = "originDistance",
                    .label = "Steps from the lamp",
                    .help =
                        "What the light of the cell before each face has lost since its lamp, of 63 levels: how far "
                        "it has come.",
                    .view = LayerView::grey,
                    .file = "blocks/origin_layers.glsl",
                    .when = on},
                   {.name = "originLevel",
                    .label = "Light's level",
                    .help = "Level of the strongest light in the cell before each face, 0 to 63.",
                    .view = LayerView::grey,
                    .file = "blocks/origin_layers.glsl",
                    .when = on}},
        .parameters = {"blockOrigin"}, // x: share of light without direction, y: 1 two lamps a cell
        .plan = plan_block_origin,
        .price = price_block_origin,
    };
    return technique;
}

} // namespace mirolux::technique
