#pragma once
#include "core/scene/scene.h"

namespace mirolux {

inline constexpr int head_lamp_id = 0x7FFFFFFE; // Light::id that no project gives

/// A lamp fixed to the camera, to look into dark corners with: a spot of 35 degrees around the view's axis, without
/// range or shadow, that gives a white surface four metres away about half of what exposure makes white.
Light head_lamp(const Camera& camera, double ev100);

} // namespace mirolux
