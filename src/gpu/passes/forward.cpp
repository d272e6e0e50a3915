#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

static Result<Commands> prepare_forward(PassFrame& f, const PlannedPass& pass) {
    return prepare_opaque(f, pass, {"scene"}, {"PASS_LIT", "LIGHTS_OF 0"});
}

const GpuTechnique technique::forward{prepare_forward};

} // namespace mirolux::gpu
