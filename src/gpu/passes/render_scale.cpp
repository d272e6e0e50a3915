#include "gpu/passes/edge_samples.h"

namespace mirolux::gpu {

static Result<Commands> prepare_render_scale(PassFrame& f, const PlannedPass& pass) {
    const glm::vec4 form = f.plan.parameters.at("outputScale");
    std::vector<std::string> variant = sample_variant(f, form.w > 0);
    if (form.z > 0) variant.emplace_back("SMOOTH");
    return prepare_joined(f, pass, "render_scale/fragment.glsl", std::move(variant));
}

const GpuTechnique technique::render_scale{prepare_render_scale};

} // namespace mirolux::gpu
