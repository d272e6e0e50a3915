#pragma once
#include "gpu/passes/pass_frame.h"

namespace mirolux::gpu {

/// By number in the scene: objects that the frame's last run drew. For the first eye.
std::vector<bool> drawn_objects(PassFrame& frame);
/// Pixels that show each object, by number in the scene, found by drawing all of the frustum's objects.
Result<std::vector<std::uint32_t>> seen_pixels(PassFrame& frame, ScratchPool& scratch);

} // namespace mirolux::gpu
