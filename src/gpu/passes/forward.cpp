#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

static Result<Commands> prepare(PassFrame& f, const PlannedPass& pass) {
    return prepare_opaque(f, pass, {"scene"}, {"PASS_LIT", "LIGHTS_OF 0"});
}

const GpuTechnique technique::forward{prepare};

} // namespace mirolux::gpu
