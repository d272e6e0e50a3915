#pragma once
#include <glm/glm.hpp>

namespace mirolux {

/// Luminance of a scene-linear colour with Rec. 709 primaries, in the colour's own unit (ITU-R BT.709).
inline double luminance(const glm::dvec3& c) {
    return glm::dot(c, glm::dvec3(0.2126, 0.7152, 0.0722));
}

} // namespace mirolux
