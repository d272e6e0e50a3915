#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

static Result<Commands> prepare_contact_shadows(PassFrame& f, const PlannedPass&) {
    auto stage = f.screen_stage("contact_shadows/depth.glsl", {});
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state({"contact depth"});
    if (!state) return tl::unexpected(state.error());
    return [&f, stage = std::move(*stage), state = *state] { f.draw_screen(stage, state); };
}

const GpuTechnique technique::contact_shadows{prepare_contact_shadows};

} // namespace mirolux::gpu
