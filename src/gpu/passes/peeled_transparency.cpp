#include "gpu/passes/surface_pass.h"

// Depth peeling (C. Everitt, Interactive Order-Independent Transparency, 2001), nearest layer first: each layer keeps
// the nearest fragments behind the layer before, and is put under the sum of those.
namespace mirolux::gpu {

namespace {

struct Peeling {
    SurfaceStage stages[2]; // reading the depth of the other half
    PassState layers[2], sum, over;
    Stage addLayer, addSum;
    int count = 1;
};

void run(const PassFrame& f, const Peeling& p) {
    const float open[4] = {0, 0, 0, 1}; // alpha of the sum: the share of what lies behind that still comes through
    const float zero = 0.0f;
    p.sum.apply(); // a clear obeys the masks that the last draw left
    glClearNamedFramebufferfv(p.sum.framebuffer, GL_COLOR, 0, open);
    for (int layer = 0; layer < p.count; ++layer) {
        const int own = layer % 2;
        p.layers[own].apply();
        clear_color(p.layers[own].framebuffer);
        glClearNamedFramebufferfv(p.layers[own].framebuffer, GL_DEPTH, 0, &zero);
        p.stages[own].set("peelLayer", static_cast<GLint>(layer));
        f.draw(f.blended, p.stages[own], p.layers[own]);
        glProgramUniform1i(p.addLayer.name(), p.addLayer.uniform("premultiply"), 1);
        f.draw_screen(p.addLayer, p.sum);
        f.vitals.beat();
    }
    glProgramUniform1i(p.addSum.name(), p.addSum.uniform("premultiply"), 0);
    f.draw_screen(p.addSum, p.over);
}

Result<Commands> prepare_peeled_transparency(PassFrame& f, const PlannedPass&) {
    Peeling p;
    p.count = f.inputs.setup.whole("transparency.layers");
    std::vector<std::string> variant = f.blended_variant();
    variant.push_back("PEEL");
    const char* depths[] = {"peeled depth, even", "peeled depth, odd"};
    for (int half = 0; half < 2; ++half) {
        auto stage = f.surface_stage(variant, {{"nearerDepth", f.texture(depths[1 - half])}});
        if (!stage) return tl::unexpected(stage.error());
        p.stages[half] = std::move(*stage);
        auto state = f.state({"peeled layer"}, depths[half]);
        if (!state) return tl::unexpected(state.error());
        p.layers[half] = *state;
    }
    const auto composite = [&](const char* resource) {
        return f.stage({{GL_VERTEX_SHADER, "screen/vertex.glsl", ""},
                        {GL_FRAGMENT_SHADER, "peeled_transparency/composite.glsl", ""}},
                       {}, {{"peeled", f.texture(resource)}});
    };
    auto layer = composite("peeled layer"), sum = composite("peeled sum");
    if (!layer) return tl::unexpected(layer.error());
    if (!sum) return tl::unexpected(sum.error());
    p.addLayer = std::move(*layer);
    p.addSum = std::move(*sum);
    auto under = f.state({"peeled sum"}), over = f.state({"scene"});
    if (!under) return tl::unexpected(under.error());
    if (!over) return tl::unexpected(over.error());
    p.sum = *under;
    p.sum.blend = {true, GL_DST_ALPHA, GL_ONE, GL_ZERO, GL_ONE_MINUS_SRC_ALPHA};
    p.over = *over;
    p.over.blend = {true, GL_ONE, GL_SRC_ALPHA, GL_ZERO, GL_ONE};
    return [&f, p = std::move(p)] { run(f, p); };
}

} // namespace

const GpuTechnique technique::peeled_transparency{prepare_peeled_transparency};

} // namespace mirolux::gpu
