#pragma once
#include <glm/glm.hpp>
#include <optional>

namespace mirolux {

/// A field of stars: one at most in each of 6 x 48 x 48 cells of the sky, as many of each magnitude as a real sky has
/// (their number grows by 10^0.51 a magnitude; about 9,000 to 6.5). The same for the same seed; fainter limits add
/// stars and move none.
struct StarField {
    std::uint32_t seed = 1;
    double faintest = 6.5; // magnitude

    bool operator==(const StarField&) const = default;
};
struct Star {
    glm::dvec3 direction; // unit
    double magnitude;
    glm::dvec3 color; // of luminance 1
};
/// The star of the cell that a direction lies in, if it has one that is not too faint. The same bits on the device up
/// to its floats: shaders/include/stars.glsl.
std::optional<Star> star_near(const StarField& field, const glm::dvec3& direction);

/// Illuminance of a magnitude, lux: 10^(-0.4 (m + 14.18)).
double lux_of_magnitude(double magnitude);

/// Radiance of the field above the air, cd/m2: each star is spread over a disc of 1.3 pixels radius (at most 0.36
/// degrees) so that its light is kept. pixelAngle: radians.
glm::dvec3 star_radiance(const StarField& field, const glm::dvec3& direction, double pixelAngle);

} // namespace mirolux
