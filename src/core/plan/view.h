#pragma once
#include "core/scene/scene.h"
#include <array>

namespace mirolux {

/// Camera, picture size and the scene's time.
struct View {
    Camera camera;
    int width = 1280, height = 720; // pixels
    double seconds = 0.0;           // scene time, moves the moving lights

    bool operator==(const View&) const = default;
};

glm::mat4 view_matrix(const Camera& camera);
/// Reversed depth, infinite far plane, depth 1 at near and 0 at infinity (E. Lengyel; N. Reed, Depth Precision Visualized, 2015).
glm::mat4 projection_matrix(const Camera& camera, double aspect);

/// Five planes (left, right, bottom, top, near) with inward normals, world space: the far plane is at infinity.
std::array<glm::vec4, 5> frustum_planes(const Camera& camera, double aspect);
bool intersects(const std::array<glm::vec4, 5>& planes, const Box& box);
bool intersects(const std::array<glm::vec4, 5>& planes, const glm::vec3& center, float radius);

/// Pixel rectangle [x0, x1) x [y0, y1), rows from the top; empty if x0 >= x1.
struct PixelRect {
    int x0 = 0, y0 = 0, x1 = 0, y1 = 0;
    bool empty() const { return x0 >= x1 || y0 >= y1; }
};

/// Smallest rectangle that holds a sphere's picture; the whole picture if the sphere reaches the near plane.
/// Source: M. Mara and M. McGuire, 2D Polyhedral Bounds of a Clipped, Perspective-Projected 3D Sphere, 2013.
PixelRect sphere_rect(const View& view, const glm::vec3& center, float radius);

} // namespace mirolux
