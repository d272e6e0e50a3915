#include "core/finish/outline.h"
#include "gpu/passes/surface_pass.h"
#include <algorithm>

namespace mirolux::gpu {

namespace {

Result<Commands> prepare_mask(PassFrame& f, const PlannedPass& pass) {
    const bool seen = !pass.reads.empty();
    auto stage =
        f.mesh_stage("outline/mask.glsl", seen ? std::vector<std::string>{"SEEN"} : std::vector<std::string>{});
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state(pass.writes);
    if (!state) return tl::unexpected(state.error());
    const std::vector<int> objects = outlined_objects(f.inputs.scene, f.inputs.setup);
    const DrawList& draws = f.inputs.draws;
    const auto chosen = [&](std::size_t i) { // blended draws follow opaque ones
        const Draw& d = i < draws.opaque.size() ? draws.opaque[i] : draws.blended[i - draws.opaque.size()];
        return std::binary_search(objects.begin(), objects.end(), d.object);
    };
    std::vector<Batch> batches = runs_of(f.opaqueSingly, chosen);
    const std::vector<Batch> blended = runs_of(f.blendedSingly, chosen);
    batches.insert(batches.end(), blended.begin(), blended.end());
    return [&f, stage = std::move(*stage), state = *state, batches] {
        state.apply();
        clear_color(state.framebuffer);
        f.draw(batches, stage, state, f.all); // an outline shows through what hides its object
    };
}

Result<Commands> prepare_outline(PassFrame& f, const PlannedPass& pass) {
    if (pass.name == "outline mask") return prepare_mask(f, pass);
    const std::vector<std::string> variant =
        pass.name == "grow down" ? std::vector<std::string>{"DOWN"} : std::vector<std::string>{};
    auto stage = f.screen_stage(pass.name == "rim" ? "outline/rim.glsl" : "outline/grow.glsl", variant);
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state(pass.writes);
    if (!state) return tl::unexpected(state.error());
    return [&f, stage = std::move(*stage), state = *state] { f.draw_screen(stage, state); };
}

} // namespace

const GpuTechnique technique::outline{prepare_outline};

} // namespace mirolux::gpu
