#include "core/sky/sky.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

static Result<Commands> prepare_sky(PassFrame& f, const PlannedPass&) {
    auto stage = f.screen_stage("sky/fragment.glsl", sky_defines(f.inputs.setup, f.plan));
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state({"scene"}, "depth");
    if (!state) return tl::unexpected(state.error());
    state->depthFunc = GL_EQUAL; // the triangle lies at depth 0: where nothing was drawn
    state->depthWrite = false;
    return [&f, stage = std::move(*stage), state = *state] { f.draw_screen(stage, state); };
}

const GpuTechnique technique::sky{prepare_sky};

} // namespace mirolux::gpu
