#include "gpu/passes/edge_samples.h"
#include "core/finish/exposure.h"

namespace mirolux::gpu {

std::vector<std::string> sample_variant(const PassFrame& f, bool toned) {
    std::vector<std::string> out;
    if (toned) out.emplace_back("TONED");
    if (toned && f.plan.resource(exposure_resource)) out.emplace_back("METERED");
    return out;
}

Result<Commands> prepare_joined(PassFrame& f, const PlannedPass& pass, const std::string& fragment,
                                std::vector<std::string> variant) {
    auto stage = f.screen_stage(fragment, std::move(variant), {{"sceneTexture", f.texture(pass.reads.front())}});
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state(pass.writes);
    if (!state) return tl::unexpected(state.error());
    glProgramUniform2i(stage->name(), stage->uniform("outputSize"), state->width, state->height);
    return [&f, stage = std::move(*stage), state = *state] { f.draw_screen(stage, state); };
}

} // namespace mirolux::gpu
