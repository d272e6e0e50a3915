#include "core/truth/lit_part.h"
#include <algorithm>
#include <cmath>

namespace mirolux::truth {

std::optional<Part> lit_part(const Light& light, double reach, const glm::dvec3& o, const glm::dvec3& d,
                             const Part& within) {
    const glm::dvec3 w = o - glm::dvec3(light.position);
    Part part = within;
    if (reach > 0) {
        const double nearest = -glm::dot(w, d), rest = reach * reach - (glm::dot(w, w) - nearest * nearest);
        if (rest <= 0) return std::nullopt;
        part.from = std::max(part.from, nearest - std::sqrt(rest));
        part.to = std::min(part.to, nearest + std::sqrt(rest));
    }
    const double cosine = std::cos(double(light.outerConeAngle));
    if (light.type == LightType::spot && cosine > 1e-6) {
        // Within the cone (v . axis)^2 >= cos^2 |v|^2 on the side that the axis points to, v = w + t d: convex, so one
        // part of the line.
        const glm::dvec3 axis = glm::normalize(glm::dvec3(light.direction));
        const double da = glm::dot(d, axis), wa = glm::dot(w, axis), c2 = cosine * cosine, a = da * da - c2,
                     b = da * wa - c2 * glm::dot(d, w), c = wa * wa - c2 * glm::dot(w, w), rest = b * b - a * c;
        if (std::abs(a) > 1e-12 && rest >= 0) {
            const double low = (-b - std::copysign(std::sqrt(rest), a)) / a,
                         high = (-b + std::copysign(std::sqrt(rest), a)) / a;
            if (a < 0) {
                if (wa + 0.5 * (low + high) * da <= 0) return std::nullopt; // the cone behind
                part.from = std::max(part.from, low);
                part.to = std::min(part.to, high);
            } else if (da > 0)
                part.from = std::max(part.from, high);
            else
                part.to = std::min(part.to, low);
        } else if (std::abs(a) > 1e-12 && a < 0)
            return std::nullopt;
    }
    if (!(part.to > part.from)) return std::nullopt;
    return part;
}

} // namespace mirolux::truth
