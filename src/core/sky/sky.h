#pragma once
#include "core/scene/scene.h"

namespace mirolux {

/// Radiance of the sky in a unit direction, cd/m2: haze thins out upward.
glm::dvec3 sky_radiance(const Sky& sky, const glm::dvec3& direction);

} // namespace mirolux
