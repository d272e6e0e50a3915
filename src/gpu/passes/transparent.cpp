#include "gpu/passes/state.h"

namespace mirolux::gpu {

static void run(PassContext& c) {
    begin_scene(c);
    glDepthMask(GL_FALSE);
    glEnable(GL_BLEND);
    glBlendFuncSeparate(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ONE, GL_ONE_MINUS_SRC_ALPHA);
    const Variant variant = blended_variant(c);
    draw_batches(c, c.blended, [&](bool masked) { return *surface_program(c, variant, masked); });
    glDisable(GL_BLEND);
    glDepthMask(GL_TRUE);
}

const Pass transparent_pass{PassKind::transparent,
                            [](PassContext& c) { return prepare_surface(c, blended_variant(c)); }, run};

} // namespace mirolux::gpu
