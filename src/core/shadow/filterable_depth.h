#pragma once
#include <glm/glm.hpp>

// Depths in a form that may be blurred before they are compared: what a texel holds is then a statement about all
// depths around it, and one lookup answers for a whole filter. Depths here grow away from the light, -1 at it (or at a
// cascade's near end) and 1 at the end of its reach. Every answer is a bound: no point is darker than the depths around
// it make it (but for the least variance), and where two casters lie one behind the other, some light leaks.
// shaders/shadow_maps/filterable.glsl holds the same formulas.
namespace mirolux {

/// Share of the light that reaches a depth, at most: by mean and mean square of the depths around (the one-sided
/// inequality of Chebyshev). W. Donnelly and A. Lauritzen, Variance Shadow Maps, 2006.
double lit_by_variance(const glm::dvec2& moments, double depth, double leastVariance);

/// Depth warped twice: exp(c z), and -exp(-c z).
glm::dvec2 warped_depth(double depth, double exponent);
/// The lesser of the two bounds by variance of warped depths; moments: mean and mean square of the first warp, then of
/// the second. A. Lauritzen and M. McCool, Layered Variance Shadow Maps, 2008. leastVariance: of unwarped depths.
double lit_by_exponentials(const glm::dvec4& moments, double depth, double exponent, double leastVariance);

/// By the means of the first four powers: the least shadow that any depths with these moments can cast. Moved toward
/// those of evenly spread depths by `toward`, against rounding. C. Peters and R. Klein, Moment Shadow Mapping, 2015,
/// algorithm 3 (four moments, Hamburger).
double lit_by_moments(const glm::dvec4& moments, double depth, double toward);

/// Takes light that leaks away: what is lit by less than `leak` is dark, the rest is stretched.
double without_leak(double lit, double leak);

} // namespace mirolux
