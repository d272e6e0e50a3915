#include "core/blocks/block_stage.h"

// Light that floods from cell to cell.
namespace mirolux::technique {

using namespace blocks;

static void plan_block_flood(const FrameInputs& in, PlanBuilder& b) {
    const Way way = way_of(in.setup);
    if (way != Way::flood && way != Way::floodOrigin) return;
    const bool smooth = in.setup.flag("flood.smooth") && way == Way::flood;
    b.set("blockFlood", glm::vec4(static_cast<float>(in.setup.number("flood.light")),
                                  static_cast<float>(in.setup.number("flood.falloff")), smooth ? 1 : 0,
                                  static_cast<float>(in.setup.whole("flood.loss"))));
    if (way == Way::flood)
        b.pass(light_pass("Lights each pixel by the level of the cell before its face.",
                          {"flood.loss", "flood.smooth", "flood.light", "flood.falloff", "flood.budget"}));
}

static void price_block_flood(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique == &block_flood())
        price_light_pass(plan, w, plan.setup.flag("flood.smooth") ? 18 : 3, plan.setup.flag("flood.smooth") ? 160 : 60,
                         t);
}

const Technique& block_flood() {
    static const auto of = [](Setting s) { return std::move(s).only_when("blocks.light", {"flood", "flood-origin"}); };
    static const std::vector<Condition> levels = {{"blocks.light", {"flood"}}};
    static const Technique technique{
        .name = "block_flood",
        .stages = Stages::blocks,
        .settings = {of(whole_setting("flood.loss", "Loss a step", "Lights", 2, 1, 63, "levels",
                                      "Levels of 63 that light loses from one cell to the next: how far lamps reach, "
                                      "and with its cube what lighting them takes.")),
                     of(number_setting("flood.light", "Light at full level", "Lights", 14.0, 0.0, 100000.0, "lx",
                                       "Illuminance that level 63 stands for."))
                         .on_ratio(),
                     of(number_setting("flood.falloff", "Falloff by level", "Lights", 2.2, 0.25, 8.0, "",
                                       "Exponent of level over 63: 1 falls evenly from step to step, 2 much as light "
                                       "does."))
                         .on_ratio(),
                     of(number_setting("flood.budget", "Budget of the background", "Lights", 4.0, 0.0, 100.0, "ms",
                                       "How long light may spread in each frame of the window, while cells change: it "
                                       "is dark there until it has come. 0 waits for all of it before the frame. What "
                                       "is measured, and what the command line renders, always waits.")),
                     std::move(toggle_setting("flood.smooth", "Smooth corners", "Lights", true,
                                              "Each corner of a face takes the mean of the four cells that meet "
                                              "before it (two that stop light close the one between them); off: each "
                                              "face is even, at a third of the reads."))
                         .only_when("blocks.light", {"flood"})},
        .layers = {{.name = "floodLevels",
                    .label = "Lamps' levels",
                    .help = "Level of the cell before each face, 0 to 63 in red, green and blue.",
                    .view = LayerView::plain,
                    .file = "blocks/flood_layers.glsl",
                    .when = levels},
                   {.name = "floodSun",
                    .label = "Sun's level",
                    .help = "Level of the sun's light from above in the cell before each face.",
                    .view = LayerView::grey,
                    .file = "blocks/flood_layers.glsl",
                    .role = "multiplies the light of the sky",
                    .when = levels},
                   {.name = "floodShut",
                    .label = "Shut in",
                    .help = "Share of the 26 cells around the one before each face that stop light: white is a nook.",
                    .view = LayerView::grey,
                    .file = "blocks/flood_layers.glsl",
                    .when = {{"blocks.light", {"flood", "flood-origin"}}}}},
        .parameters = {"blockFlood"}, // x: lux at 63, y: exponent, z: 1 smooth, w: loss
        .plan = plan_block_flood,
        .price = price_block_flood,
    };
    return technique;
}

} // namespace mirolux::technique
