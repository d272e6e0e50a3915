#include "gpu/passes/flat_lights.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

static Result<Commands> prepare_fan_shadows(PassFrame& f, const PlannedPass&) {
    // The points lie where the frame has made room for them; a frame's own work is to make them anew.
    const std::vector<flat::Edge> edges = flat::edges_of(flat::outlines_of(*f.inputs.scene.flat));
    return [&f, edges, buffer = f.buffers.at("FlatFanBuffer").buffer] {
        for (const FanSlot& slot : flat_fans(f).slots) {
            if (!slot.moves) continue;
            std::vector<FanPointData> points;
            for (const glm::vec2& p : fan_points(f, edges, slot.light))
                points.push_back({p, static_cast<std::uint32_t>(slot.light), 0});
            if (static_cast<int>(points.size()) == slot.count && slot.count > 0)
                glNamedBufferSubData(buffer, static_cast<GLintptr>(slot.first * sizeof(FanPointData)),
                                     static_cast<GLsizeiptr>(points.size() * sizeof(FanPointData)), points.data());
        }
    };
}

const GpuTechnique technique::fan_shadows{prepare_fan_shadows};

} // namespace mirolux::gpu
