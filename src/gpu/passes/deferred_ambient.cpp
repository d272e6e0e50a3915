#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

static Result<Commands> prepare_deferred_ambient(PassFrame& f, const PlannedPass&) {
    auto stage = f.screen_stage("deferred_ambient/fragment.glsl", f.shading_defines({}));
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state({"scene"});
    if (!state) return tl::unexpected(state.error());
    state->blend = PassState::adding();
    return [&f, stage = std::move(*stage), state = *state] { f.draw_screen(stage, state); };
}

const GpuTechnique technique::deferred_ambient{prepare_deferred_ambient};

} // namespace mirolux::gpu
