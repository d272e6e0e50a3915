#include "core/motion/skinning.h"
#include "core/motion/scene_at.h"
#include "core/path/surface_pass.h"

namespace mirolux {

Skinning skinning_of(const Scene& scene, const Setup& setup) {
    if (!scene.asset->rig || scene.asset->rig->bodies.empty()) return Skinning::none;
    return setup.choice("geometry.skinning") == "vertex" ? Skinning::vertex : Skinning::compute;
}

BendWork bend_work(const Scene& scene, int object) {
    const Object& o = scene.objects()[static_cast<std::size_t>(object)];
    if (o.body < 0) return {};
    const Body& body = scene.asset->rig->bodies[static_cast<std::size_t>(o.body)];
    const std::uint64_t n = scene.asset->primitives[static_cast<std::size_t>(body.primitive)].vertices.size();
    std::uint64_t each = 0;
    for (const double w : pose_of(*scene.asset, scene.placed.get())->weights[static_cast<std::size_t>(body.node)])
        each += w != 0;
    return {n, n * each + (body.skin < 0 ? 0 : body.bending->followed)};
}

void add_bending(const FrameInputs& in, int object, Work& work) {
    if (skinning_of(in.scene, in.setup) != Skinning::vertex) return;
    const BendWork w = bend_work(in.scene, object);
    work.add("bentVertices", w.vertices);
    work.add("bendReads", w.reads);
}

namespace technique {

static void plan_skinning(const FrameInputs& in, PlanBuilder& b) {
    if (skinning_of(in.scene, in.setup) != Skinning::compute) return;
    Work work;
    for (const Body& body : in.scene.asset->rig->bodies) {
        if (in.scene.objects()[static_cast<std::size_t>(body.object)].hidden) continue;
        const BendWork w = bend_work(in.scene, body.object);
        work.add("draws", 1);
        work.add("bentVertices", w.vertices);
        work.add("bendReads", w.reads);
    }
    if (work.at("draws") == 0) return;
    b.pass(
        {.name = "skinning",
         .family = "depth",
         .what = "Bends the surfaces that bones and shapes move into the vertex buffer, once for all that draw them.",
         .reads = {},
         .writes = {},
         .settings = {"geometry.skinning"},
         .expected = work,
         .forBothEyes = true});
}

static void price_skinning(const FramePlan&, const PlannedPass&, const Work& w, CostTerms& t) {
    const auto vertices = static_cast<double>(w.at("bentVertices"));
    if (vertices == 0) return;
    t["operation"] += vertices * 60 + static_cast<double>(w.at("bendReads")) * 20;
}

const Technique& skinning() {
    static const Technique technique{
        .name = "skinning",
        .settings = {choice_setting("geometry.skinning", "Skinning", "Path", {"compute", "vertex"}, "compute",
                                    "Where surfaces that bones or shapes bend are bent: once a frame by a pass that "
                                    "writes the vertex buffer, or "
                                    "by the vertex shader of each pass that draws them, shadow maps too.")},
        .counters = {{"bentVertices", "Bent vertices", "Vertices that bones or shapes have bent."},
                     {"bendReads", "Joints and shapes read",
                      "Joints' matrices and shapes' changes read to bend vertices."}},
        .plan = plan_skinning,
        .price = price_skinning,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
