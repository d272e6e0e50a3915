#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

static Result<Commands> prepare_deferred_ambient(PassFrame& f, const PlannedPass& pass) {
    const bool shares = writes_shares(pass);
    auto stage = f.screen_stage(
        "deferred_ambient/fragment.glsl",
        f.shading_defines(shares ? std::vector<std::string>{"MIRROR_SHARES"} : std::vector<std::string>{}));
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state(pass.writes);
    if (!state) return tl::unexpected(state.error());
    state->blend = PassState::adding(); // what surfaces mirror is added to nothing
    return [&f, stage = std::move(*stage), state = *state, shares] {
        state.apply();
        if (shares) clear_color(state.framebuffer, 1);
        f.draw_screen(stage, state);
    };
}

const GpuTechnique technique::deferred_ambient{prepare_deferred_ambient};

} // namespace mirolux::gpu
