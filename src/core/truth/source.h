#pragma once
#include "core/light/light.h"
#include "core/truth/scattering.h"
#include <optional>

// What shines of a light that has a size: a ball of even radiance, or a disc in the sky.
namespace mirolux::truth {

/// The directions from a point to a light's source, evenly spread over the angle that it fills.
class Source {
public:
    Source(const Light& light, const glm::dvec3& point);
    /// Steradians; 0: a point, found by no direction that was not made for it.
    double angle() const { return angle_; }
    /// By how much the light of even directions over `angle` must be raised, so that a surface that faces the middle
    /// has the irradiance of a point there: angle / (pi sin^2 of its half).
    double gain() const { return 2 / (1 + cosine_); }
    const glm::dvec3& axis() const { return axis_; } // to its middle, unit
    /// u: two numbers in [0, 1), of no meaning for a point.
    glm::dvec3 direction(const glm::dvec2& u) const;
    /// Metres to where a direction meets it: to its middle for a point, infinite in the sky; none: it does not.
    std::optional<double> metres(const glm::dvec3& direction) const;

private:
    glm::dvec3 axis_{0, 1, 0};
    double far_ = 0, radius_ = 0; // of the ball; far_ infinite in the sky
    double cosine_ = 1, angle_ = 0;
};

} // namespace mirolux::truth
