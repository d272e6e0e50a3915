#include "gpu/passes/state.h"

namespace mirolux::gpu {

static void run(PassContext& c) {
    begin_scene(c);
    glDepthMask(GL_FALSE);
    glEnable(GL_BLEND);
    glBlendFuncSeparate(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ONE, GL_ONE_MINUS_SRC_ALPHA);
    draw_batches(c, c.blended, [&](bool masked) { return *surface_program(c, "PASS_FORWARD", masked); });
    glDisable(GL_BLEND);
    glDepthMask(GL_TRUE);
}

const Pass transparent_pass{PassKind::transparent, [](PassContext& c) { return prepare_surface(c, "PASS_FORWARD"); }, run};

} // namespace mirolux::gpu
