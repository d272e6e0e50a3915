#include "gpu/passes/flat_lights.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

static Result<Commands> prepare_light_mask(PassFrame& f, const PlannedPass& pass) {
    if (pass.name == "multiply") return prepare_flat_shown(f, "light_mask/fragment.glsl");
    const Setup& s = f.inputs.setup;
    return prepare_flat_lights(f,
                               {.target = "light mask", .base = s.color("flat.ambient"), .blend = flat::blend_of(s)});
}

const GpuTechnique technique::light_mask{prepare_light_mask};

} // namespace mirolux::gpu
