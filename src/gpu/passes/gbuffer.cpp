#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

static Result<Commands> prepare_gbuffer(PassFrame& f, const PlannedPass& pass) {
    return prepare_opaque(f, pass, {"scene", "base colour, metallic", "normal", "roughness, unlit"}, {"PASS_GBUFFER"});
}

const GpuTechnique technique::gbuffer{prepare_gbuffer};

} // namespace mirolux::gpu
