#pragma once
#include <glm/glm.hpp>

namespace mirolux {

/// Where something stands in the sky, degrees: elevation over the horizon, azimuth from north over east.
struct SkyPlace {
    double elevation = 0, azimuth = 0;
};
/// Unit vector toward it: -Z is north, +X east, +Y up. And back.
glm::dvec3 direction_of(const SkyPlace& place);
SkyPlace place_of(const glm::dvec3& direction);

/// A moment on the clock of a place.
struct PlaceAndTime {
    double latitude = 0, longitude = 0; // degrees, north and east positive
    int year = 2026, month = 6, day = 21;
    double hour = 12; // of the day, by the clock
    double zone = 0;  // hours that the clock is ahead of universal time
};
/// Julian date of universal time (Gregorian calendar).
double julian_date(const PlaceAndTime& when);

/// The sun by the formulas of the National Oceanic and Atmospheric Administration's solar calculator (after J. Meeus,
/// Astronomical Algorithms, 1991), with refraction: to 0.01 degrees between 1900 and 2100.
SkyPlace sun_at(const PlaceAndTime& when);
/// The moon as seen from the place, by the Astronomical Almanac's low-precision formulas: to 0.3 degrees.
SkyPlace moon_at(const PlaceAndTime& when);
/// Ecliptic longitude and latitude of the moon, degrees, as seen from the earth's middle; parallax, degrees.
glm::dvec3 moon_on_ecliptic(double julianDate);

/// Share of the full moon's light that the moon gives at a phase angle (0: full, pi: new), radians: K. Krisciunas and
/// B. Schaefer, A model of the brightness of moonlight, 1991.
double moon_phase_light(double phaseAngle);
/// Phase angle from the directions to moon and sun.
double moon_phase_angle(const glm::dvec3& toMoon, const glm::dvec3& toSun);

} // namespace mirolux
