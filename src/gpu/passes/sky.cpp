#include "gpu/passes/state.h"

namespace mirolux::gpu {

static Result<GLuint> program(PassContext& c) {
    std::vector<std::string> defines;
    add_instrument(c, defines);
    return c.programs.get("screen_vertex.glsl", "sky_fragment.glsl", defines);
}

static Result<void> prepare(PassContext& c) {
    if (auto p = program(c); !p) return tl::unexpected(p.error());
    return {};
}

static void run(PassContext& c) {
    begin_scene(c);
    glDepthFunc(GL_EQUAL); // the triangle lies at depth 0: where nothing was drawn
    glDepthMask(GL_FALSE);
    glUseProgram(*program(c));
    glBindVertexArray(c.emptyVertexArray);
    glDrawArrays(GL_TRIANGLES, 0, 3);
    glDepthMask(GL_TRUE);
}

const Pass sky_pass{PassKind::sky, prepare, run};

} // namespace mirolux::gpu
