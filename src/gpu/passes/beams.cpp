#include "core/air/beams.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

/// shaders/beams/interface.glsl.
struct BeamData {
    glm::vec4 tip, axis, intensity, falloff;
};

static Result<Commands> prepare_beams(PassFrame& f, const PlannedPass&) {
    std::vector<BeamData> data;
    for (const Beam& b : beams_of(f.inputs))
        data.push_back({{b.tip, b.length},
                        {b.axis, b.halo ? 0.0f : b.tangent},
                        {b.intensity, b.strength},
                        {b.along, b.across, 0, 0}});
    f.upload("BeamBuffer", data.data(), data.size() * sizeof(BeamData));
    auto stage = f.stage({{GL_VERTEX_SHADER, "beams/vertex.glsl", ""}, {GL_FRAGMENT_SHADER, "beams/fragment.glsl", ""}},
                         f.shading_defines({"BEAM_SIDES " + std::to_string(beam_sides)}));
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state({"scene"}); // the depth is read, not tested: a beam fades before what cuts it
    if (!state) return tl::unexpected(state.error());
    state->blend = {true, GL_ONE, GL_ONE_MINUS_SRC_ALPHA, GL_ZERO, GL_ONE};
    return [&f, stage = std::move(*stage), state = *state, count = static_cast<GLsizei>(data.size())] {
        state.apply();
        stage.use();
        glBindVertexArray(f.emptyVertexArray);
        glDrawArraysInstanced(GL_TRIANGLES, 0, 3 * beam_sides, count);
        f.vitals.beat();
    };
}

const GpuTechnique technique::beams{prepare_beams};

} // namespace mirolux::gpu
