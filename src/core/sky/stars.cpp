#include "core/sky/stars.h"
#include "core/light/luminance.h"
#include <algorithm>
#include <cmath>
#include <glm/gtc/constants.hpp>

namespace mirolux {

namespace {

constexpr int cells_a_side = 48;
constexpr double share_with_star = 0.65, per_magnitude = 0.51, cell_margin = 0.2;

/// One round of M. O'Neill's permuted congruential generator, 2014, as a hash (M. Jarzynski and M. Olano, 2020).
std::uint32_t hashed(std::uint32_t v) {
    const std::uint32_t state = v * 747796405u + 2891336453u,
                        word = ((state >> ((state >> 28u) + 4u)) ^ state) * 277803737u;
    return (word >> 22u) ^ word;
}
double unit(std::uint32_t hash) {
    return (double(hash >> 8) + 0.5) / 16777216.0;
}

} // namespace

std::optional<Star> star_near(const StarField& field, const glm::dvec3& d) {
    const glm::dvec3 a = glm::abs(d);
    const int axis = a.x >= a.y && a.x >= a.z ? 0 : a.y >= a.z ? 1 : 2;
    const int u = (axis + 1) % 3, v = (axis + 2) % 3, face = 2 * axis + (d[axis] < 0 ? 1 : 0);
    const auto cell_of = [&](double c) {
        const double place = 0.5 + std::atan(c / a[axis]) * (2 / glm::pi<double>()); // even angles
        return std::clamp(static_cast<int>(place * cells_a_side), 0, cells_a_side - 1);
    };
    const int i = cell_of(d[u]), j = cell_of(d[v]);
    const auto cell = static_cast<std::uint32_t>((face * cells_a_side + j) * cells_a_side + i);
    const std::uint32_t h0 = hashed(cell ^ hashed(field.seed)), h1 = hashed(h0), h2 = hashed(h1), h3 = hashed(h2);
    const double magnitude = std::max(6.5 + std::log10(unit(h0) / share_with_star) / per_magnitude, -1.5);
    if (magnitude > field.faintest) return {};
    const auto back = [&](int number, std::uint32_t h) {
        const double place = (number + cell_margin + (1 - 2 * cell_margin) * unit(h)) / cells_a_side;
        return std::tan((place - 0.5) * (0.5 * glm::pi<double>()));
    };
    glm::dvec3 out(0.0);
    out[axis] = d[axis] < 0 ? -1.0 : 1.0;
    out[u] = back(i, h1);
    out[v] = back(j, h2);
    const glm::dvec3 color = glm::mix(glm::dvec3(1.0, 0.76, 0.52), glm::dvec3(0.70, 0.83, 1.0), unit(h3));
    return Star{glm::normalize(out), magnitude, color / luminance(color)};
}

double lux_of_magnitude(double m) {
    return std::pow(10.0, -0.4 * (m + 14.18));
}

glm::dvec3 star_radiance(const StarField& field, const glm::dvec3& direction, double pixelAngle) {
    const auto star = star_near(field, direction);
    if (!star) return glm::dvec3(0.0);
    const double radius = std::min(1.3 * pixelAngle, 0.0063), x = glm::length(direction - star->direction) / radius;
    if (x >= 1) return glm::dvec3(0.0);
    const double weight = 3 / (glm::pi<double>() * radius * radius) * (1 - x * x) * (1 - x * x);
    return star->color * (lux_of_magnitude(star->magnitude) * weight);
}

} // namespace mirolux
