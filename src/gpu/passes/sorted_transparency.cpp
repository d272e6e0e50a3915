#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

static Result<Commands> prepare_sorted_transparency(PassFrame& f, const PlannedPass&) {
    auto stage = f.surface_stage(f.blended_variant());
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state({"scene"}, "depth");
    if (!state) return tl::unexpected(state.error());
    state->depthWrite = false;
    state->blend = {true, GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ONE, GL_ONE_MINUS_SRC_ALPHA};
    return [&f, stage = std::move(*stage), state = *state] { f.draw(f.blended, stage, state); };
}

const GpuTechnique technique::sorted_transparency{prepare_sorted_transparency};

} // namespace mirolux::gpu
