#include "core/ambient/reflection.h"
#include "gpu/passes/mip_levels.h"

namespace mirolux::gpu {

namespace {

Result<Commands> prepare_pyramid(PassFrame& f) {
    LevelDraws draws(f, depth_pyramid_resource);
    for (int level = 0; level < f.plan.resource(depth_pyramid_resource)->spec.mips; ++level) {
        auto stage = level == 0 ? f.screen_stage("reflection/pyramid.glsl", {"FIRST"})
                                : f.screen_stage("reflection/pyramid.glsl", {}, draws.reading("finer", level - 1));
        if (!stage) return tl::unexpected(stage.error());
        draws.add({std::move(*stage), level, {}});
    }
    return std::move(draws).commands();
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
