#include "core/ambient/occlusion.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

static Result<Commands> prepare_occlusion(PassFrame& f, const PlannedPass& pass) {
    std::vector<std::string> variant;
    if (f.inputs.setup.choice("occlusion.scale") == "half") variant.emplace_back("HALF");
    const bool spread = pass.name == "spread occlusion";
    if (!spread && f.inputs.setup.choice("occlusion.kind") == "horizon") variant.emplace_back("HORIZON");
    auto stage = f.screen_stage(spread ? "occlusion/spread.glsl" : "occlusion/fragment.glsl",
                                f.shading_defines(std::move(variant)));
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state(pass.writes);
    if (!state) return tl::unexpected(state.error());
    return [&f, stage = std::move(*stage), state = *state] { f.draw_screen(stage, state); };
}

const GpuTechnique technique::occlusion{prepare_occlusion};

} // namespace mirolux::gpu
