#include "core/finish/outline.h"
#include "gpu/passes/surface_pass.h"
#include <algorithm>

namespace mirolux::gpu {

namespace {

/// The runs of draws of these objects; their commands lie in the order of the draws.
void add_runs(const std::vector<Batch>& batches, const std::vector<Draw>& draws, std::size_t first,
              const std::vector<int>& objects, std::vector<Batch>& out) {
    for (const Batch& b : batches) {
        bool open = false;
        for (std::size_t i = b.first; i < b.first + b.count; ++i) {
            const bool chosen = std::binary_search(objects.begin(), objects.end(), draws[i - first].object);
            if (chosen && open)
                ++out.back().count;
            else if (chosen)
                out.push_back({b.material, b.mirrored, i, 1});
            open = chosen;
        }
    }
}

Result<Commands> prepare_mask(PassFrame& f, const PlannedPass& pass) {
    const bool seen = !pass.reads.empty();
    auto stage =
        f.mesh_stage("outline/mask.glsl", seen ? std::vector<std::string>{"SEEN"} : std::vector<std::string>{});
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state(pass.writes);
    if (!state) return tl::unexpected(state.error());
    const std::vector<int> objects = outlined_objects(f.inputs.scene, f.inputs.setup);
    std::vector<Batch> batches;
    add_runs(f.opaque, f.inputs.draws.opaque, 0, objects, batches);
    add_runs(f.blended, f.inputs.draws.blended, f.inputs.draws.opaque.size(), objects, batches);
    return [&f, stage = std::move(*stage), state = *state, batches] {
        state.apply();
        clear_color(state.framebuffer);
        f.draw(batches, stage, state);
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
