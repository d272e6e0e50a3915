#include "core/surface/subsurface.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

namespace {

Result<Commands> prepare_subsurface(PassFrame& f, const PlannedPass& pass) {
    const bool down = pass.name == "spread down";
    auto stage = f.screen_stage("subsurface/spread.glsl", f.shading_defines(down ? std::vector<std::string>{"DOWN"}
                                                                                 : std::vector<std::string>{}));
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state(pass.writes);
    if (!state) return tl::unexpected(state.error());
    if (down) state->blend = PassState::adding(); // to nothing, where it is kept apart
    return [&f, stage = std::move(*stage), state = *state, down] {
        state.apply();
        if (down) clear_color(state.framebuffer, 1);
        f.draw_screen(stage, state);
    };
}

/// Taps of each optics of the scene, in metres.
void provide_taps(PassFrame& f) {
    const Setup& s = f.inputs.setup;
    if (!f.plan.resource(subsurface_resource)) return;
    std::vector<glm::vec4> all;
    for (const brdf::Optics& o : f.inputs.scene.asset->optics)
        for (const ScatterTap& t :
             scatter_taps(glm::dvec3(shown_optics(o, s).scatterDistance), s.whole("subsurface.taps")))
            all.emplace_back(t.weight, t.metres);
    f.upload("ScatterTapBuffer", all.data(), all.size() * sizeof(glm::vec4));
}

/// What spreading adds at the pixel, or takes.
Result<void> probe_subsurface(PassFrame& f, PixelProbe& probe) {
    glm::vec4 values[2];
    for (int i = 0; i < 2; ++i) {
        auto state = f.state({i == 0 ? subsurface_resource : diffuse_light_resource});
        if (!state) return tl::unexpected(state.error());
        glBindFramebuffer(GL_READ_FRAMEBUFFER, state->framebuffer);
        glReadBuffer(GL_COLOR_ATTACHMENT0);
        glReadPixels(probe.pixel.x, f.height() - 1 - probe.pixel.y, 1, 1, GL_RGBA, GL_FLOAT, &values[i].x);
    }
    if (values[1].w > 0.5f) probe.spread = glm::vec3(values[0]) - glm::vec3(values[1]);
    return {};
}

} // namespace

const GpuTechnique technique::subsurface{prepare_subsurface, provide_taps, probe_subsurface};

} // namespace mirolux::gpu
