#include "gpu/passes/state.h"

namespace mirolux::gpu {

static void run(PassContext& c) {
    begin_scene(c);
    glDepthFunc(GL_EQUAL);
    glDepthMask(GL_FALSE);
    glEnable(GL_BLEND);
    glBlendFunc(GL_ONE, GL_ONE);
    glEnable(GL_SCISSOR_TEST);
    int mark = 0;
    for (const LightBatches& light : c.lights) {
        // Marks 1 to 254 tell lights apart (255 is the pre-pass's); then the stencil starts afresh.
        if (++mark == 255) {
            glDisable(GL_SCISSOR_TEST);
            const GLint zero = 0;
            glClearNamedFramebufferiv(c.targets.scene.name(), GL_STENCIL, 0, &zero);
            glEnable(GL_SCISSOR_TEST);
            mark = 1;
        }
        once_per_pixel(mark);
        const PixelRect& r = light.rect; // rows from the top; the scissor counts from the bottom
        glScissor(r.x0, c.targets.height - r.y1, r.x1 - r.x0, r.y1 - r.y0);
        draw_batches(c, light.batches, [&](bool masked) {
            const GLuint p = *surface_program(c, {"PASS_LIGHT"}, masked);
            glProgramUniform1ui(p, 0, static_cast<GLuint>(light.light));
            return p;
        });
        if (c.alive && mark % 16 == 0) c.alive();
    }
    glDisable(GL_SCISSOR_TEST);
    glDisable(GL_STENCIL_TEST);
    glDisable(GL_BLEND);
    glDepthMask(GL_TRUE);
}

const Pass lights_pass{PassKind::lights, [](PassContext& c) { return prepare_surface(c, {"PASS_LIGHT"}); }, run};

} // namespace mirolux::gpu
