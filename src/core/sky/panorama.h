#pragma once
#include "core/image/image.h"
#include <functional>
#include <glm/glm.hpp>

namespace mirolux {

/// An equirectangular picture of all directions as SkyPicture lays them: RGBA, twice as wide as high; of each texel the
/// mean of looks x looks directions. `radiance` of a unit direction may be called from any thread.
FloatImage panorama(int width, const std::function<glm::dvec3(const glm::dvec3&)>& radiance, int looks = 1);

} // namespace mirolux
