#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

static Result<Commands> prepare_depth_prepass(PassFrame& f, const PlannedPass&) {
    auto stage = f.mesh_stage("depth_prepass/fragment.glsl", {});
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state({}, "depth");
    if (!state) return tl::unexpected(state.error());
    state->colorWrite = false;
    return [&f, stage = std::move(*stage), state = *state, clear = depth_clear(f, state->framebuffer)] {
        state.apply(); // a clear obeys the masks that the last draw left
        clear();
        f.draw(f.opaque, stage, state);
    };
}

const GpuTechnique technique::depth_prepass{prepare_depth_prepass};

} // namespace mirolux::gpu
