#pragma once
#include "core/ambient/ambient_light.h"

namespace mirolux {

/// Fog that thins out upward: as dense as at its base below it, above it exp(-(y - base) / height) of that.
struct HeightFog {
    bool on = false;
    double extinction = 0;     // 1/m at the base and below
    double height = 20;        // metres in which it falls to 1/e
    double base = 0;           // y, metres
    glm::dvec3 scattered{0.0}; // cd/m2: what a deep layer of it shows
};
HeightFog height_fog(const Setup& setup, const AmbientLight& ambient);

/// Density at a height over that at the base, 0 to 1.
double density(const HeightFog& fog, double y);

/// Share of radiance that comes through it between two points: the integral of an exponential along a line in closed
/// form (C. Wenzel, Real-time Atmospheric Effects in Games Revisited, 2007), here of one that stops growing at its
/// base.
double transmittance(const HeightFog& fog, const glm::dvec3& from, const glm::dvec3& to);
/// The same of a ray without end, direction unit: 0 where it does not rise.
double transmittance_of_ray(const HeightFog& fog, const glm::dvec3& from, const glm::dvec3& direction);

} // namespace mirolux
