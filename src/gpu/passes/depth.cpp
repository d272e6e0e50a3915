#include "gpu/passes/state.h"

namespace mirolux::gpu {

static Result<GLuint> program(PassContext& c, bool masked) {
    std::vector<std::string> defines;
    if (masked) defines.push_back("ALPHA_MASK");
    if (c.bothEyes) defines.push_back("BOTH_EYES");
    add_instrument(c, defines);
    return c.programs.get("mesh_vertex.glsl", "depth_fragment.glsl", defines);
}

static Result<void> prepare(PassContext& c) {
    for (const bool masked : {false, true})
        if (auto p = program(c, masked); !p) return tl::unexpected(p.error());
    return {};
}

static void run(PassContext& c) {
    begin_scene(c);
    clear_depth(c);
    glColorMask(GL_FALSE, GL_FALSE, GL_FALSE, GL_FALSE);
    draw_batches(c, c.opaque, [&](bool masked) { return *program(c, masked); });
    glColorMask(GL_TRUE, GL_TRUE, GL_TRUE, GL_TRUE);
}

const Pass depth_pass{PassKind::depth, prepare, run};

} // namespace mirolux::gpu
