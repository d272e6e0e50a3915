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

/// Where a ray meets a plane in front of it, up to 100 km.
std::optional<glm::vec3> on_plane(const Ray& ray, const glm::vec3& point, const glm::vec3& normal);
/// Place along a line (metres from its origin, unit direction) that is nearest to the ray.
std::optional<float> along_line(const Ray& ray, const glm::vec3& origin, const glm::vec3& direction);

// Of a Flat stage's camera (Camera::span) turning pans, coming nearer shows less of the stage.

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
