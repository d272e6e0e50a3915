#include "core/flat/flat_stage.h"

namespace mirolux::technique {

using namespace flat;

/// The lights' pass marks what no way of a light ends at: the quad behind each edge, seen from its place.
static void plan_quad_shadows(const FrameInputs& in, PlanBuilder& b) {
    if (in.setup.choice("flat.shadow") == "quads" && way_of(in.setup) == Way::compute)
        b.note("Shadow quads are drawn, which a kernel cannot take: this way falls back to none. Take polar.");
    if (shadow_of(in.setup) != Shadow::quads) return;
    if (edges_of(outlines_of(*in.scene.flat)).empty())
        return b.note("No wall casts: shadows have nothing to fall from.");
    ResourceSpec marks = light_target(in, "quads' marks", "");
    marks.format = Format::depth32fStencil8;
    marks.kept = false;
    b.resource(std::move(marks));
}

static void price_quad_shadows(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (plan.resource("quads' marks") && pass.family == "lights")
        t["markedQuad"] += static_cast<double>(w.at("quadsMarked"));
}

const Technique& quad_shadows() {
    static const Technique technique{
        .name = "quad_shadows",
        .stages = Stages::flat,
        .counters = {{"quadsMarked", "Quads marked", "shadow quads that edges of walls throw from lights' places"}},
        .terms = {{"markedQuad",
                   "a shadow quad that an edge throws from a light",
                   {{"flat.kind", "mask"}, {"flat.shadow", "quads"}},
                   2.0}},
        .plan = plan_quad_shadows,
        .price = price_quad_shadows,
    };
    return technique;
}

} // namespace mirolux::technique
