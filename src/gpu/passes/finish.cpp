#include "gpu/passes/state.h"

namespace mirolux::gpu {

static Result<GLuint> program(PassContext& c) {
    std::vector<std::string> defines;
    add_instrument(c, defines);
    return c.programs.get("screen_vertex.glsl", "finish_fragment.glsl", defines);
}

static Result<void> prepare(PassContext& c) {
    if (auto p = program(c); !p) return tl::unexpected(p.error());
    return {};
}

static void run(PassContext& c) {
    glBindFramebuffer(GL_FRAMEBUFFER, c.targets.finish.name());
    glViewport(0, 0, c.targets.width, c.targets.height);
    glDisable(GL_DEPTH_TEST);
    glDisable(GL_BLEND);
    const GLuint p = *program(c);
    glProgramUniform2i(p, 0, c.targets.width, c.targets.height);
    glUseProgram(p);
    glBindTextureUnit(0, c.targets.color.name());
    glBindVertexArray(c.emptyVertexArray);
    glDrawArrays(GL_TRIANGLES, 0, 3);
}

const Pass finish_pass{PassKind::finish, prepare, run};

} // namespace mirolux::gpu
