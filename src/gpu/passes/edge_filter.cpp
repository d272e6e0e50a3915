#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

static Result<Commands> prepare_edge_filter(PassFrame& f, const PlannedPass& pass) {
    auto stage = f.screen_stage("edge_filter/fragment.glsl", finish_variant(f.plan));
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state(pass.writes);
    if (!state) return tl::unexpected(state.error());
    return [&f, stage = std::move(*stage), state = *state] { f.draw_screen(stage, state); };
}

const GpuTechnique technique::edge_filter{prepare_edge_filter};

} // namespace mirolux::gpu
