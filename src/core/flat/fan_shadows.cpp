#include "core/flat/flat_stage.h"

namespace mirolux::technique {

using namespace flat;

/// Lights whose fans are made in every frame: those that move, and directional ones, whose fan ends with the picture.
static std::uint64_t swept_lights(const FrameInputs& in) {
    std::uint64_t count = 0;
    for (const Light& l : in.draws.lights)
        if (l.flat.casts && !keeps_shadow(in, l)) ++count;
    return count;
}

static void plan_fan_shadows(const FrameInputs& in, PlanBuilder& b) {
    if (shadow_of(in.setup) != Shadow::polygon) return;
    const std::size_t edges = edges_of(outlines_of(*in.scene.flat)).size();
    if (edges == 0) {
        b.note("No wall casts: shadows have nothing to fall from.");
        return;
    }
    if (edges > 2000)
        b.note("Exact shadows of " + std::to_string(edges) +
               " edges take long: trace outlines with a larger tolerance, or take another kind.");
    const std::uint64_t lights = swept_lights(in);
    if (lights == 0) return;
    Work expected;
    expected.set("edgesSwept", lights * edges);
    b.pass({.name = "sweep",
            .family = "shadows",
            .what = "Sweeps by angle round each light that moves, on the CPU: what its place sees.",
            .settings = {"flat.shadow", "flat.keepShadows"},
            .expected = expected});
}

static void price_fan_shadows(const FramePlan&, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique == &fan_shadows()) t["sweptEdge"] = static_cast<double>(w.at("edgesSwept"));
}

const Technique& fan_shadows() {
    static const Technique technique{
        .name = "fan_shadows",
        .stages = Stages::flat,
        .settings = {toggle_setting("flat.keepShadows", "Still lights keep theirs", "Shadows", true,
                                    "What lights that do not move see is made once and kept until they or a wall are "
                                    "edited; off: in every frame, on the CPU.")
                         .only_when("flat.shadow", {"polygon"})},
        .counters = {{"edgesSwept", "Edges swept", "edges of walls that lights sweep over, on the CPU"}},
        .terms = {{"sweptEdge",
                   "an edge of a wall that a light sweeps over, on the CPU",
                   {{"flat.kind", "mask"}, {"flat.shadow", "polygon"}, {"flat.keepShadows", "off"}},
                   60}},
        .plan = plan_fan_shadows,
        .price = price_fan_shadows,
    };
    return technique;
}

} // namespace mirolux::technique
