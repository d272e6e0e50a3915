#pragma once
#include "core/plan/settings.h"
#include <glm/glm.hpp>

// What space light is summed in: linear, or gamma-coded values, the old mistake, to see what it does.
namespace mirolux {

/// True where colours enter the sums as a display is sent them, and the sums go to the display as they are. What is
/// seen by itself (a colour in full light, a glow, the sky) looks as it should; sums, slopes and fall-off do not.
bool sums_coded(const Setup& setup);

/// sRGB's code of a colour 0..1 per channel, its slope going on beyond 1 (IEC 61966-2-1).
glm::dvec3 coded(const glm::dvec3& linear);
/// The code of a radiance relative to the one that is shown as 1, cd/m2 in and out.
glm::dvec3 coded_radiance(const glm::dvec3& radiance, double exposureScale);

} // namespace mirolux
