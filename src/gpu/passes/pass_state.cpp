#include "gpu/passes/pass_state.h"

namespace mirolux::gpu {

static void enable(GLenum what, bool on) {
    if (on)
        glEnable(what);
    else
        glDisable(what);
}

void PassState::apply() const {
    glBindFramebuffer(GL_FRAMEBUFFER, framebuffer);
    glViewport(0, 0, width, height);
    enable(GL_DEPTH_TEST, depthTest);
    glDepthFunc(depthFunc);
    glDepthMask(depthWrite);
    glColorMask(colorWrite, colorWrite, colorWrite, colorWrite);
    enable(GL_BLEND, blend.on);
    glBlendFuncSeparate(blend.source, blend.target, blend.sourceAlpha, blend.targetAlpha);
    glBlendEquation(blend.equation);
    enable(GL_STENCIL_TEST, stencil.on);
    glStencilMask(0xFF);
    glStencilFunc(stencil.func, stencil.reference, 0xFF);
    glStencilOpSeparate(GL_BACK, GL_KEEP, stencil.depthFailBack == GL_KEEP ? stencil.depthFail : stencil.depthFailBack,
                        stencil.pass);
    glStencilOpSeparate(GL_FRONT, GL_KEEP,
                        stencil.depthFailFront == GL_KEEP ? stencil.depthFail : stencil.depthFailFront, stencil.pass);
    enable(GL_SCISSOR_TEST, !scissor.empty());
    if (!scissor.empty()) // the device counts rows from the bottom
        glScissor(scissor.x0, height - scissor.y1, scissor.x1 - scissor.x0, scissor.y1 - scissor.y0);
    enable(GL_CULL_FACE, cull != GL_NONE);
    glCullFace(cull == GL_NONE ? GL_BACK : cull);
    glFrontFace(GL_CCW);
}

} // namespace mirolux::gpu
