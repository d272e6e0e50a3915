#pragma once
#include <glm/glm.hpp>
#include <string>
#include <vector>

namespace mirolux {

/// Air around a ball: what scatters and swallows light at each height. Coefficients at the ground, 1/m, for red, green
/// and blue.
struct Atmosphere {
    glm::dvec3 rayleigh{5.802e-6, 13.558e-6, 33.1e-6}; // scattering of molecules
    double rayleighHeight = 8000;                      // metres in which it falls to 1/e
    glm::dvec3 mieScattering{3.996e-6};                // of dust and drops
    glm::dvec3 mieAbsorption{0.444e-6};
    double mieHeight = 1200;
    double mieAnisotropy = 0.8;                         // -0.95 to 0.95: mean cosine of the angle that drops scatter by
    glm::dvec3 ozone{0.650e-6, 1.881e-6, 0.085e-6};     // absorption, at the middle of its layer
    double ozoneMiddle = 25000, ozoneHalfWidth = 15000; // metres; it falls off in a straight line to both sides
    double groundRadius = 6360e3, topRadius = 6460e3;   // metres
    double groundAlbedo = 0.1;

    bool operator==(const Atmosphere&) const = default;
};

/// Named states of the air: clear, haze, sea-mist.
const std::vector<std::string>& atmosphere_presets();
Atmosphere atmosphere_preset(const std::string& name);

/// The air at a height over the ground, metres.
struct Medium {
    glm::dvec3 rayleigh, mie, extinction; // 1/m; the first two scatter
};
Medium medium_at(const Atmosphere& air, double height);

/// Phase functions, 1/sr, by the cosine of the angle between the ways of the light before and after. Rayleigh: 3 / 16pi
/// (1 + cos^2). Drops: W. Cornette and J. Shanks, Physically reasonable analytic expression for the single-scattering
/// phase function, 1992.
double rayleigh_phase(double cosine);
double mie_phase(double cosine, double anisotropy);

/// A ray from a height with the sine of an elevation: where it ends and what stands at its parts. Heights stay exact
/// near the ground: no difference of two squared radii is taken.
struct AirPath {
    const Atmosphere& air;
    double height, sine; // at its start: metres over the ground, from 0 on; sine of the elevation
    double radius() const { return air.groundRadius + height; }
    bool meets_ground() const;
    /// Metres to the ground or to the top; 0 if it never meets the air. `from`: where the air begins.
    double end() const;
    double from() const;
    double height_at(double metres) const;
    /// Sine of the elevation of a direction `toward` (whose sine here is `sineHere` and whose cosine to the ray is
    /// `cosine`) at a place along the ray, where the vertical is another one.
    double sine_at(double metres, double sineHere, double cosine) const;
};

/// Optical depth from a height to the air's end or the ground, by numeric integration (no table); steps: on each side
/// of the ray's lowest point.
glm::dvec3 optical_depth_out(const Atmosphere& air, double height, double sine, int steps);
/// Share of light that comes through: 0 where the ray meets the ground.
glm::dvec3 transmittance_out(const Atmosphere& air, double height, double sine);

/// Sine of the horizon's elevation seen from a height, from 0 down.
double horizon_sine(const Atmosphere& air, double height);

/// The same of a disc that the horizon may cut: the disc's middle held at the horizon, times the share over it.
/// angle: the disc's, across, radians.
glm::dvec3 transmittance_of_disc(const Atmosphere& air, double height, double sine, double angle);
/// Share of a disc over the horizon that stands at this height, 0 to 1.
double over_horizon(const Atmosphere& air, double height, double sine, double angle);

/// Radiance that the air sends along a ray of light that it scatters once, for 1 lux above the air: a direct numeric
/// integral of both ways' optical depths, without a table: the oracle of all tables. toSun, direction: unit; `steps`
/// along the ray.
glm::dvec3 single_scattering(const Atmosphere& air, double height, const glm::dvec3& direction, const glm::dvec3& toSun,
                             double sunAngle, int steps);

} // namespace mirolux
