#include "core/truth/source.h"
#include <algorithm>
#include <cmath>
#include <limits>

namespace mirolux::truth {

Source::Source(const Light& light, const glm::dvec3& point) {
    double sine = 0;
    if (light.type == LightType::directional) {
        axis_ = -glm::normalize(glm::dvec3(light.direction));
        far_ = std::numeric_limits<double>::infinity();
        sine = std::sin(0.5 * std::min(double(light.sourceSize), pi));
    } else {
        const glm::dvec3 v = glm::dvec3(light.position) - point;
        far_ = glm::length(v);
        axis_ = v / std::max(far_, 1e-6);
        radius_ = 0.5 * light.sourceSize;
        if (radius_ < far_) sine = radius_ / far_; // from within it is a point: it has no side to show
    }
    if (sine <= 1e-6) {
        radius_ = 0;
        return;
    }
    cosine_ = std::sqrt(1 - sine * sine);
    angle_ = 2 * pi * sine * sine / (1 + cosine_); // 1 - cosine, without loss
}

glm::dvec3 Source::direction(const glm::dvec2& u) const {
    if (angle_ <= 0) return axis_;
    const double away = u.x * angle_ / (2 * pi), z = 1 - away, r = std::sqrt(std::max(0.0, away * (2 - away))),
                 phi = 2 * pi * u.y;
    glm::dvec3 t, b;
    frame_of(axis_, t, b);
    return glm::normalize(t * (r * std::cos(phi)) + b * (r * std::sin(phi)) + axis_ * z);
}

std::optional<double> Source::metres(const glm::dvec3& direction) const {
    if (angle_ <= 0) return far_;
    const double cosine = glm::dot(direction, axis_);
    if (cosine < cosine_ - 1e-12) return std::nullopt;
    if (!std::isfinite(far_)) return far_;
    const double along = far_ * cosine, beside2 = far_ * far_ - along * along;
    return along - std::sqrt(std::max(0.0, radius_ * radius_ - beside2));
}

} // namespace mirolux::truth
