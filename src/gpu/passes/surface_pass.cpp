#include "gpu/passes/surface_pass.h"
#include "core/ambient/reflection.h"
#include <algorithm>

namespace mirolux::gpu {

Commands depth_clear(const PassFrame& f, GLuint framebuffer) {
    const bool stencil = f.plan.resource("depth")->spec.format == Format::depth32fStencil8;
    return [framebuffer, stencil] {
        const float zero = 0.0f;
        if (stencil)
            glClearNamedFramebufferfi(framebuffer, GL_DEPTH_STENCIL, 0, 0.0f, 0);
        else
            glClearNamedFramebufferfv(framebuffer, GL_DEPTH, 0, &zero);
    };
}

bool writes_shares(const PlannedPass& pass) {
    return std::find(pass.writes.begin(), pass.writes.end(), mirror_share_resource) != pass.writes.end();
}

void clear_color(GLuint framebuffer, int attachment) {
    const float zero[4] = {};
    glClearNamedFramebufferfv(framebuffer, GL_COLOR, attachment, zero);
}

Result<Commands> prepare_opaque(PassFrame& f, const PlannedPass& pass, std::vector<std::string> targets,
                                std::vector<std::string> variant) {
    const bool shares = writes_shares(pass);
    if (shares) {
        targets.emplace_back(mirror_share_resource);
        variant.emplace_back("MIRROR_SHARES");
    }
    auto stage = f.surface_stage(std::move(variant));
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state(targets, "depth");
    if (!state) return tl::unexpected(state.error());
    if (pass.laidDepth) {
        state->depthFunc = GL_EQUAL;
        state->depthWrite = false;
        state->stencil = PassState::once_per_pixel(255);
    }
    // A framebuffer's clear obeys the masks that the last draw left.
    return [&f, stage = std::move(*stage), state = *state, laid = pass.laidDepth,
            last = shares ? static_cast<int>(targets.size()) - 1 : 0, clear = depth_clear(f, state->framebuffer)] {
        state.apply();
        glDepthMask(GL_TRUE);
        clear_color(state.framebuffer);
        if (last > 0) clear_color(state.framebuffer, last);
        if (!laid) clear();
        f.draw(f.opaque, stage, state);
    };
}

} // namespace mirolux::gpu
