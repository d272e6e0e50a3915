#include "core/flat/flat_stage.h"

namespace mirolux::technique {

using namespace flat;

static void plan_compute_mask(const FrameInputs& in, PlanBuilder& b) {
    if (way_of(in.setup) != Way::compute) return;
    const bool lists = in.setup.flag("compute.lists");
    if (in.setup.choice("flat.shadow") == "polygon")
        b.note("Exact shadows are drawn as fans, which a kernel cannot take: this way falls back to none. Take polar.");
    b.resource(light_target(in, "computed mask", "computedMask"));
    if (lists && !in.draws.lights.empty()) {
        const View stage = stage_view(in.setup, in.view);
        const std::size_t tiles = static_cast<std::size_t>((stage.width + 15) / 16 * ((stage.height + 15) / 16)),
                          words = (in.draws.lights.size() + 31) / 32;
        b.resource({.name = "tile lists", .format = Format::words, .entries = tiles * words});
        Work expected;
        expected.set("tileTests", tiles * in.draws.lights.size());
        b.pass({.name = "tile lists",
                .family = "culling",
                .what = "Finds the lights that touch each tile of 16 pixels: a bit a light.",
                .writes = {"tile lists"},
                .settings = {"flat.kind", "compute.lists"},
                .expected = expected});
    }
    PlannedPass lights = lights_pass(in, "compute lights", "computed mask",
                                     lists ? "One dispatch: each pixel sums the lights of its tile's list."
                                           : "A dispatch for each light over the box that it covers.",
                                     {"compute.lists", "flat.ambient"});
    if (lists && !in.draws.lights.empty()) lights.reads.push_back("tile lists");
    std::erase(lights.settings, "mask.scale");
    lights.expected = Work::drawing(lists ? 1 : in.draws.lights.size(), 0);
    b.pass(std::move(lights));
    b.pass(shown_pass(in, "apply", {"computed mask"}, "Multiplies the scene by ambient and lights, no more than 1.",
                      {"flat.ambient"}));
}

static void price_compute_mask(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &compute_mask()) return;
    if (pass.name == "tile lists") {
        t["operation"] = 4.0 * static_cast<double>(w.at("tileTests"));
        return;
    }
    if (pass.name == "apply") return price_shown_pass(plan, w, 6, t);
    price_lights_pass(plan, w, t);
    t.amounts.erase("blendHalf");
    t["writeHalf"] = 8.0 * static_cast<double>(w.at("fragments"));
    t["group"] = static_cast<double>(w.at("fragments")) / 256;
}

const Technique& compute_mask() {
    static const Technique technique{
        .name = "compute_mask",
        .stages = Stages::flat,
        .settings = {toggle_setting("compute.lists", "Lists by tile", "Path", true,
                                    "On: one dispatch, each tile of 16 pixels takes up the lights that touch it; off: "
                                    "a dispatch for each light, which reads and writes its whole box.")
                         .only_when("flat.kind", {"compute"})},
        .counters = {{"tileTests", "Tile tests", "lights held against tiles of the mask"}},
        .layers = {{.name = "computed",
                    .label = "Lights",
                    .help = "The sum of all lights as the kernel leaves it, without ambient.",
                    .view = LayerView::color,
                    .resource = "computed mask",
                    .when = {{"flat.kind", {"compute"}}}}},
        .plan = plan_compute_mask,
        .price = price_compute_mask,
    };
    return technique;
}

} // namespace mirolux::technique
