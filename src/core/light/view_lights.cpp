#include "core/light/cheap_lights.h"
#include "core/path/surface_pass.h"

namespace mirolux::technique {

static void plan_view_lights(const FrameInputs& in, PlanBuilder& b) {
    const std::vector<CheapLight> all = cheap_lights_of(in.scene, in.setup, false);
    if (all.empty()) return;
    if (std::string left = cheap_lights_left_out(in.scene, in.setup, false); !left.empty()) b.note(std::move(left));
    const std::vector<std::uint32_t> bits = view_lights_by_object(in.scene, all);
    std::vector<Draw> lit;
    for (const Draw& d : in.draws.opaque)
        if (bits[static_cast<std::size_t>(d.object)] != 0) lit.push_back(d);
    if (lit.empty()) return;
    b.pass({.name = "view-locked lights",
            .family = "lights",
            .what = "Draws the surfaces that have such lights once more and lays their ramps over what is lit.",
            .reads = {"depth"},
            .writes = {"scene"},
            .settings = {"viewLights.kind", "shading.normalMaps", "cheapLights.instead"},
            .expected = work_of(in, lit),
            .called = {Slot::air},
            .overGeometry = true,
            .inLedger = true,
            .marks = true});
}

static void price_view_lights(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &view_lights()) return;
    const auto fragments = static_cast<double>(w.at("fragments"));
    t["surface"] = fragments;
    t["filteredRead"] = static_cast<double>(w.at("textureReads"));
    t["ramp"] = static_cast<double>(w.at("rampReads"));
    t[blend_term(plan)] = fragments * scene_bytes(plan);
}

static void change_by_view_lights(const FrameInputs& in, const SurfaceSample& s, std::vector<SurfaceChange>& out) {
    if (s.unlit || s.draw >= in.draws.opaque.size()) return;
    const std::vector<CheapLight> all = cheap_lights_of(in.scene, in.setup, false);
    if (all.empty()) return;
    const auto object = static_cast<std::size_t>(in.draws.opaque[s.draw].object);
    const std::uint32_t bits = view_lights_by_object(in.scene, all)[object];
    const glm::dvec3 normal = glm::dmat3(view_matrix(in.view.camera)) * glm::dvec3(s.normal);
    for (std::size_t l = 0; l < all.size(); ++l)
        if (bits >> l & 1u) out.push_back({all[l].id, all[l].name, view_light_change(all[l], normal)});
}

const Technique& view_lights() {
    static const std::vector<std::pair<std::string, std::string>> exercise = {{"viewLights.kind", "ramp"}};
    static const std::vector<Condition> ramps = {{"viewLights.kind", {"ramp"}}},
                                        tints = {{"solidLights.kind", {"stencil"}}};
    static const Technique technique{
        .name = "view_lights",
        .settings = {choice_setting("viewLights.kind", "View-locked lights", "Lights", {"none", "ramp"}, "none",
                                    "ramp: colours by how a surface faces the eye, laid over what is lit: a rim, a "
                                    "bounce from below, a sky from above, for one more draw of the surfaces. They "
                                    "turn with the camera and know no shadow."),
                     toggle_setting("cheapLights.instead", "In place of lamps", "Lights", false,
                                    "on: lamps that shown cheap lights stand for are left out, so that one can be held "
                                    "against the other; off: both shine, and the ledger shows their costs side by "
                                    "side.")},
        .counters = {{"rampReads", "Ramps read", "colour ramps of view-locked lights that fragments read"}},
        .terms = {{"ramp", "a ramp of a view-locked light at a fragment", exercise, 0.2}},
        .layers = {{.name = "cheaplight",
                    .label = "Cheap lights",
                    .help = "What view-locked and solid-shape lights add to the surfaces, and take from them.",
                    .view = LayerView::radiance,
                    .file = "view_lights/layers.glsl",
                    .throughGlass = true,
                    .addsUp = true,
                    .when = ramps,
                    .orWhen = tints}},
        .multisamples = true,
        .plan = plan_view_lights,
        .price = price_view_lights,
        .changes = change_by_view_lights,
    };
    return technique;
}

} // namespace mirolux::technique
