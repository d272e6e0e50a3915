#pragma once
#include "core/air/medium.h"
#include "core/light/light.h"

namespace mirolux {

/// Integral of exp(-u tan x) over x from 0 to v (0 to pi/2), u >= 0: the function that light scattered once by even air
/// comes down to (B. Sun, R. Ramamoorthi, S. Narasimhan and S. Nayar, A Practical Analytic Single Scattering Model for
/// Real Time Rendering, 2005). Within 1e-8.
double air_integral(double u, double v);

/// The table of it that the device reads: rows of sqrt(u / (1 + u)), columns of v.
struct AirIntegralTable {
    static constexpr int columns = 128, rows = 128;
    std::vector<float> values;
};
const AirIntegralTable& air_integral_table();

/// What even air between two distances of a ray (metres, direction unit) sends back along it of a lamp of 1 cd that
/// shines everywhere, cd/m2 for each 1/m of scattering: scattered once, to all sides alike, dimmed on both ways. No
/// range window.
double lamp_in_air(double extinction, const glm::dvec3& lamp, const glm::dvec3& origin, const glm::dvec3& direction,
                   double from, double to);

} // namespace mirolux
