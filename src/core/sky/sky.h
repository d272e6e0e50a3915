#pragma once
#include "core/plan/frame_plan.h"

namespace mirolux {

/// Radiance of the two-colour sky in a unit direction, cd/m2: haze thins out upward.
glm::dvec3 sky_radiance(const Sky& sky, const glm::dvec3& direction);

/// #defines of shaders that know the sky: its kind, how it is looked up, and what shines.
std::vector<std::string> sky_defines(const Setup& setup, const FramePlan& plan);

} // namespace mirolux
