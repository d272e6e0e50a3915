#pragma once
#include "core/scene/scene.h"

namespace mirolux {

/// Gives every triangle its own three vertices with the face's normal (glTF: "flat normals" where none are given).
void make_flat_normals(Primitive& primitive);

/// Tangents from texture coordinates, area-weighted, orthogonal to the normal; w is the sign of the bitangent.
/// Without usable coordinates any tangent orthogonal to the normal is taken.
/// Source: E. Lengyel, Computing Tangent Space Basis Vectors for an Arbitrary Mesh, 2001.
void make_tangents(Primitive& primitive);

/// World bounds of an object-space box under an affine transform (J. Arvo, Transforming Axis-Aligned Bounding Boxes,
/// 1990).
Box transformed(const Box& box, const glm::mat4& transform);

/// Direction of normals under `transform`: its cofactor matrix, which needs no inverse and holds for scale 0 in one
/// axis.
glm::mat3 normal_matrix(const glm::mat4& transform);

} // namespace mirolux
