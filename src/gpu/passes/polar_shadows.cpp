#include "core/flat/flat_stage.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

static Result<Commands> prepare_polar_shadows(PassFrame& f, const PlannedPass&) {
    std::vector<glm::vec4> edges;
    for (const flat::Edge& e : flat::edges_of(flat::outlines_of(*f.inputs.scene.flat)))
        edges.emplace_back(glm::vec2(e.a), glm::vec2(e.b));
    f.upload("FlatEdgeBuffer", edges.data(), edges.size() * sizeof(glm::vec4));
    auto stage = f.stage({{GL_COMPUTE_SHADER, "polar_shadows/maps.glsl", ""}}, {});
    if (!stage) return tl::unexpected(stage.error());
    const PlannedResource& maps = *f.plan.resource("polar maps");
    return [stage = std::move(*stage), width = maps.width, height = maps.height] {
        stage.use();
        glDispatchCompute(static_cast<GLuint>((width + 63) / 64), static_cast<GLuint>(height), 1);
        glMemoryBarrier(GL_TEXTURE_FETCH_BARRIER_BIT);
    };
}

const GpuTechnique technique::polar_shadows{prepare_polar_shadows};

} // namespace mirolux::gpu
