#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

static Result<Commands> prepare_deferred_shading(PassFrame& f, const PlannedPass& pass) {
    std::vector<std::string> targets = {"scene"},
                             variant = {f.plan.resource("light lists") ? "LIGHTS_OF 1" : "LIGHTS_OF 2"};
    write_diffuse_light(pass, targets, variant);
    auto stage = f.screen_stage("deferred_shading/fragment.glsl", f.shading_defines(std::move(variant)));
    if (!stage) return tl::unexpected(stage.error());
    auto state =
        f.state(targets); // reading the depth that is attached would be a feedback loop: the colour alone is bound
    if (!state) return tl::unexpected(state.error());
    state->blend = PassState::adding();
    glProgramUniform1ui(stage->name(), stage->uniform("lightCount"), static_cast<GLuint>(f.inputs.draws.lights.size()));
    return [&f, stage = std::move(*stage), state = *state] { f.draw_screen(stage, state); };
}

const GpuTechnique technique::deferred_shading{prepare_deferred_shading};

} // namespace mirolux::gpu
