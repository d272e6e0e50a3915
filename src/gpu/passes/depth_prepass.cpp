#include "gpu/passes/surface_pass.h"
#include <algorithm>

namespace mirolux::gpu {

static Result<Commands> prepare_depth_prepass(PassFrame& f, const PlannedPass& pass) {
    const bool normals = std::find(pass.writes.begin(), pass.writes.end(), "normal") != pass.writes.end();
    auto stage = f.mesh_stage("depth_prepass/fragment.glsl",
                              normals ? f.shading_defines({"NORMALS"}) : std::vector<std::string>{});
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state(normals ? std::vector<std::string>{"normal"} : std::vector<std::string>{}, "depth");
    if (!state) return tl::unexpected(state.error());
    state->colorWrite = normals;
    return [&f, stage = std::move(*stage), state = *state, clear = depth_clear(f, state->framebuffer)] {
        state.apply(); // a clear obeys the masks that the last draw left
        clear();
        f.draw(f.opaque, stage, state);
    };
}

const GpuTechnique technique::depth_prepass{prepare_depth_prepass};

} // namespace mirolux::gpu
