#include "core/sky/sun_place.h"
#include <algorithm>
#include <cmath>
#include <glm/gtc/constants.hpp>

namespace mirolux {

namespace {

double rad(double degrees) {
    return degrees * (glm::pi<double>() / 180.0);
}
double deg(double radians) {
    return radians * (180.0 / glm::pi<double>());
}
double sind(double degrees) {
    return std::sin(rad(degrees));
}
double cosd(double degrees) {
    return std::cos(rad(degrees));
}
double turned(double degrees) {
    return degrees - 360.0 * std::floor(degrees / 360.0);
}

/// Horizontal place of a body by its declination and hour angle (west of the meridian), degrees.
SkyPlace horizontal(double latitude, double declination, double hourAngle) {
    const double up = sind(latitude) * sind(declination) + cosd(latitude) * cosd(declination) * cosd(hourAngle),
                 north = cosd(latitude) * sind(declination) - sind(latitude) * cosd(declination) * cosd(hourAngle),
                 east = -cosd(declination) * sind(hourAngle);
    return {deg(std::asin(std::clamp(up, -1.0, 1.0))), turned(deg(std::atan2(east, north)))};
}

/// Degrees that the air lifts what stands at an elevation.
double refraction(double e) {
    const double t = std::tan(rad(e));
    if (e > 85) return 0;
    if (e > 5) return (58.1 / t - 0.07 / (t * t * t) + 0.000086 / (t * t * t * t * t)) / 3600;
    if (e > -0.575) return (1735 + e * (-518.2 + e * (103.4 + e * (-12.79 + e * 0.711)))) / 3600;
    return -20.772 / t / 3600;
}

} // namespace

glm::dvec3 direction_of(const SkyPlace& p) {
    return {sind(p.azimuth) * cosd(p.elevation), sind(p.elevation), -cosd(p.azimuth) * cosd(p.elevation)};
}

SkyPlace place_of(const glm::dvec3& d) {
    return {deg(std::asin(std::clamp(d.y, -1.0, 1.0))), turned(deg(std::atan2(d.x, -d.z)))};
}

double julian_date(const PlaceAndTime& w) {
    const int early = w.month <= 2 ? 1 : 0, year = w.year - early, month = w.month + 12 * early;
    const int century = year / 100;
    return std::floor(365.25 * (year + 4716)) + std::floor(30.6001 * (month + 1)) + w.day +
           (2 - century + century / 4) - 1524.5 + (w.hour - w.zone) / 24;
}

SkyPlace sun_at(const PlaceAndTime& w) {
    const double t = (julian_date(w) - 2451545.0) / 36525; // centuries
    const double mean = turned(280.46646 + t * (36000.76983 + t * 0.0003032)),
                 anomaly = 357.52911 + t * (35999.05029 - 0.0001537 * t),
                 eccentricity = 0.016708634 - t * (0.000042037 + 0.0000001267 * t);
    const double center = sind(anomaly) * (1.914602 - t * (0.004817 + 0.000014 * t)) +
                          sind(2 * anomaly) * (0.019993 - 0.000101 * t) + sind(3 * anomaly) * 0.000289;
    const double node = 125.04 - 1934.136 * t, apparent = mean + center - 0.00569 - 0.00478 * sind(node);
    const double tilt =
        23 + (26 + (21.448 - t * (46.815 + t * (0.00059 - t * 0.001813))) / 60) / 60 + 0.00256 * cosd(node);
    const double declination = deg(std::asin(sind(tilt) * sind(apparent)));
    const double y = std::tan(rad(tilt / 2)) * std::tan(rad(tilt / 2));
    const double equation =
        4 * deg(y * sind(2 * mean) - 2 * eccentricity * sind(anomaly) +
                4 * eccentricity * y * sind(anomaly) * cosd(2 * mean) - 0.5 * y * y * sind(4 * mean) -
                1.25 * eccentricity * eccentricity * sind(2 * anomaly)); // minutes
    const double trueMinutes = w.hour * 60 + equation + 4 * w.longitude - 60 * w.zone;
    SkyPlace p = horizontal(w.latitude, declination, trueMinutes / 4 - 180);
    p.elevation += refraction(p.elevation);
    return p;
}

glm::dvec3 moon_on_ecliptic(double julianDate) {
    const double t = (julianDate - 2451545.0) / 36525;
    const double longitude = 218.32 + 481267.881 * t + 6.29 * sind(135.0 + 477198.87 * t) -
                             1.27 * sind(259.3 - 413335.36 * t) + 0.66 * sind(235.7 + 890534.22 * t) +
                             0.21 * sind(269.9 + 954397.74 * t) - 0.19 * sind(357.5 + 35999.05 * t) -
                             0.11 * sind(186.5 + 966404.03 * t);
    const double latitude = 5.13 * sind(93.3 + 483202.02 * t) + 0.28 * sind(228.2 + 960400.89 * t) -
                            0.28 * sind(318.3 + 6003.15 * t) - 0.17 * sind(217.6 - 407332.21 * t);
    const double parallax = 0.9508 + 0.0518 * cosd(135.0 + 477198.87 * t) + 0.0095 * cosd(259.3 - 413335.36 * t) +
                            0.0078 * cosd(235.7 + 890534.22 * t) + 0.0028 * cosd(269.9 + 954397.74 * t);
    return {turned(longitude), latitude, parallax};
}

SkyPlace moon_at(const PlaceAndTime& w) {
    const double date = julian_date(w), tilt = 23.4393 - 0.01300 * (date - 2451545.0) / 36525;
    const glm::dvec3 m = moon_on_ecliptic(date);
    const double x = cosd(m.y) * cosd(m.x), y = cosd(tilt) * cosd(m.y) * sind(m.x) - sind(tilt) * sind(m.y),
                 z = sind(tilt) * cosd(m.y) * sind(m.x) + cosd(tilt) * sind(m.y);
    const double ascension = deg(std::atan2(y, x)), declination = deg(std::asin(std::clamp(z, -1.0, 1.0)));
    const double sidereal = 280.46061837 + 360.98564736629 * (date - 2451545.0) + w.longitude;
    SkyPlace p = horizontal(w.latitude, declination, sidereal - ascension);
    p.elevation -= m.z * cosd(p.elevation); // seen from the surface it stands lower than from the middle
    p.elevation += refraction(p.elevation);
    return p;
}

double moon_phase_light(double phaseAngle) {
    const double degrees = std::abs(deg(phaseAngle));
    return std::pow(10.0, -0.4 * (0.026 * degrees + 4e-9 * degrees * degrees * degrees * degrees));
}

double moon_phase_angle(const glm::dvec3& toMoon, const glm::dvec3& toSun) {
    return glm::pi<double>() - std::acos(std::clamp(glm::dot(toMoon, toSun), -1.0, 1.0));
}

} // namespace mirolux
