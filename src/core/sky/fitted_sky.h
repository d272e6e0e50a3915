#pragma once
#include <array>
#include <glm/glm.hpp>

namespace mirolux {

/// Clear and hazy daylight as fitted formulas: A. Preetham, P. Shirley and B. Smits, A Practical Analytic Model for
/// Daylight, 1999, appendix A.2: luminance and chromaticity by the distribution of R. Perez, R. Seals and
/// J. Michalsky, 1993. Fitted for suns over the horizon; below it the fit of the horizon fades to a tenth each 2.9
/// degrees, as daylight does at dusk.
struct FittedSky {
    std::array<glm::dvec3, 5> perez{}; // A to E, each for Y, x, y
    glm::dvec3 zenith{0.0};            // Y in cd/m2 over F at the zenith, x, y over theirs
    double strength = 1;               // of Y
};
/// turbidity: 2 clear to 10 hazy; sunSine: of the sun's elevation; illuminance: lux above the air, of which the fit has
/// 128,000.
FittedSky fitted_sky(double turbidity, double sunSine, double illuminance);

/// Radiance in a direction whose sine of elevation is `sine` and whose cosine to the sun is `cosine`: scene-linear
/// Rec. 709, cd/m2, from 0 up. Under the horizon: as at the horizon.
glm::dvec3 fitted_radiance(const FittedSky& sky, double sine, double cosine);

} // namespace mirolux
