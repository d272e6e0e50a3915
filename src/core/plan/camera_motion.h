#pragma once
#include "core/plan/view.h"
#include "core/rays/ray_scene.h"
#include <optional>

namespace mirolux {

/// Ray through a place in the picture; x right and y down in pixels, fractions allowed.
Ray ray_through(const View& view, double x, double y);
/// Where a point lies in the picture in pixels; empty behind the near plane.
std::optional<glm::vec2> project(const View& view, const glm::vec3& point);
/// Metres that one pixel spans at a point's depth.
float metres_per_pixel(const View& view, const glm::vec3& point);

/// Turns about the aim point; radians. Stops short of the poles.
Camera orbit(Camera camera, float right, float up);
/// Turns about the eye; radians.
Camera look(Camera camera, float right, float up);
/// Moves eye and aim across the picture; metres.
Camera pan(Camera camera, float right, float up);
/// Toward the aim (factor under 1) or away; the aim is pushed on so that one never gets stuck before it.
Camera dolly(Camera camera, float factor);
/// Moves eye and aim along the camera's own axes; metres.
Camera fly(Camera camera, const glm::vec3& rightUpForward);
/// Same direction, at a distance from which the sphere fills most of the picture.
Camera frame_sphere(Camera camera, const glm::vec3& center, float radius);

} // namespace mirolux
