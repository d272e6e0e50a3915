#include "gpu/passes/edge_samples.h"

namespace mirolux::gpu {

static Result<Commands> prepare_multisampling(PassFrame& f, const PlannedPass& pass) {
    std::vector<std::string> variant = sample_variant(f, f.plan.parameters.at("resolveForm").x > 0);
    variant.push_back("SAMPLES " + std::to_string(f.plan.resource("scene")->spec.samples));
    return prepare_joined(f, pass, "multisampling/fragment.glsl", std::move(variant));
}

const GpuTechnique technique::multisampling{prepare_multisampling};

} // namespace mirolux::gpu
