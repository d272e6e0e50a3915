#include "core/light/proxy.h"
#include "core/path/surface_pass.h"

namespace mirolux::technique {

static Work expected_work(const FrameInputs& in, bool twice) {
    static const std::uint64_t sphere = sphere_proxy(volume_sphere_steps).indices.size() / 3;
    static const std::uint64_t cone = cone_proxy(volume_cone_sides).indices.size() / 3;
    Work w;
    if (in.draws.directional > 0) w = screen_work();
    for (std::size_t l = static_cast<std::size_t>(in.draws.directional); l < in.draws.lights.size(); ++l) {
        const bool isSphere = light_proxy(in.draws.lights[l], in.draws.reach[l]).shape == ProxyShape::sphere;
        w += Work::drawing(twice ? 2 : 1, (isSphere ? sphere : cone) * (twice ? 2 : 1));
    }
    return w;
}

static void plan_volumes(const FrameInputs& in, PlanBuilder& b) {
    if (in.setup.choice("path.kind") != "volumes") return;
    const bool twice = in.setup.choice("volumes.form") == "two-step";
    b.resource({.name = "depth copy", .formatOf = "depth"});
    b.pass({.name = "volumes",
            .family = "lights",
            .what = twice
                        ? "Marks by stencil what lies inside each light's volume, then shades it; directional lights "
                          "over the whole picture."
                        : "Shades what lies before the back of each light's volume; directional lights over the whole "
                          "picture.",
            .reads = {"depth", "base colour, metallic", "normal", "roughness, unlit"},
            .writes = with_diffuse_light(b, {"scene", "depth copy"}),
            .settings = joined_keys({"path.kind", "volumes.form"}, shading_keys()),
            .expected = expected_work(in, twice),
            .called = added_light_slots,
            .inLedger = true,
            .marks = twice});
}

static void price_volumes(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &volumes()) return;
    const auto evaluations = static_cast<double>(w.at("lightEvaluations"));
    t["decode"] = evaluations;
    price_lights(plan, w, false, t);
    t[blend_term(plan)] = evaluations * scene_bytes(plan);
    price_diffuse_light(pass, evaluations, true, t);
    t["copy"] = plan.pixels() * depth_bytes(plan);
}

const Technique& volumes() {
    static const Technique technique{
        .name = "volumes",
        .settings = {choice_setting(
                         "volumes.form", "Light volumes", "Path", {"two-step", "one-step"}, "two-step",
                         "volumes: two-step marks by stencil the pixels whose surface lies inside the volume, "
                         "then shades those; one-step shades what lies before the volume's back: half the "
                         "draws, more pixels.")
                         .only_when("path.kind", {"volumes"})},
        .plan = plan_volumes,
        .price = price_volumes,
    };
    return technique;
}

} // namespace mirolux::technique
