#pragma once
#include "core/technique/technique.h"
#include <optional>

namespace mirolux {

/// Where shafts come from: the first directional light that shines.
struct ShaftSource {
    int index = -1;        // into DrawList::lights
    glm::dvec2 at{0.5};    // in the picture, 0 to 1 from the left below; may lie outside
    glm::dvec3 light{0.0}; // lux per channel
    double share = 1;      // less where it stands outside the picture
};
/// None: there is none, or it stands behind the eye or far outside the picture.
std::optional<ShaftSource> shaft_source(const FrameInputs& in);

} // namespace mirolux
