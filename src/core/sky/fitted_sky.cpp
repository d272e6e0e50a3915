#include "core/sky/fitted_sky.h"
#include <algorithm>
#include <cmath>
#include <glm/gtc/constants.hpp>

namespace mirolux {

/// Perez' distribution of luminance, for Y, x and y at once. theta: from the zenith, by its cosine; gamma: to the sun.
static glm::dvec3 distribution(const std::array<glm::dvec3, 5>& p, double cosTheta, double gamma, double cosGamma) {
    return (1.0 + p[0] * glm::exp(p[1] / cosTheta)) *
           (1.0 + p[2] * glm::exp(p[3] * gamma) + p[4] * (cosGamma * cosGamma));
}

FittedSky fitted_sky(double t, double sunSine, double illuminance) {
    FittedSky sky;
    sky.perez = {glm::dvec3(0.1787 * t - 1.4630, -0.0193 * t - 0.2592, -0.0167 * t - 0.2608),
                 glm::dvec3(-0.3554 * t + 0.4275, -0.0665 * t + 0.0008, -0.0950 * t + 0.0092),
                 glm::dvec3(-0.0227 * t + 5.3251, -0.0004 * t + 0.2125, -0.0079 * t + 0.2102),
                 glm::dvec3(0.1206 * t - 2.5771, -0.0641 * t - 0.8989, -0.0441 * t - 1.6537),
                 glm::dvec3(-0.0670 * t + 0.3703, -0.0033 * t + 0.0452, -0.0109 * t + 0.0529)};
    const double elevation = std::asin(std::clamp(sunSine, -1.0, 1.0));
    const double s = 0.5 * glm::pi<double>() - std::max(elevation, 0.0); // from the zenith
    const double chi = (4.0 / 9.0 - t / 120.0) * (glm::pi<double>() - 2 * s);
    const double luminance = 1000 * ((4.0453 * t - 4.9710) * std::tan(chi) - 0.2155 * t + 2.4192);
    const auto chromaticity = [&](const double(&m)[3][4]) {
        double sum = 0;
        for (int row = 0; row < 3; ++row)
            sum += std::pow(t, 2 - row) * (((m[row][0] * s + m[row][1]) * s + m[row][2]) * s + m[row][3]);
        return sum;
    };
    const double x = chromaticity({{0.00166, -0.00375, 0.00209, 0},
                                   {-0.02903, 0.06377, -0.03202, 0.00394},
                                   {0.11693, -0.21196, 0.06052, 0.25886}}),
                 y = chromaticity({{0.00275, -0.00610, 0.00317, 0},
                                   {-0.04214, 0.08970, -0.04153, 0.00516},
                                   {0.15346, -0.26756, 0.06670, 0.26688}});
    sky.zenith = glm::dvec3(luminance, x, y) / distribution(sky.perez, 1.0, s, std::cos(s));
    sky.strength = illuminance / 128000;
    if (elevation < 0) sky.strength *= std::pow(10.0, elevation * (180 / glm::pi<double>()) / 2.9);
    return sky;
}

glm::dvec3 fitted_radiance(const FittedSky& sky, double sine, double cosine) {
    const double c = std::clamp(cosine, -1.0, 1.0);
    const glm::dvec3 v = sky.zenith * distribution(sky.perez, std::max(sine, 0.01), std::acos(c), c);
    const double Y = std::max(v.x, 0.0) * sky.strength, y = std::max(v.z, 1e-3), X = v.y / y * Y,
                 Z = (1 - v.y - y) / y * Y;
    return glm::max(glm::dvec3(3.2404542 * X - 1.5371385 * Y - 0.4985314 * Z,
                               -0.9692660 * X + 1.8760108 * Y + 0.0415560 * Z,
                               0.0556434 * X - 0.2040259 * Y + 1.0572252 * Z),
                    glm::dvec3(0.0));
}

} // namespace mirolux
