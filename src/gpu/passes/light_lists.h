#pragma once
#include "core/cull/light_grid.h"
#include "gpu/passes/pass_frame.h"

namespace mirolux::gpu {

/// The lists as the last frame left them: those of opaque surfaces, or of blended ones.
cull::LightGrid read_light_lists(const PassFrame& frame, bool transparent);

} // namespace mirolux::gpu
