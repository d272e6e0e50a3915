#include "core/light/proxy.h"
#include "gpu/passes/state.h"

// Light volumes (J. Arvo's bounding idea in deferred shading, as in S. Hargreaves and M. Harris, Deferred Shading,
// 2004): the pixels that a light's proxy mesh bounds are shaded with it, and added.
namespace mirolux::gpu {

static Result<GLuint> full_screen(PassContext& c) {
    return c.programs.get("screen_vertex.glsl", "shading_fragment.glsl", shading_defines(c, {"LISTS 0"}, false));
}
static Result<GLuint> shade(PassContext& c) {
    return c.programs.get("volume_vertex.glsl", "volume_fragment.glsl", shading_defines(c, {"SHADE 1"}, false));
}
static Result<GLuint> mark(PassContext& c) {
    return c.programs.get("volume_vertex.glsl", "volume_fragment.glsl", shading_defines(c, {"SHADE 0"}, false));
}

static Result<void> prepare(PassContext& c) {
    for (auto* program : {full_screen, shade, mark})
        if (auto p = program(c); !p) return tl::unexpected(p.error());
    return {};
}

static void draw_proxy(const PassContext& c, GLuint program, ProxyShape shape) {
    glUseProgram(program);
    const ProxyMeshes::Part& part = c.proxies->part(shape);
    glDrawElementsBaseVertex(GL_TRIANGLES, part.count, GL_UNSIGNED_INT,
                             reinterpret_cast<const void*>(part.first * sizeof(GLuint)), part.baseVertex);
}

static void run(PassContext& c) {
    // The depth that is tested against cannot be read at the same time: shaders read a copy.
    const GLenum target = GL_TEXTURE_2D;
    glCopyImageSubData(c.targets.depth.name(), target, 0, 0, 0, 0, c.depthCopy, target, 0, 0, 0, 0, c.targets.width,
                       c.targets.height, 1);
    begin_scene(c);
    bind_gbuffer(c);
    glBindTextureUnit(3, c.depthCopy);
    glDepthMask(GL_FALSE);
    glEnable(GL_BLEND);
    glBlendFunc(GL_ONE, GL_ONE);
    if (c.list.directional > 0) {
        glDisable(GL_DEPTH_TEST);
        const GLuint p = *full_screen(c);
        glProgramUniform1ui(p, 1, static_cast<GLuint>(c.list.directional));
        glUseProgram(p);
        glBindVertexArray(c.emptyVertexArray);
        glDrawArrays(GL_TRIANGLES, 0, 3);
        glEnable(GL_DEPTH_TEST);
    }
    const GLuint shading = *shade(c), marking = *mark(c);
    const bool twoStep = c.setup.choice("volumes.form") == "two-step";
    if (twoStep) {
        const GLint zero = 0;
        glClearNamedFramebufferiv(c.targets.scene.name(), GL_STENCIL, 0, &zero);
        glEnable(GL_STENCIL_TEST);
    }
    glBindVertexArray(c.proxies->vertex_array());
    for (std::size_t l = static_cast<std::size_t>(c.list.directional); l < c.list.lights.size(); ++l) {
        const Proxy proxy = light_proxy(c.list.lights[l], c.list.reach[l]);
        glProgramUniformMatrix4fv(shading, 0, 1, GL_FALSE, &proxy.transform[0].x);
        glProgramUniform1ui(shading, 4, static_cast<GLuint>(l));
        if (twoStep) {
            // Depth fail: a surface inside the volume hides its back face but not its front face, so that one count is
            // left.
            glProgramUniformMatrix4fv(marking, 0, 1, GL_FALSE, &proxy.transform[0].x);
            glColorMask(GL_FALSE, GL_FALSE, GL_FALSE, GL_FALSE);
            glDisable(GL_CULL_FACE);
            glEnable(GL_DEPTH_TEST);
            glDepthFunc(GL_GREATER);
            glStencilFunc(GL_ALWAYS, 0, 0xFF);
            glStencilOpSeparate(GL_BACK, GL_KEEP, GL_INCR_WRAP, GL_KEEP);
            glStencilOpSeparate(GL_FRONT, GL_KEEP, GL_DECR_WRAP, GL_KEEP);
            draw_proxy(c, marking, proxy.shape);
            glColorMask(GL_TRUE, GL_TRUE, GL_TRUE, GL_TRUE);
            glDisable(GL_DEPTH_TEST);
            glStencilFunc(GL_NOTEQUAL, 0, 0xFF);
            glStencilOp(GL_KEEP, GL_ZERO, GL_ZERO); // wiped for the next light as it shades
        } else
            glDepthFunc(GL_LEQUAL); // reversed depth: the back face lies at the surface or behind it
        glEnable(GL_CULL_FACE);
        glCullFace(GL_FRONT);
        draw_proxy(c, shading, proxy.shape);
        glCullFace(GL_BACK);
        glDisable(GL_CULL_FACE);
        if (c.alive && l % 16 == 0) c.alive();
    }
    glDisable(GL_STENCIL_TEST);
    glDisable(GL_BLEND);
    glEnable(GL_DEPTH_TEST);
    glDepthFunc(GL_GREATER);
    glDepthMask(GL_TRUE);
}

const Pass volumes_pass{PassKind::volumes, prepare, run};

} // namespace mirolux::gpu
