#pragma once
#include "core/technique/technique.h"
#include <optional>

namespace mirolux {

/// What carries a point of an object as it stands now to where it stood in the frame before; the identity at a reset.
glm::dmat4 to_before(const FrameInputs& inputs, int object);

/// Motion of a world point of an object (-1: the sky, the point then a direction) since the frame before, in pixels:
/// x to the right, y down; empty if it was behind the camera then. Of the projections without jitter, of the view's own
/// eye. What the motion target holds.
std::optional<glm::dvec2> motion_of(const FrameInputs& inputs, int object, const glm::dvec3& point);

/// What the target holds where the point was behind the camera in the frame before, in both channels.
inline constexpr float motion_unknown = 1e6f;

} // namespace mirolux
