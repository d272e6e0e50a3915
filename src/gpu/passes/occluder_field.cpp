#include "core/flat/flat_stage.h"
#include "core/flat/occluder_picture.h"
#include "gpu/passes/flat_lights.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

namespace {

GLuint groups(int cells, int size) {
    return static_cast<GLuint>((cells + size - 1) / size);
}

Result<Commands> prepare_occluders(PassFrame& f) {
    const bool bodies = flat::way_of(f.inputs.setup) == flat::Way::cascades;
    const flat::OccluderPicture picture =
        flat::occluder_picture(*f.inputs.scene.flat, flat::occluder_grid(f.inputs.setup, f.inputs.view),
                               bodies ? f.inputs.draws.lights : std::vector<Light>(), &f.scene.asset());
    f.upload("OccluderPointBuffer", picture.points.data(), picture.points.size() * sizeof(flat::OccluderPoint));
    f.upload("PlaneBodyBuffer", picture.bodies.data(), picture.bodies.size() * sizeof(flat::PlaneBody));
    auto stage = f.stage({{GL_VERTEX_SHADER, "occluder_field/vertex.glsl", ""},
                          {GL_FRAGMENT_SHADER, "occluder_field/fragment.glsl", ""}},
                         {});
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state({"occluders"});
    if (!state) return tl::unexpected(state.error());
    state->depthTest = state->depthWrite = false;
    return [&f, stage = std::move(*stage), state = *state, points = static_cast<GLsizei>(picture.points.size())] {
        state.apply();
        const float empty[4] = {};
        glClearNamedFramebufferfv(state.framebuffer, GL_COLOR, 0, empty);
        if (points == 0) return;
        stage.use();
        glBindVertexArray(f.emptyVertexArray);
        glDrawArrays(GL_TRIANGLES, 0, points);
    };
}

Result<Commands> prepare_distance(PassFrame& f) {
    std::vector<Stage> stages; // from the occluders; a to b; b to a; the distance from either
    for (const auto& [file, defines] : std::initializer_list<std::pair<const char*, std::vector<std::string>>>{
             {"occluder_field/flood.glsl", {"FIRST"}},
             {"occluder_field/flood.glsl", {"INTO_B"}},
             {"occluder_field/flood.glsl", {"INTO_A"}},
             {"occluder_field/distance.glsl", {}},
             {"occluder_field/distance.glsl", {"FROM_B"}}}) {
        auto stage = f.stage({{GL_COMPUTE_SHADER, file, ""}}, defines);
        if (!stage) return tl::unexpected(stage.error());
        stages.push_back(std::move(*stage));
    }
    const PlannedResource& r = *f.plan.resource("distance field");
    int largest = 1;
    while (largest < std::max(r.width, r.height))
        largest *= 2;
    return [stages = std::move(stages), largest, x = groups(r.width, 16), y = groups(r.height, 4)] {
        const auto run = [&](const Stage& s, int jump) {
            s.use();
            if (jump > 0) glUniform1i(s.uniform("jump"), jump);
            glDispatchCompute(x, y, 1);
            glMemoryBarrier(GL_TEXTURE_FETCH_BARRIER_BIT | GL_SHADER_IMAGE_ACCESS_BARRIER_BIT);
        };
        run(stages[0], 0);
        bool inA = true;
        const auto round = [&](int jump) {
            run(stages[inA ? 1 : 2], jump);
            inA = !inA;
        };
        for (int jump = largest / 2; jump > 0; jump /= 2)
            round(jump);
        round(1); // once more: what the larger jumps have missed
        run(stages[inA ? 3 : 4], 0);
    };
}

Result<Commands> prepare_occluder_field(PassFrame& f, const PlannedPass& pass) {
    return pass.name == "occluders" ? prepare_occluders(f) : prepare_distance(f);
}

} // namespace

const GpuTechnique technique::occluder_field{prepare_occluder_field};

} // namespace mirolux::gpu
