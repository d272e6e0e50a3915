#pragma once
#include "core/light/light.h"
#include <algorithm>
#include <cmath>

// The reference definitions, in double, of what shaders/include/light.glsl does in float. A test holds the two
// together.
namespace mirolux {

inline constexpr double least_distance = 0.01; // metres: a punctual light is no nearer than this

/// Share of 1/d^2 that the range leaves at distance d (metres). range 0: all of it.
/// squared: clamp(1-(d/r)^4,0,1)^2 (B. Karis, SIGGRAPH course on physically based shading, 2013); unsquared:
/// KHR_lights_punctual.
inline double range_window(double distance, double range, RangeWindow window) {
    if (range <= 0.0) return 1.0;
    const double q = distance / range;
    const double w = std::clamp(1.0 - q * q * q * q, 0.0, 1.0);
    return window == RangeWindow::squared ? w * w : w;
}

/// Irradiance at normal incidence for 1 cd at distance d (metres): 1/d^2 times the window, 0 beyond `reach` (0 = no
/// cut).
inline double distance_attenuation(double distance, double range, double reach, RangeWindow window) {
    if (reach > 0.0 && distance > reach) return 0.0;
    const double d = std::max(distance, least_distance);
    return range_window(distance, range, window) / (d * d);
}

/// Cone attenuation of KHR_lights_punctual from the cosine of the angle to the axis: 1 inside inner, 0 outside outer,
/// squared ramp between.
inline double cone_attenuation(double cosAngle, double cosInner, double cosOuter) {
    const double scale = 1.0 / std::max(0.001, cosInner - cosOuter);
    const double a = std::clamp((cosAngle - cosOuter) * scale, 0.0, 1.0);
    return a * a;
}

/// Share of a light that is left at `distance` metres from the eye: 1 up to inner, falling evenly to 0 at outer. outer
/// 0: never fades.
inline double distance_fade(double distance, double inner, double outer) {
    if (outer <= 0.0) return 1.0;
    return distance >= outer ? 0.0 : distance <= inner ? 1.0 : (outer - distance) / (outer - inner);
}

/// Irradiance in lux per colour channel on a surface facing the light, at a point in metres.
glm::dvec3 normal_irradiance(const Light& light, const glm::dvec3& point, double reach, RangeWindow window);

struct Sphere {
    glm::vec3 center{0.0f};
    float radius = 0.0f;
};

/// Metres beyond which the light gives nothing: its range, or for range 0 the distance at which its strongest channel
/// falls below `threshold` lux. Directional lights have none: 0.
float derived_range(const Light& light, float threshold);

/// Smallest simple sphere around all that the light reaches. Spot: the circumsphere of cone tip and base rim for outer
/// angles up to 45 degrees, else the sphere around the base disc, which then holds the tip too; never larger than
/// sphere(position, reach).
Sphere light_bounds(const Light& light, float reach);

} // namespace mirolux
