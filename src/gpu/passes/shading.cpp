#include "gpu/passes/state.h"

namespace mirolux::gpu {

static Result<GLuint> program(PassContext& c) {
    return c.programs.get("screen_vertex.glsl", "shading_fragment.glsl",
                          shading_defines(c, {c.path.lists ? "LISTS 1" : "LISTS 0"}, false));
}

static Result<void> prepare(PassContext& c) {
    if (auto p = program(c); !p) return tl::unexpected(p.error());
    return {};
}

static void run(PassContext& c) {
    begin_scene(c);
    // Reading the depth that is attached would be a feedback loop: the colour alone is bound.
    glBindFramebuffer(GL_FRAMEBUFFER, c.targets.colorOnly.name());
    glDisable(GL_DEPTH_TEST);
    glDepthMask(GL_FALSE);
    glEnable(GL_BLEND);
    glBlendFunc(GL_ONE, GL_ONE);
    const GLuint p = *program(c);
    glProgramUniform1ui(p, 0, static_cast<GLuint>(c.list.directional));
    glProgramUniform1ui(p, 1, static_cast<GLuint>(c.list.lights.size()));
    glUseProgram(p);
    bind_gbuffer(c);
    glBindVertexArray(c.emptyVertexArray);
    glDrawArrays(GL_TRIANGLES, 0, 3);
    glDisable(GL_BLEND);
    glDepthMask(GL_TRUE);
}

const Pass shading_pass{PassKind::shading, prepare, run};

} // namespace mirolux::gpu
