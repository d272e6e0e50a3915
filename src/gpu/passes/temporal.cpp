#include "gpu/passes/edge_samples.h"

namespace mirolux::gpu {

static Result<Commands> prepare_temporal(PassFrame& f, const PlannedPass& pass) {
    return prepare_joined(f, pass, "temporal/fragment.glsl", sample_variant(f, f.plan.parameters.at("temporal").w > 0));
}

const GpuTechnique technique::temporal{prepare_temporal};

} // namespace mirolux::gpu
