#pragma once
#include "core/rays/ray_scene.h"
#include "core/visibility/door.h"
#include <optional>
#include <vector>

namespace mirolux {

/// The opening that an eye looks through: where the clear space along its line of sight is narrowest between walls on
/// both sides, with its middle, width, height, and turned as its walls stand. None within 30 m, or wider than 8 m.
std::optional<Door> door_ahead(const RayScene& rays, const glm::vec3& eye, const glm::vec3& direction);

/// The box between the walls, floor and ceiling around an eye: along each axis as far as half of a bundle of rays gets,
/// side by side over what is free across, so that a thing or an opening here and there does not count; it ends at
/// doors. No way further than 30 m.
DrawnRoom room_around(const RayScene& rays, const std::vector<Door>& doors, const glm::vec3& eye);

} // namespace mirolux
