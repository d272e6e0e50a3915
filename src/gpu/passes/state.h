#pragma once
#include "gpu/passes/pass.h"

namespace mirolux::gpu {

/// Binds the scene target, whole, with plain state: no blending, depth written where greater (reversed depth), no
/// stencil.
inline void begin_scene(const PassContext& c) {
    glBindFramebuffer(GL_FRAMEBUFFER, c.targets.scene.name());
    glViewport(0, 0, c.targets.width, c.targets.height);
    glDisable(GL_BLEND);
    glDisable(GL_SCISSOR_TEST);
    glDisable(GL_STENCIL_TEST);
    glEnable(GL_DEPTH_TEST);
    glDepthFunc(GL_GREATER);
    glDepthMask(GL_TRUE);
    glColorMask(GL_TRUE, GL_TRUE, GL_TRUE, GL_TRUE);
    glStencilMask(0xFF);
}

inline void clear_depth(const PassContext& c) {
    if (c.targets.stencil)
        glClearNamedFramebufferfi(c.targets.scene.name(), GL_DEPTH_STENCIL, 0, 0.0f, 0);
    else {
        const float zero = 0.0f;
        glClearNamedFramebufferfv(c.targets.scene.name(), GL_DEPTH, 0, &zero);
    }
}

inline void clear_color(const PassContext& c) {
    const float zero[4] = {};
    glClearNamedFramebufferfv(c.targets.scene.name(), GL_COLOR, 0, zero);
}

/// Lets each pixel pass once for `mark`: where surfaces share one depth exactly, GL_EQUAL alone would shade them all.
inline void once_per_pixel(int mark) {
    glEnable(GL_STENCIL_TEST);
    glStencilFunc(GL_NOTEQUAL, mark, 0xFF);
    glStencilOp(GL_KEEP, GL_KEEP, GL_REPLACE);
}

/// Binds the G-buffer and the depth to units 0 to 3, as include/deferred.glsl reads them.
inline void bind_gbuffer(const PassContext& c) {
    const GLuint textures[] = {c.gbuffer->base.name(), c.gbuffer->normal.name(), c.gbuffer->roughness.name(),
                               c.targets.depth.name()};
    glBindTextures(0, 4, textures);
}

} // namespace mirolux::gpu
