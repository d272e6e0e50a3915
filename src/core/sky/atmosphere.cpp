#include "core/sky/atmosphere.h"
#include <algorithm>
#include <cmath>
#include <glm/gtc/constants.hpp>

namespace mirolux {

const std::vector<std::string>& atmosphere_presets() {
    static const std::vector<std::string> names = {"clear", "haze", "sea-mist"};
    return names;
}

Atmosphere atmosphere_preset(const std::string& name) {
    Atmosphere air;
    if (name == "haze") { // 30 km of sight
        air.mieScattering = {1.10e-4, 1.18e-4, 1.27e-4};
        air.mieAbsorption = glm::dvec3(0.09e-4);
        air.mieHeight = 1000;
        air.mieAnisotropy = 0.76;
    } else if (name == "sea-mist") { // 4 km of sight, in a low layer
        air.mieScattering = glm::dvec3(9.6e-4);
        air.mieAbsorption = glm::dvec3(0.1e-4);
        air.mieHeight = 220;
        air.mieAnisotropy = 0.72;
    }
    return air;
}

Medium medium_at(const Atmosphere& a, double height) {
    const double h = std::max(height, 0.0);
    const double molecules = std::exp(-h / a.rayleighHeight), drops = std::exp(-h / a.mieHeight),
                 ozone = std::max(0.0, 1.0 - std::abs(h - a.ozoneMiddle) / a.ozoneHalfWidth);
    Medium m;
    m.rayleigh = a.rayleigh * molecules;
    m.mie = a.mieScattering * drops;
    m.extinction = m.rayleigh + (a.mieScattering + a.mieAbsorption) * drops + a.ozone * ozone;
    return m;
}

double rayleigh_phase(double c) {
    return 3.0 / (16.0 * glm::pi<double>()) * (1.0 + c * c);
}

double mie_phase(double c, double g) {
    const double g2 = g * g;
    return 3.0 / (8.0 * glm::pi<double>()) * (1.0 - g2) * (1.0 + c * c) /
           ((2.0 + g2) * std::pow(std::max(1.0 + g2 - 2.0 * g * c, 1e-9), 1.5));
}

bool AirPath::meets_ground() const {
    const double r = radius(), beside = height * (2 * air.groundRadius + height);
    return sine < 0 && r * r * sine * sine >= beside;
}

double AirPath::from() const {
    const double over = height - (air.topRadius - air.groundRadius);
    if (over <= 0) return 0;
    const double r = radius(), beside = over * (air.topRadius + r), disc = r * r * sine * sine - beside;
    if (sine >= 0 || disc < 0) return 0;
    return beside / (-r * sine + std::sqrt(disc));
}

double AirPath::end() const {
    const double r = radius();
    if (meets_ground()) {
        const double beside = height * (2 * air.groundRadius + height);
        return beside / (-r * sine + std::sqrt(std::max(r * r * sine * sine - beside, 0.0)));
    }
    const double disc = r * r * sine * sine + (air.topRadius - r) * (air.topRadius + r);
    if (disc < 0 || (r > air.topRadius && sine >= 0)) return 0;
    return std::max(-r * sine + std::sqrt(disc), 0.0);
}

double AirPath::height_at(double t) const {
    const double g = air.groundRadius, k = 2 * radius() * sine * t + t * t + height * (2 * g + height);
    return std::max(k / (std::sqrt(std::max(g * g + k, 0.0)) + g), 0.0);
}

double AirPath::sine_at(double t, double sineHere, double cosine) const {
    return std::clamp((radius() * sineHere + t * cosine) / (air.groundRadius + height_at(t)), -1.0, 1.0);
}

/// Optical depth between two places of a path that lie on one side of its lowest point: parts grow away from it.
static glm::dvec3 depth_outward(const AirPath& path, double near, double far, int steps) {
    glm::dvec3 sum(0.0);
    double before = near;
    for (int i = 0; i < steps; ++i) {
        const double u = (i + 1.0) / steps, t = near + (far - near) * u * u * u;
        sum += medium_at(path.air, path.height_at(0.5 * (before + t))).extinction * std::abs(t - before);
        before = t;
    }
    return sum;
}

glm::dvec3 optical_depth_out(const Atmosphere& air, double height, double sine, int steps) {
    const AirPath path{air, height, sine};
    const double from = path.from(), to = path.end(), lowest = std::clamp(-path.radius() * path.sine, from, to);
    return depth_outward(path, lowest, to, steps) + depth_outward(path, lowest, from, steps);
}

glm::dvec3 transmittance_out(const Atmosphere& air, double height, double sine) {
    if (AirPath{air, height, sine}.meets_ground()) return glm::dvec3(0.0);
    return glm::exp(-optical_depth_out(air, height, sine, 320));
}

double horizon_sine(const Atmosphere& air, double height) {
    const double r = air.groundRadius + height;
    return -std::sqrt(height * (2 * air.groundRadius + height)) / r;
}

double over_horizon(const Atmosphere& air, double height, double sine, double angle) {
    const double above = std::asin(std::clamp(sine, -1.0, 1.0)) - std::asin(horizon_sine(air, height));
    const double x = std::clamp(above / std::max(0.5 * angle, 1e-6), -1.0, 1.0);
    return 0.5 + (std::asin(x) + x * std::sqrt(1 - x * x)) / glm::pi<double>(); // of a disc's area
}

glm::dvec3 transmittance_of_disc(const Atmosphere& air, double height, double sine, double angle) {
    const double share = over_horizon(air, height, sine, angle);
    if (share <= 0) return glm::dvec3(0.0);
    const double least = horizon_sine(air, height) + 1e-9;
    return transmittance_out(air, height, std::max(sine, least)) * share;
}

glm::dvec3 single_scattering(const Atmosphere& air, double height, const glm::dvec3& direction, const glm::dvec3& toSun,
                             double sunAngle, int steps) {
    const AirPath path{air, height, direction.y};
    const double from = path.from(), end = path.end(), cosine = glm::dot(direction, toSun);
    const double pr = rayleigh_phase(cosine), pm = mie_phase(cosine, air.mieAnisotropy);
    glm::dvec3 sum(0.0), depth(0.0);
    double before = from;
    for (int i = 0; i < steps; ++i) {
        const double u = (i + 1.0) / steps, t = from + (end - from) * u * u, at = 0.5 * (before + t), dt = t - before;
        const double h = path.height_at(at);
        const Medium m = medium_at(air, h);
        const glm::dvec3 sun = transmittance_of_disc(air, h, path.sine_at(at, toSun.y, cosine), sunAngle);
        sum += glm::exp(-(depth + 0.5 * dt * m.extinction)) * sun * (m.rayleigh * pr + m.mie * pm) * dt;
        depth += m.extinction * dt;
        before = t;
    }
    return sum;
}

} // namespace mirolux
