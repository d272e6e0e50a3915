#pragma once
#include "core/scene/scene.h"
#include <optional>
#include <string_view>

// Plain shapes to build with.
namespace mirolux {

enum class ShapeKind { plane, box, ball, cylinder, cone, capsule, torus, staircase };
inline constexpr ShapeKind all_shapes[] = {ShapeKind::plane,    ShapeKind::box,      ShapeKind::ball,
                                           ShapeKind::cylinder, ShapeKind::cone,     ShapeKind::capsule,
                                           ShapeKind::torus,    ShapeKind::staircase};
const char* word(ShapeKind kind);
std::optional<ShapeKind> shape_named(std::string_view name);

/// A shape by its measures. What is round is as deep as it is wide.
struct Shape {
    ShapeKind kind = ShapeKind::box;
    glm::vec3 size{1.0f}; // metres: width (x), height (y; none of a plane), depth (z)
    float tube = 0.25f;   // metres: diameter of a torus's tube; its height is that too
    int segments = 32;    // around; of a plane's and a box's sides: along each; of a staircase: its steps
    int rings = 16;       // of a ball and of both ends of a capsule from pole to pole; around a torus's tube

    bool operator==(const Shape&) const = default;
};
/// A shape of usual measures.
Shape usual_shape(ShapeKind kind);
/// The same with measures that can be built: sizes 1 mm to 10 km, a capsule no lower than it is wide, a tube that
/// leaves its hole, counts from the least that closes up to 512 (128 of boxes and steps).
Shape settled(Shape shape);
bool uses_height(ShapeKind kind);
bool uses_depth(ShapeKind kind);
bool uses_rings(ShapeKind kind);

/// Its triangles: standing on y = 0 around the y axis, counter-clockwise in front; a plane faces up, all others are
/// closed where vertices of one place are taken as one. Normals are the shape's own (smooth where it is round), texture
/// coordinates are metres on its surface, the picture's top up, no triangle turned over in them.
Primitive make_shape(const Shape& shape);

/// Edges at which a mesh has its border or bends by more than an angle (radians), each once: pairs of points.
std::vector<std::pair<glm::vec3, glm::vec3>> creases(const Primitive& mesh, float angle);
/// A coarse one of a shape's kind and size, to be drawn in lines.
Shape sketched(Shape shape);

} // namespace mirolux
