#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

/// One blended pass a light, inside its scissor, where depth is equal. Marks 1 to 254 of the stencil tell lights apart
/// (255 is the pre-pass's); then the stencil starts afresh.
static Result<Commands> prepare_lights(PassFrame& f, const PlannedPass& pass) {
    std::vector<std::string> targets = {"scene"}, variant = {"PASS_LIGHT", "LIGHTS_OF 3"};
    write_diffuse_light(pass, targets, variant);
    auto stage = f.surface_stage(std::move(variant));
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state(targets, "depth");
    if (!state) return tl::unexpected(state.error());
    state->depthFunc = GL_EQUAL;
    state->depthWrite = false;
    state->blend = PassState::adding();
    return [&f, stage = std::move(*stage), plain = *state] {
        PassState state = plain;
        int mark = 0;
        for (const LightBatches& light : f.lights) {
            if (++mark == 255) {
                plain.apply();
                const GLint zero = 0;
                glClearNamedFramebufferiv(plain.framebuffer, GL_STENCIL, 0, &zero);
                mark = 1;
            }
            state.stencil = PassState::once_per_pixel(mark);
            state.scissor = light.rect;
            stage.set("lightIndex", static_cast<GLuint>(light.light));
            f.draw(light.batches, stage, state);
            f.vitals.beat();
        }
    };
}

static Result<Commands> prepare_additive(PassFrame& f, const PlannedPass& pass) {
    return pass.name == "ambient" ? prepare_opaque(f, pass, {"scene"}, {"PASS_AMBIENT"}) : prepare_lights(f, pass);
}

const GpuTechnique technique::additive{prepare_additive};

} // namespace mirolux::gpu
