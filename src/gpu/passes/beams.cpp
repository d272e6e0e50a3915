#include "core/air/beams.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

/// shaders/beams/interface.glsl.
struct BeamData {
    glm::vec4 tip, axis, intensity, falloff;
};

static Result<Commands> prepare_beams(PassFrame& f, const PlannedPass&) {
    std::vector<BeamData> data;
    const std::vector<Beam> all = beams_of(f.inputs);
    for (const Beam& b : all)
        data.push_back({{b.tip, b.length}, {b.axis, b.tangent}, {b.intensity, b.strength}, {b.along, b.across, 0, 0}});
    f.upload("BeamBuffer", data.data(), data.size() * sizeof(BeamData));
    const auto cones =
        static_cast<GLsizei>(std::count_if(all.begin(), all.end(), [](const Beam& b) { return !b.halo; }));
    std::vector<std::string> defines = {"BEAM_SIDES " + std::to_string(beam_sides)};
    if (beam_look(f.inputs.setup).texture > 0) defines.emplace_back("BEAM_TEXTURE");
    const auto made = [&](std::vector<std::string> more) {
        more.insert(more.end(), defines.begin(), defines.end());
        return f.stage({{GL_VERTEX_SHADER, "beams/vertex.glsl", ""}, {GL_FRAGMENT_SHADER, "beams/fragment.glsl", ""}},
                       f.shading_defines(std::move(more)));
    };
    auto cone = made({}), halo = made({"HALO"});
    if (!cone) return tl::unexpected(cone.error());
    if (!halo) return tl::unexpected(halo.error());
    glProgramUniform1i(halo->name(), halo->uniform("firstBeam"), cones);
    auto state = f.state({"scene"}); // the depth is read, not tested: a beam fades before what cuts it
    if (!state) return tl::unexpected(state.error());
    state->blend = {true, GL_ONE, GL_ONE_MINUS_SRC_ALPHA, GL_ZERO, GL_ONE};
    return [&f, cone = std::move(*cone), halo = std::move(*halo), state = *state, cones,
            halos = static_cast<GLsizei>(all.size()) - cones] {
        state.apply();
        glBindVertexArray(f.emptyVertexArray);
        cone.use();
        if (cones > 0) glDrawArraysInstanced(GL_TRIANGLES, 0, 3 * beam_sides, cones);
        halo.use();
        if (halos > 0) glDrawArraysInstanced(GL_TRIANGLES, 0, 6, halos);
        f.vitals.beat();
    };
}

const GpuTechnique technique::beams{prepare_beams};

} // namespace mirolux::gpu
