#include "core/flat/flat_stage.h"
#include "gpu/passes/flat_lights.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

namespace {

/// Texture unit of a sampler; -1: the variant does not read it.
GLint unit_of(const Stage& stage, const char* sampler) {
    const auto it = stage.program->samplers.find(sampler);
    return it == stage.program->samplers.end() ? -1 : static_cast<GLint>(it->second);
}

Result<Commands> prepare_flat_stage(PassFrame& f, const PlannedPass& pass) {
    flat::Quads quads = flat::quads_of(*f.inputs.scene.flat, f.inputs.view);
    f.upload("QuadBuffer", quads.quads.data(), quads.quads.size() * sizeof(flat::Quad));
    std::vector<std::string> defines;
    for (std::size_t i = 1; i < pass.writes.size(); ++i)
        defines.push_back((pass.writes[i] == "flat surface" ? "SURFACE " : "GLOW ") + std::to_string(i));
    // Any sheet until each run binds its own.
    const PassFrame::Replaced any = {{"sheet", f.textures["flatProfiles"]},
                                     {"sheetNormals", f.textures["flatProfiles"]},
                                     {"sheetEmission", f.textures["flatProfiles"]}};
    auto stage = f.stage(
        {{GL_VERTEX_SHADER, "flat_stage/vertex.glsl", ""}, {GL_FRAGMENT_SHADER, "flat_stage/fragment.glsl", ""}},
        defines, any);
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state(pass.writes);
    if (!state) return tl::unexpected(state.error());
    state->depthTest = state->depthWrite = false;
    state->blend = {true, GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ONE, GL_ONE_MINUS_SRC_ALPHA};
    const GLint colors = unit_of(*stage, "sheet"), normals = unit_of(*stage, "sheetNormals"),
                emission = unit_of(*stage, "sheetEmission"), first = stage->uniform("firstQuad");
    return [&f, stage = std::move(*stage), state = *state, runs = std::move(quads.runs), writes = pass.writes, colors,
            normals, emission, first] {
        state.apply();
        for (std::size_t i = 0; i < writes.size(); ++i) { // where nothing is: black, lit, facing the eye
            const float clear[4] = {0, 0, 0, 0}, surface[4] = {128 / 255.0f, 128 / 255.0f, 96 / 255.0f, 1};
            glClearNamedFramebufferfv(state.framebuffer, GL_COLOR, static_cast<GLint>(i),
                                      writes[i] == "flat surface" ? surface : clear);
        }
        stage.use();
        glBindVertexArray(f.emptyVertexArray);
        for (const flat::QuadRun& run : runs) {
            const SceneResources::SheetTextures& sheet = f.scene.sheet(run.sheet);
            for (const auto& [unit, texture] :
                 {std::pair(colors, sheet.colors), {normals, sheet.normals}, {emission, sheet.emission}})
                if (unit >= 0) glBindTextureUnit(static_cast<GLuint>(unit), texture);
            glUniform1i(first, static_cast<GLint>(run.first));
            glDrawArraysInstanced(GL_TRIANGLE_STRIP, 0, 4, static_cast<GLsizei>(run.count));
        }
    };
}

} // namespace

const GpuTechnique technique::flat_stage{prepare_flat_stage, provide_flat_lights};

} // namespace mirolux::gpu
