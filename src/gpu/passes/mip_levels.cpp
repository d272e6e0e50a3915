#include "gpu/passes/mip_levels.h"
#include "gpu/gl/formats.h"

namespace mirolux::gpu {

/// One level of a target as a texture of its own, read texel by texel while another level is written. what: of which
/// target, for the frame's memory.
static GLuint level_of(PassFrame& f, GLuint texture, GLenum format, int level, const std::string& what) {
    GLuint view = 0;
    glGenTextures(1, &view);
    glTextureView(view, GL_TEXTURE_2D, texture, format, static_cast<GLuint>(level), 1, 0, 1);
    glTextureParameteri(view, GL_TEXTURE_MIN_FILTER, GL_NEAREST);
    glTextureParameteri(view, GL_TEXTURE_MAG_FILTER, GL_NEAREST);
    f.store.textures["level " + std::to_string(level) + " of " + what + ", eye " + std::to_string(f.eye)] =
        Texture(view);
    return view;
}

LevelDraws::LevelDraws(PassFrame& f, const std::string& resource)
    : f_(f), name_(resource), target_(*f.plan.resource(resource)), texture_(f.texture(resource)) {}

PassFrame::Replaced LevelDraws::reading(const std::string& sampler, int level) {
    return {{sampler, level_of(f_, texture_, gl_format(target_.spec.format), level, sampler + " in " + name_)}};
}

Commands LevelDraws::commands() && {
    std::any& kept = f_.store.objects["framebuffer of the levels of " + name_];
    if (!kept.has_value()) kept = std::make_shared<Framebuffer>(make_framebuffer(("levels of " + name_).c_str()));
    PassState state;
    state.framebuffer = std::any_cast<std::shared_ptr<Framebuffer>>(kept)->name();
    state.depthTest = state.depthWrite = false;
    return [&f = f_, draws = std::move(draws_), state, texture = texture_, width = target_.width,
            height = target_.height]() mutable {
        glBindVertexArray(f.emptyVertexArray);
        for (const Draw& d : draws) {
            glNamedFramebufferTexture(state.framebuffer, GL_COLOR_ATTACHMENT0, texture, d.level);
            state.width = std::max(1, width >> d.level);
            state.height = std::max(1, height >> d.level);
            state.blend = d.blend;
            state.apply();
            d.stage.use();
            glDrawArrays(GL_TRIANGLES, 0, 3);
        }
        f.vitals.beat();
    };
}

} // namespace mirolux::gpu
