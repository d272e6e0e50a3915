#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

static Result<Commands> prepare_finish(PassFrame& f, const PlannedPass&) {
    auto stage = f.screen_stage("finish/fragment.glsl", {});
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state({"picture"});
    if (!state) return tl::unexpected(state.error());
    glProgramUniform2i(stage->name(), stage->uniform("outputSize"), f.width(), f.height());
    return [&f, stage = std::move(*stage), state = *state] { f.draw_screen(stage, state); };
}

const GpuTechnique technique::finish{prepare_finish};

} // namespace mirolux::gpu
