#include "core/shadow/filterable_depth.h"
#include <algorithm>
#include <cmath>

namespace mirolux {

double lit_by_variance(const glm::dvec2& moments, double depth, double leastVariance) {
    if (depth <= moments.x) return 1;
    const double variance = std::max(moments.y - moments.x * moments.x, leastVariance), beyond = depth - moments.x;
    return variance / (variance + beyond * beyond);
}

glm::dvec2 warped_depth(double depth, double exponent) {
    return {std::exp(exponent * depth), -std::exp(-exponent * depth)};
}

double lit_by_exponentials(const glm::dvec4& moments, double depth, double exponent, double leastVariance) {
    const glm::dvec2 at = warped_depth(depth, exponent);
    // A step of depth grows by the warp's slope there.
    const glm::dvec2 least = leastVariance * (exponent * at) * (exponent * at);
    return std::min(lit_by_variance({moments.x, moments.y}, at.x, least.x),
                    lit_by_variance({moments.z, moments.w}, at.y, least.y));
}

double lit_by_moments(const glm::dvec4& moments, double depth, double toward) {
    const glm::dvec4 b = glm::mix(moments, glm::dvec4(0, 0.375, 0, 0.375), toward);
    // Cholesky factors of the matrix of moments; then the quadratic whose roots are the other two depths of the
    // distribution that casts least.
    const double l32d22 = b.z - b.x * b.y, d22 = b.y - b.x * b.x, variance = b.w - b.y * b.y;
    const double d33d22 = variance * d22 - l32d22 * l32d22;
    if (d22 <= 0 || d33d22 <= 0) return depth <= b.x ? 1 : 0; // one depth alone
    const double l32 = l32d22 / d22;
    glm::dvec3 c(1, depth - b.x, depth * depth - b.y);
    c.z -= l32 * c.y;
    c.y /= d22;
    c.z *= d22 / d33d22;
    c.y -= l32 * c.z;
    c.x -= c.y * b.x + c.z * b.y;
    if (c.z == 0) return 1;
    const double p = c.y / c.z, q = c.x / c.z, root = std::sqrt(std::max(0.0, 0.25 * p * p - q));
    const double z1 = -0.5 * p - root, z2 = -0.5 * p + root;
    if (depth <= z1) return 1;
    const bool last = depth > z2;
    const double a = last ? z1 : depth, d = last ? depth : z1;
    const double share = (a * z2 - b.x * (a + z2) + b.y) / ((z2 - d) * (depth - z1));
    return std::clamp(last ? -share : 1 - share, 0.0, 1.0);
}

double without_leak(double lit, double leak) {
    return std::clamp((lit - leak) / std::max(1e-6, 1 - leak), 0.0, 1.0);
}

} // namespace mirolux
