#include "core/ambient/reflection.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

static Result<Commands> prepare_deferred_ambient(PassFrame& f, const PlannedPass& pass) {
    const bool shares = writes_shares(pass);
    std::vector<std::string> targets = {"scene"}, variant;
    if (shares) {
        targets.emplace_back(mirror_share_resource);
        variant.emplace_back("MIRROR_SHARES");
    }
    write_diffuse_light(pass, targets, variant);
    auto stage = f.screen_stage("deferred_ambient/fragment.glsl", f.shading_defines(std::move(variant)));
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state(targets);
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
