#pragma once
#include "core/cull/light_grid.h"
#include "core/cull/light_lists.h"
#include "gpu/passes/pass_frame.h"

namespace mirolux::gpu {

/// Lists that the kernel fills: of the surfaces, or others of the same form. Blocks: GridBuffer, ListBuffer and
/// OverflowBuffer, with this before their names.
struct ListedGrid {
    std::string prefix{};   // of storage blocks
    std::string resource{}; // of the plan
    std::string sampler{};  // that reads them
    cull::GridSettings settings{};
    cull::GridShape shape{};
};
/// Brings the grid to the device and gives shaders the lists, for the frame's eye.
void provide_lists(PassFrame& frame, const ListedGrid& grid);
/// Commands that fill the lists.
Result<Commands> fill_lists(PassFrame& frame, const ListedGrid& grid);

/// The lists as the last frame left them: those of opaque surfaces, or of blended ones.
cull::LightGrid read_light_lists(const PassFrame& frame, bool transparent);

} // namespace mirolux::gpu
