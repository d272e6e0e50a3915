#include "core/light/cheap_lights.h"
#include "core/path/surface_pass.h"

namespace mirolux::technique {

static void plan_solid_lights(const FrameInputs& in, PlanBuilder& b) {
    const std::vector<CheapLight> all = cheap_lights_of(in.scene, in.setup, true);
    if (all.empty()) return;
    if (std::string left = cheap_lights_left_out(in.scene, in.setup, true); !left.empty()) b.note(std::move(left));
    static const std::uint64_t ball = sphere_proxy(volume_sphere_steps).indices.size() / 3,
                               cone = cone_proxy(volume_cone_sides).indices.size() / 3;
    Work work;
    for (const CheapLight& l : all)
        work += Work::drawing(2, 2 * (l.shape == CheapShape::cone ? cone : ball));
    std::vector<std::string> writes = {"scene"};
    if (b.fed(Slot::air)) { // what the air adds is not to be tinted: its share is told from the surface's place
        b.resource({.name = "depth behind solid lights", .formatOf = "depth"});
        writes.emplace_back("depth behind solid lights");
    }
    b.set("cheapLights", {static_cast<float>(all.size()), 0, 0, 0});
    b.pass({.name = "solid lights",
            .family = "lights",
            .what = "Marks by stencil the surfaces inside each ball or cone, then multiplies them with its tint.",
            .reads = {"depth"},
            .writes = writes,
            .settings = {"solidLights.kind"},
            .expected = work,
            .called = {Slot::air},
            .inLedger = true,
            .marks = true});
}

static void price_solid_lights(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &solid_lights()) return;
    const auto fragments = static_cast<double>(w.at("solidFragments"));
    t["solidFragment"] = fragments;
    t[blend_term(plan)] = fragments * scene_bytes(plan);
    t["clear"] = plan.pixels() * depth_bytes(plan);
    if (plan.resource("depth behind solid lights")) t["copy"] = plan.pixels() * depth_bytes(plan);
}

static void change_by_solid_lights(const FrameInputs& in, const SurfaceSample& s, std::vector<SurfaceChange>& out) {
    for (const CheapLight& l : cheap_lights_of(in.scene, in.setup, true))
        if (holds(l, glm::dvec3(s.position))) out.push_back({l.id, l.name, {glm::dvec3(l.tint), glm::dvec3(0.0)}});
}

const Technique& solid_lights() {
    static const std::vector<std::pair<std::string, std::string>> exercise = {{"solidLights.kind", "stencil"}};
    static const Technique technique{
        .name = "solid_lights",
        .settings = {choice_setting(
            "solidLights.kind", "Solid-shape lights", "Lights", {"none", "stencil"}, "none",
            "stencil: surfaces inside each ball or cone are multiplied with its tint: two draws of a few "
            "triangles each, no gradient, no shadow, and nothing where it is black.")},
        .counters = {{"solidFragments", "Tinted fragments", "pixels that solid-shape lights tint"}},
        .terms = {{"solidFragment", "a pixel that a solid-shape light tints", exercise, 0.1}},
        .parameters = {"cheapLights"}, // solid-shape lights
        .plan = plan_solid_lights,
        .price = price_solid_lights,
        .changes = change_by_solid_lights,
    };
    return technique;
}

} // namespace mirolux::technique
