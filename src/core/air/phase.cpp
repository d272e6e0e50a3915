#include "core/air/phase.h"
#include <algorithm>
#include <cmath>

namespace mirolux {

static double one_lobe(double g, double cosine) {
    const double d = 1 + g * g - 2 * g * cosine;
    return (1 - g * g) / (4 * 3.14159265358979324 * d * std::sqrt(d));
}

double phase(const Phase& p, double cosine) {
    const double first = one_lobe(p.first, cosine);
    return p.share <= 0 ? first : first * (1 - p.share) + one_lobe(p.second, cosine) * p.share;
}

glm::dvec3 scattered_way(const Phase& p, const glm::dvec3& way, const glm::dvec3& u) {
    const double g = u.z < p.share ? p.second : p.first;
    double cosine = 1 - 2 * u.x;
    if (std::abs(g) > 1e-3) { // the lobe's integral, inverted
        const double s = (1 - g * g) / (1 - g + 2 * g * u.x);
        cosine = std::clamp((1 + g * g - s * s) / (2 * g), -1.0, 1.0);
    }
    const double sine = std::sqrt(1 - cosine * cosine), turn = 2 * 3.14159265358979324 * u.y;
    const glm::dvec3 beside =
        glm::normalize(glm::cross(way, std::abs(way.y) < 0.9 ? glm::dvec3(0, 1, 0) : glm::dvec3(1, 0, 0)));
    return glm::normalize(way * cosine + (beside * std::cos(turn) + glm::cross(way, beside) * std::sin(turn)) * sine);
}

} // namespace mirolux
