#include "core/ambient/reflection.h"
#include "gpu/gl/formats.h"
#include "gpu/passes/surface_pass.h"
#include <cstring>

namespace mirolux::gpu {

namespace {

/// One level of a target as a texture of its own, so that another level can be written meanwhile.
GLuint level_of(PassFrame& f, GLuint texture, GLenum format, int level) {
    GLuint view = 0;
    glGenTextures(1, &view);
    glTextureView(view, GL_TEXTURE_2D, texture, format, static_cast<GLuint>(level), 1, 0, 1);
    glTextureParameteri(view, GL_TEXTURE_MIN_FILTER, GL_NEAREST);
    glTextureParameteri(view, GL_TEXTURE_MAG_FILTER, GL_NEAREST);
    f.store.textures["level " + std::to_string(level) + " of the depth pyramid, eye " + std::to_string(f.eye)] =
        Texture(view);
    return view;
}

Result<Commands> prepare_pyramid(PassFrame& f) {
    const GLuint texture = f.texture(depth_pyramid_resource);
    const PlannedResource& r = *f.plan.resource(depth_pyramid_resource);
    auto first = f.screen_stage("reflection/pyramid.glsl", {"FIRST"});
    if (!first) return tl::unexpected(first.error());
    std::vector<Stage> stages = {std::move(*first)};
    for (int level = 1; level < r.spec.mips; ++level) {
        auto next = f.screen_stage("reflection/pyramid.glsl", {},
                                   {{"finer", level_of(f, texture, gl_format(r.spec.format), level - 1)}});
        if (!next) return tl::unexpected(next.error());
        stages.push_back(std::move(*next));
    }
    std::any& kept = f.store.objects["levels of the depth pyramid"];
    if (!kept.has_value()) kept = std::make_shared<Framebuffer>(make_framebuffer("levels of the depth pyramid"));
    PassState state;
    state.framebuffer = std::any_cast<std::shared_ptr<Framebuffer>>(kept)->name();
    return [&f, stages = std::move(stages), state, texture, width = r.width, height = r.height]() mutable {
        glBindVertexArray(f.emptyVertexArray);
        for (std::size_t level = 0; level < stages.size(); ++level) {
            glNamedFramebufferTexture(state.framebuffer, GL_COLOR_ATTACHMENT0, texture, static_cast<GLint>(level));
            state.width = std::max(1, width >> level);
            state.height = std::max(1, height >> level);
            state.apply();
            stages[level].use();
            glDrawArrays(GL_TRIANGLES, 0, 3);
        }
        f.vitals.beat();
    };
}

Result<Commands> prepare_reflection(PassFrame& f, const PlannedPass& pass) {
    if (pass.name == "depth pyramid") return prepare_pyramid(f);
    const Setup& s = f.inputs.setup;
    const bool reflect = pass.name == "reflect", stretch = pass.name == "stretch reflections";
    std::vector<std::string> variant;
    if (s.choice("reflection.scale") == "half" && !reflect) variant.emplace_back("HALF");
    if (s.choice("reflection.trace") == "hierarchical" && pass.name == "trace reflections")
        variant.emplace_back("HIERARCHICAL");
    PassFrame::Replaced replaced;
    if (stretch && !f.plan.resource("reflection grown")) replaced["reflectionGrown"] = f.texture("reflection colour");
    const char* file = reflect                            ? "reflection/reflect.glsl"
                       : stretch                          ? "reflection/stretch.glsl"
                       : pass.name == "reflection mask"   ? "reflection/mask.glsl"
                       : pass.name == "trace reflections" ? "reflection/trace.glsl"
                       : pass.name == "reflection colour" ? "reflection/colour.glsl"
                                                          : "reflection/grow.glsl";
    auto stage = f.screen_stage(file, f.shading_defines(std::move(variant)), replaced);
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state(pass.writes);
    if (!state) return tl::unexpected(state.error());
    const PlannedResource* target = f.plan.resource(pass.writes.front());
    state->width = target->width;
    state->height = target->height;
    if (reflect) state->blend = PassState::adding();
    const GLuint mipped = stretch ? f.texture(reflection_resource) : 0;
    return [&f, stage = std::move(*stage), state = *state, mipped] {
        f.draw_screen(stage, state);
        if (mipped) glGenerateTextureMipmap(mipped);
    };
}

/// What lookups in surfaces' shaders read, smoothly between mips.
void provide_reflection(PassFrame& f) {
    if (!f.plan.resource(reflection_resource)) return;
    const GLuint picture = f.texture(reflection_resource);
    glTextureParameteri(picture, GL_TEXTURE_MIN_FILTER, GL_LINEAR_MIPMAP_LINEAR);
    glTextureParameteri(picture, GL_TEXTURE_MAG_FILTER, GL_LINEAR);
    f.textures["reflectionDepth"] = f.texture("depth");
}

} // namespace

const GpuTechnique technique::reflection{prepare_reflection, provide_reflection};

} // namespace mirolux::gpu
