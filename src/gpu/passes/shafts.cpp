#include "core/air/shafts.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

static Result<Commands> prepare_shafts(PassFrame& f, const PlannedPass& pass) {
    const bool adds = pass.name == "add shafts";
    auto stage = f.screen_stage(adds ? "shafts/add.glsl" : "shafts/fragment.glsl", {});
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state(pass.writes);
    if (!state) return tl::unexpected(state.error());
    if (adds) state->blend = PassState::adding();
    return [&f, stage = std::move(*stage), state = *state] { f.draw_screen(stage, state); };
}

/// What the shafts add at the pixel: the four texels around it.
static Result<void> probe_shafts(PassFrame& f, PixelProbe& probe) {
    const PlannedResource& r = *f.plan.resource("shafts");
    auto state = f.state({"shafts"});
    if (!state) return tl::unexpected(state.error());
    const glm::vec2 at = glm::clamp(glm::vec2(probe.pixel.x + 0.5f, f.height() - probe.pixel.y - 0.5f) * 0.5f,
                                    glm::vec2(0.5f), glm::vec2(r.width, r.height) - 0.5f) -
                         0.5f;
    const glm::ivec2 low(at);
    const glm::vec2 share = at - glm::vec2(low);
    glBindFramebuffer(GL_READ_FRAMEBUFFER, state->framebuffer);
    glReadBuffer(GL_COLOR_ATTACHMENT0);
    glm::vec3 sum(0.0f);
    for (int i = 0; i < 4; ++i) {
        const glm::ivec2 texel = glm::min(low + glm::ivec2(i & 1, i >> 1), glm::ivec2(r.width, r.height) - 1);
        float value[4] = {};
        glReadPixels(texel.x, texel.y, 1, 1, GL_RGBA, GL_FLOAT, value);
        sum += glm::vec3(value[0], value[1], value[2]) *
               ((i & 1 ? share.x : 1 - share.x) * (i >> 1 ? share.y : 1 - share.y));
    }
    probe.shafts = sum;
    return {};
}

const GpuTechnique technique::shafts{prepare_shafts, nullptr, probe_shafts};

} // namespace mirolux::gpu
