#pragma once
#include "core/sky/sky_picture.h"
#include <optional>

namespace mirolux {

/// The sun of a picture of all directions: the small bright spot that a directional light can stand for.
struct PictureSun {
    glm::dvec3 direction{0, 1, 0}; // unit, toward it, as the picture lies: not turned
    glm::dvec3 illuminance{0.0};   // of the spot over what lies around it: lux where the picture's 1 is 1 cd/m2
    double angle = 0;              // radians across a disc as large
    std::shared_ptr<const SkyPicture> without; // the picture with what lies around it in its place
};

/// The spot about the brightest texel, if it stands out: at least 30 times as bright as what lies around it, and no
/// wider than 6 degrees. What is taken from the picture is exactly the light's illuminance. None: no such spot. The few
/// asked for last are kept. From any thread.
std::shared_ptr<const std::optional<PictureSun>> sun_of(const std::shared_ptr<const SkyPicture>& picture);

} // namespace mirolux
