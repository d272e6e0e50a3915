#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

static Result<Commands> prepare_listed_forward(PassFrame& f, const PlannedPass& pass) {
    return prepare_opaque(f, pass, {"scene"}, {"PASS_LIT", "LIGHTS_OF 1"});
}

const GpuTechnique technique::listed_forward{prepare_listed_forward};

} // namespace mirolux::gpu
