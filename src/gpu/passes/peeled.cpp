#include "gpu/passes/state.h"

// Depth peeling (C. Everitt, Interactive Order-Independent Transparency, 2001), nearest layer first: each layer keeps
// the nearest fragments behind the layer before, and is put under the sum of those.
namespace mirolux::gpu {

static Variant variant(const PassContext& c) {
    Variant v = blended_variant(c);
    v.push_back("PEEL");
    return v;
}

static Result<GLuint> composite(PassContext& c) {
    return c.programs.get("screen_vertex.glsl", "peel_fragment.glsl", {});
}

static Result<void> prepare(PassContext& c) {
    if (auto p = composite(c); !p) return tl::unexpected(p.error());
    return prepare_surface(c, variant(c));
}

/// The texel of `source` over the bound target, with the blending that is set.
static void cover(PassContext& c, GLuint source, bool premultiply) {
    glDisable(GL_DEPTH_TEST);
    glDepthMask(GL_FALSE);
    glEnable(GL_BLEND);
    const GLuint p = *composite(c);
    glProgramUniform1i(p, 0, premultiply);
    glUseProgram(p);
    glBindTextureUnit(0, source);
    glBindVertexArray(c.emptyVertexArray);
    glDrawArrays(GL_TRIANGLES, 0, 3);
    glDisable(GL_BLEND);
}

static void run(PassContext& c) {
    PeelTargets& t = *c.peel;
    const float zero[4] = {},
                open[4] = {0, 0, 0, 1}; // alpha of the sum: the share of what lies behind that still comes through
    glClearNamedFramebufferfv(t.sum.name(), GL_COLOR, 0, open);
    const int layers = c.setup.whole("transparency.layers");
    const Variant v = variant(c);
    for (int layer = 0; layer < layers; ++layer) {
        begin_scene(c);
        const int own = layer % 2;
        glBindFramebuffer(GL_FRAMEBUFFER, t.layer[own].name());
        glClearNamedFramebufferfv(t.layer[own].name(), GL_COLOR, 0, zero);
        glClearNamedFramebufferfv(t.layer[own].name(), GL_DEPTH, 0, zero);
        glBindTextureUnit(5, c.targets.depth.name());
        glBindTextureUnit(6, t.depth[1 - own].name());
        draw_batches(c, c.blended, [&](bool masked) {
            const GLuint p = *surface_program(c, v, masked);
            glProgramUniform1i(p, 1, layer);
            return p;
        });
        glBindFramebuffer(GL_FRAMEBUFFER, t.sum.name());
        glBlendFuncSeparate(GL_DST_ALPHA, GL_ONE, GL_ZERO, GL_ONE_MINUS_SRC_ALPHA);
        cover(c, t.color.name(), true);
        if (c.alive) c.alive();
    }
    glBindFramebuffer(GL_FRAMEBUFFER, c.targets.colorOnly.name());
    glBlendFuncSeparate(GL_ONE, GL_SRC_ALPHA, GL_ZERO, GL_ONE);
    cover(c, t.total.name(), false);
    glDepthMask(GL_TRUE);
}

const Pass peeled_pass{PassKind::peeled, prepare, run};

} // namespace mirolux::gpu
