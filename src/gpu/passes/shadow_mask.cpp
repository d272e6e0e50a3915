#include "core/shadow/shadow_mask.h"
#include "gpu/passes/shadow_atlas_memory.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

namespace {

/// Draws one tile a set of four lights.
struct Tiles {
    MaskLayout layout;
    int width = 0, height = 0; // of a tile
    glm::ivec2 origin(int set) const { return {set % layout.columns * width, set / layout.columns * height}; }
};

Result<Commands> prepare_shadow_mask(PassFrame& f, const PlannedPass& pass) {
    const bool spread = pass.name == "spread mask",
               half = shadow_resolve(f.inputs.setup) == ShadowResolve::halfMask && !spread;
    Tiles halves{mask_layout(f.inputs, shadow_set_of(f)), (f.width() + 1) / 2, (f.height() + 1) / 2};
    Tiles tiles{halves.layout, half ? halves.width : f.width(), half ? halves.height : f.height()};
    auto stage =
        f.screen_stage(spread ? "shadow_mask/spread.glsl" : "shadow_mask/fragment.glsl",
                       f.shading_defines(half ? std::vector<std::string>{"HALF"} : std::vector<std::string>{}));
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state(pass.writes);
    if (!state) return tl::unexpected(state.error());
    return
        [&f, stage = std::move(*stage), state = *state, tiles = std::move(tiles), halves = std::move(halves), spread] {
            state.apply();
            stage.use();
            glBindVertexArray(f.emptyVertexArray);
            const std::vector<int>& lights = tiles.layout.lights;
            for (int set = 0; set < tiles.layout.sets(); ++set) {
                const glm::ivec2 origin = tiles.origin(set), from = halves.origin(set);
                glViewport(origin.x, origin.y, tiles.width, tiles.height);
                glProgramUniform2i(stage.name(), stage.uniform("origin"), origin.x, origin.y);
                if (spread)
                    glProgramUniform2i(stage.name(), stage.uniform("halfOrigin"), from.x, from.y);
                else {
                    glm::ivec4 of(-1);
                    for (std::size_t c = 0; c < 4 && 4 * static_cast<std::size_t>(set) + c < lights.size(); ++c)
                        of[static_cast<int>(c)] = lights[4 * static_cast<std::size_t>(set) + c];
                    glProgramUniform4i(stage.name(), stage.uniform("setLights"), of.x, of.y, of.z, of.w);
                }
                glDrawArrays(GL_TRIANGLES, 0, 3);
                f.vitals.beat();
            }
        };
}

} // namespace

const GpuTechnique technique::shadow_mask{prepare_shadow_mask};

} // namespace mirolux::gpu
