#include "gpu/passes/flat_lights.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

static Result<Commands> prepare_darkness_cut(PassFrame& f, const PlannedPass& pass) {
    if (pass.name == "darken") return prepare_flat_shown(f, "darkness_cut/fragment.glsl");
    const auto opacity = static_cast<float>(f.inputs.setup.number("cut.opacity"));
    return prepare_flat_lights(f, {.target = "darkness", .base = glm::vec3(opacity), .subtract = true});
}

const GpuTechnique technique::darkness_cut{prepare_darkness_cut};

} // namespace mirolux::gpu
