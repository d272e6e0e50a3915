#include "core/flat/flat_stage.h"
#include "core/flat/occluder_picture.h"

namespace mirolux::technique {

using namespace flat;

/// Rounds of the flood: jumps from half of the longer side down to 1, and one more of 1.
static int flood_rounds(const OccluderGrid& g) {
    int rounds = 1;
    for (int jump = 1; jump < std::max(g.width, g.height); jump *= 2)
        ++rounds;
    return rounds;
}

static void plan_occluder_field(const FrameInputs& in, PlanBuilder& b) {
    if (!needs_occluders(in.setup)) return;
    const OccluderGrid g = occluder_grid(in.setup, in.view);
    b.set("flatGrid", glm::vec4(glm::vec2(g.low), glm::vec2(g.high())));
    const bool bodies = way_of(in.setup) == Way::cascades;
    if (const std::string& asked = in.setup.choice(bodies ? "cascades2d.scale" : "occluders.scale");
        g.scale != std::stoi(asked))
        b.note("The occluder picture would have over eight million cells: it is made at 1 / " +
               std::to_string(g.scale) + ".");
    const OccluderPicture picture =
        occluder_picture(*in.scene.flat, g, bodies ? in.draws.lights : std::vector<Light>(), in.scene.asset.get());
    if (!bodies && picture.points.empty()) return b.note("No wall casts: shadows have nothing to fall from.");
    if (picture.beyond > 0)
        b.note(std::to_string(picture.beyond) + (picture.beyond == 1 ? " light lies" : " lights lie") +
               " beyond the occluder picture and give nothing: widen its margin.");
    const std::vector<std::string> shape =
        bodies ? std::vector<std::string>{"flat.kind", "cascades2d.scale", "cascades2d.margin"}
               : std::vector<std::string>{"flat.shadow", "occluders.scale", "occluders.margin"};
    b.resource({.name = "occluders",
                .sampler = "flatOccluders",
                .format = Format::r32f,
                .width = g.width,
                .height = g.height,
                .kept = true});
    b.pass({.name = "occluders",
            .family = "shadows",
            .what = bodies ? "Draws walls and lights into a small picture, each as its number."
                           : "Draws walls into a small picture, each as its number.",
            .writes = {"occluders"},
            .settings = shape,
            .expected = Work::drawing(picture.points.empty() ? 0 : 1, picture.points.size() / 3)});
    if (!needs_field(in.setup)) return;
    for (const char* name : {"flood a", "flood b"})
        b.resource({.name = name,
                    .sampler = name == std::string("flood a") ? "floodA" : "floodB",
                    .format = Format::rg32f,
                    .width = g.width,
                    .height = g.height});
    b.resource({.name = "distance field",
                .sampler = "flatField",
                .format = Format::r32f,
                .width = g.width,
                .height = g.height,
                .kept = true});
    b.resource(
        {.name = "open places", .sampler = "openPlaces", .format = Format::r32f, .width = g.width, .height = g.height});
    Work flood;
    flood.set("cellsFlooded", std::uint64_t(g.width) * static_cast<std::uint64_t>(g.height) *
                                  static_cast<std::uint64_t>(flood_rounds(g)));
    b.pass({.name = "distance field",
            .family = "shadows",
            .what = "Floods the picture by jumps: how far it is from each cell to the nearest wall.",
            .reads = {"occluders"},
            .writes = {"flood a", "flood b", "distance field", "open places"},
            .settings = shape,
            .expected = flood});
}

static void price_occluder_field(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &occluder_field()) return;
    const PlannedResource& r = *plan.resource("occluders");
    const double cells = double(r.width) * r.height;
    if (pass.name == "occluders")
        t["clear"] = 4.0 * cells;
    else {
        t["floodedCell"] = static_cast<double>(w.at("cellsFlooded"));
    }
}

const Technique& occluder_field() {
    static const Technique technique{
        .name = "occluder_field",
        .stages = Stages::flat,
        .settings =
            {choice_setting("occluders.scale", "Occluder picture 1 /", "Shadows", {"1", "2", "4", "8"}, "2",
                            "Pixels of the picture along one cell of the small one that light is marched through: cost "
                            "falls with its square, edges grow coarse.")
                 .only_when("flat.shadow", {"field", "march"})
                 .only_when("flat.kind", {"mask", "compute", "cut", "grade"}),
             number_setting("occluders.margin", "Margin around it", "Shadows", 0.15, 0.0, 1.0, "",
                            "How far it reaches beyond the view, in parts of the view's height: walls out there still "
                            "stop light; costs cells.")
                 .only_when("flat.shadow", {"field", "march"})
                 .only_when("flat.kind", {"mask", "compute", "cut", "grade"})},
        .counters = {{"cellsFlooded", "Cells flooded", "cells of the distance field, over all rounds of its flood"}},
        .terms = {{"floodedCell",
                   "a cell in one round of a distance field's flood",
                   {{"flat.kind", "mask"}, {"flat.shadow", "field"}},
                   0.03}},
        .layers = {{.name = "occluders",
                    .label = "Occluders",
                    .help = "Walls as the small picture has them, white; lights too, where they are bodies.",
                    .view = LayerView::grey,
                    .resource = "occluders",
                    .when = {{"flat.kind", {"cascades"}}},
                    .orWhen = {{"flat.shadow", {"field", "march"}}}},
                   {.name = "field",
                    .label = "Distance field",
                    .help = "How far it is to the nearest wall, in parts of the picture's height: black touches one.",
                    .view = LayerView::grey,
                    .resource = "distance field",
                    .when = {{"flat.kind", {"cascades"}}},
                    .orWhen = {{"flat.shadow", {"field"}}}}},
        .parameters = {"flatGrid"}, // xy: units of the occluder picture's lower left corner, zw: of its upper right
        .plan = plan_occluder_field,
        .price = price_occluder_field,
    };
    return technique;
}

} // namespace mirolux::technique
