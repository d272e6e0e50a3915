#pragma once
#include <array>
#include <glm/glm.hpp>
#include <vector>

// Triangles in a plane.
namespace mirolux {

/// The direction (unit) along which the rectangle around points is smallest.
glm::dvec2 narrowest_way(std::vector<glm::dvec2> points);

/// Moves corners to multiples of a power of two, a millionth of the size or finer, that floats hold exactly; returns
/// it.
double on_grain(std::vector<std::array<glm::dvec2, 3>>& triangles, const glm::dvec2& size);

/// True if the insides of two triangles meet: exact, in whole numbers. Corners are multiples of the grain, at most 2^22
/// of them.
bool overlap_within(const std::vector<std::array<glm::dvec2, 3>>& triangles, double grain);

} // namespace mirolux
