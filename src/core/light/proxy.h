#pragma once
#include "core/light/falloff.h"
#include <cstdint>
#include <glm/glm.hpp>
#include <vector>

// Low-poly meshes around what a light reaches, for the `volumes` path.
namespace mirolux {

/// A closed mesh, triangles counter-clockwise seen from outside.
struct ProxyMesh {
    std::vector<glm::vec3> positions;
    std::vector<std::uint32_t> indices;
};

/// Icosphere that holds the unit sphere: each face is pushed out by its chord error, so that its nearest point lies
/// at 1. subdivisions 0: 20 triangles, 1: 80, 2: 320.
ProxyMesh sphere_proxy(int subdivisions);

/// Pyramid with its tip at the origin that holds the cone { z in 0..1, |xy| <= z }: the sides' corners lie at 1 /
/// cos(pi / sides).
ProxyMesh cone_proxy(int sides);

/// The finenesses that the `volumes` path uses.
inline constexpr int volume_sphere_steps = 1, volume_cone_sides = 12;

enum class ProxyShape { sphere, cone };

/// Unit meshes to world: a cone with its tip at `tip`, of `length` metres along the unit axis; a ball.
glm::mat4 cone_place(const glm::vec3& tip, const glm::vec3& axis, float length, float tangent);
glm::mat4 ball_place(const glm::vec3& center, float radius);

/// The proxy of a light and its place: unit mesh to world. Spots up to 60 degrees take the cone, which holds their
/// round end too; wider ones and points the sphere around their bounds.
struct Proxy {
    ProxyShape shape = ProxyShape::sphere;
    glm::mat4 transform{1.0f};
};
Proxy light_proxy(const Light& light, float reach);

} // namespace mirolux
