#include "core/bake/baked_light.h"
#include "core/technique/plan_builder.h"

// Occlusion that was computed beforehand, in a frame: it joins the material's, and both the screen's.
namespace mirolux::technique {

static void plan_baked_occlusion(const FrameInputs& in, PlanBuilder& b) {
    if (!uses_baked_occlusion(in.setup)) return;
    std::string remark;
    (void)baked_occlusion_of(in.scene, in.setup, density_of_parts(in.scene, in.setup), &remark);
    if (!remark.empty()) b.note(remark);
    if (!in.scene.baked || !in.scene.baked->occlusion) return;
    const BakedOcclusion& o = *in.scene.baked->occlusion;
    if (o.options.vertices) {
        b.resource({.name = vertex_occlusion_resource,
                    .format = Format::words,
                    .life = Life::scene,
                    .forBothEyes = true,
                    .entries = (o.open.size() + 3) / 4,
                    .formatNote = "8 bits a vertex"});
        b.define("VERTEX_OCCLUSION");
        b.feed(Slot::bakedOcclusion, "baked_occlusion/of_vertices.glsl", "vertexOpenness", {vertex_occlusion_resource});
        return;
    }
    b.resource({.name = baked_occlusion_resource,
                .sampler = "bakedOpenness",
                .format = Format::r8,
                .width = o.width,
                .height = o.height,
                .life = Life::scene,
                .fromTop = true,
                .forBothEyes = true});
    b.define("MAP_PLACES");
    b.feed(Slot::bakedOcclusion, "baked_occlusion/of_texels.glsl", "texelOpenness", {baked_occlusion_resource});
}

static void price_baked_occlusion(const FramePlan&, const PlannedPass&, const Work& w, CostTerms& t) {
    if (const std::uint64_t reads = w.at("opennessReads")) t["opennessRead"] = static_cast<double>(reads);
}

const Technique& baked_occlusion() {
    static const std::vector<std::pair<std::string, std::string>> exercise = {{"occlusion.baked", "texture"},
                                                                              {"ambient.kind", "constant"}};
    const auto of = [](Setting s) { return std::move(s).only_when("occlusion.baked", {"texture", "vertices"}); };
    static const Technique technique{
        .name = "baked_occlusion",
        .settings = {choice_setting(
                         "occlusion.baked", "Occlusion baked", "Ambient", {"none", "texture", "vertices"}, "none",
                         "How open what stands still is, computed beforehand, joins the material's own and the "
                         "screen's. texture: in the light map's layout, a byte a texel; vertices: a byte each, "
                         "nothing is looked up, but wide triangles know only their corners."),
                     of(number_setting("occlusion.within", "Occluders within", "Ambient", 2, 0.05, 100, "m",
                                       "What is farther closes nothing.")
                            .on_ratio()),
                     of(whole_setting("occlusion.bakedRays", "Rays of occlusion", "Ambient", 64, 4, 4096, "a place",
                                      "Rays from each texel or vertex: twice as smooth takes four times as many.")
                            .on_ratio())},
        .counters = {{"opennessReads", "Baked occlusion reads", "lookups in the texture of baked occlusion"}},
        .terms = {{"opennessRead", "a lookup in the texture of baked occlusion", exercise, 0.02}},
        .layers = {{.name = "bakedOpen",
                    .label = "Openness",
                    .help = "Share of the hemisphere that nothing closes, as it was baked; dark: closed. 1 where "
                            "nothing was baked.",
                    .view = LayerView::color,
                    .file = "baked_occlusion/layers.glsl",
                    .when = {{"occlusion.baked", {"texture", "vertices"}}}}},
        .mayFeed = {Slot::bakedOcclusion},
        .plan = plan_baked_occlusion,
        .price = price_baked_occlusion,
    };
    return technique;
}

} // namespace mirolux::technique
