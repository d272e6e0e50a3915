#include "core/flat/flat_stage.h"

namespace mirolux::technique {

using namespace flat;

static void plan_polar_shadows(const FrameInputs& in, PlanBuilder& b) {
    if (shadow_of(in.setup) != Shadow::polar || in.draws.lights.empty()) return;
    const std::size_t edges = edges_of(outlines_of(*in.scene.flat)).size();
    if (edges == 0) return b.note("No wall casts: shadows have nothing to fall from.");
    const int texels = std::stoi(in.setup.choice("polar.texels"));
    b.set("polarShape", glm::vec4(static_cast<float>(texels), static_cast<float>(in.setup.whole("polar.taps")),
                                  static_cast<float>(edges), 0));
    b.resource({.name = "polar maps",
                .sampler = "polarMaps",
                .format = Format::r32f,
                .width = texels,
                .height = static_cast<int>(in.draws.lights.size()),
                .kept = true});
    Work expected;
    expected.set("edgesMet", edges * static_cast<std::uint64_t>(texels) * in.draws.lights.size());
    b.pass({.name = "polar maps",
            .family = "shadows",
            .what = "Finds how far each light sees in every direction: one row of distances a light.",
            .writes = {"polar maps"},
            .settings = {"flat.shadow", "polar.texels"},
            .expected = expected});
    b.feed(Slot::flatFactor, "polar_shadows/lookup.glsl", "polarFactor", {"polar maps"});
}

static void price_polar_shadows(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique == &polar_shadows()) t["edgeMet"] = static_cast<double>(w.at("edgesMet"));
    if (plan.feeds_slot(&polar_shadows(), pass)) {
        const double taps = plan.setup.whole("polar.taps") + 1.0;
        t["polarTap"] += taps * static_cast<double>(w.at("lightEvaluations"));
    }
}

const Technique& polar_shadows() {
    static const std::vector<std::pair<std::string, std::string>> polar_exercise = {{"flat.kind", "mask"},
                                                                                    {"flat.shadow", "polar"}};
    static const Technique technique{
        .name = "polar_shadows",
        .stages = Stages::flat,
        .settings = {choice_setting("polar.texels", "Polar directions", "Shadows",
                                    {"64", "128", "256", "512", "1024", "2048"}, "512",
                                    "Texels round a light: fewer cost less and leave edges that step far from it.")
                         .only_when("flat.shadow", {"polar"}),
                     whole_setting("polar.taps", "Polar filter", "Shadows", 1, 1, 15, "texels",
                                   "Neighbouring directions that an edge is averaged over; each costs a read for every "
                                   "light and pixel.")
                         .only_when("flat.shadow", {"polar"})},
        .counters = {{"edgesMet", "Edges met", "edges that directions of polar maps are held against"}},
        .terms = {{"edgeMet", "an edge that a direction of a polar map is held against", polar_exercise, 0.01},
                  {"polarTap", "a distance of a polar map that a light is held against at a pixel", polar_exercise,
                   0.03}},
        .layers = {{.name = "polar",
                    .label = "Polar maps",
                    .help = "A row for each light, its distances round it in units: 0 is east, then counter-clockwise.",
                    .view = LayerView::plain,
                    .resource = "polar maps",
                    .when = {{"flat.shadow", {"polar"}}}}},
        .parameters = {"polarShape"}, // x: directions, y: taps, z: edges
        .mayFeed = {Slot::flatFactor},
        .plan = plan_polar_shadows,
        .price = price_polar_shadows,
    };
    return technique;
}

} // namespace mirolux::technique
