#include "gpu/passes/state.h"

namespace mirolux::gpu {

/// Opaque and masked surfaces in one pass: what differs between the forward and the ambient pass is only the shader's
/// variant.
static void run_opaque(PassContext& c, const char* what) {
    begin_scene(c);
    clear_color(c);
    if (c.prepass) {
        glDepthFunc(GL_EQUAL);
        glDepthMask(GL_FALSE);
        once_per_pixel(255);
    } else
        clear_depth(c);
    draw_batches(c, c.opaque, [&](bool masked) { return *surface_program(c, {what}, masked); });
    glDisable(GL_STENCIL_TEST);
}

static void run_gbuffer(PassContext& c) {
    begin_scene(c);
    clear_color(c);
    if (!c.prepass) clear_depth(c);
    glBindFramebuffer(GL_FRAMEBUFFER, c.gbuffer->framebuffer.name());
    if (c.prepass) {
        glDepthFunc(GL_EQUAL);
        glDepthMask(GL_FALSE);
        once_per_pixel(255);
    }
    draw_batches(c, c.opaque, [&](bool masked) { return *surface_program(c, {"PASS_GBUFFER"}, masked); });
    glDisable(GL_STENCIL_TEST);
}

const Pass forward_pass{PassKind::forward, [](PassContext& c) { return prepare_surface(c, {"PASS_FORWARD"}); },
                        [](PassContext& c) { run_opaque(c, "PASS_FORWARD"); }};
const Pass listed_pass{PassKind::listed, [](PassContext& c) { return prepare_surface(c, {"PASS_LISTED"}); },
                       [](PassContext& c) { run_opaque(c, "PASS_LISTED"); }};
const Pass gbuffer_pass{PassKind::gbuffer, [](PassContext& c) { return prepare_surface(c, {"PASS_GBUFFER"}); },
                        run_gbuffer};
const Pass ambient_pass{PassKind::ambient, [](PassContext& c) { return prepare_surface(c, {"PASS_AMBIENT"}); },
                        [](PassContext& c) { run_opaque(c, "PASS_AMBIENT"); }};

} // namespace mirolux::gpu
