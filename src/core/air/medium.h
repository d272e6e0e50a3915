#pragma once
#include "core/air/air_volume.h"
#include "core/air/phase.h"
#include "core/plan/settings.h"

namespace mirolux {

/// Where the fog of the whole scene is.
enum class AirShape { none, even, byHeight };

/// The air of a setup, as all techniques and the path tracer understand it: fog over the whole scene, and clouds in
/// volumes of their own. Extinction is grey; the colour is the albedo's.
struct AirMedium {
    AirShape shape = AirShape::none;
    double extinction = 0;    // 1/m; by height: at the base and below
    double height = 20;       // metres in which it falls to 1/e
    double base = 0;          // y, metres
    glm::dvec3 albedo{0.0};   // share of what it takes away that goes on as light
    glm::dvec3 emission{0.0}; // cd/m2 that a metre of it gives where it is densest
    Phase phase{};
    std::vector<AirVolume> volumes{};
    double seconds = 0; // scene time, of what drifts

    bool on() const { return shape != AirShape::none || !volumes.empty(); }
};
/// volumes: those of the scene; only froxels have them.
AirMedium medium(const Setup& setup, const std::vector<AirVolume>& volumes = {}, double seconds = 0);

/// Density of the scene's fog at a height over that at its base, 0 to 1.
double density(const AirMedium& m, double y);

/// Extinction times metres between two points, of the scene's fog alone: the integral of an exponential along a line in
/// closed form (C. Wenzel, Real-time Atmospheric Effects in Games Revisited, 2007), of one that stops growing at its
/// base.
double optical_depth(const AirMedium& m, const glm::dvec3& from, const glm::dvec3& to);
/// The same of a ray without end, direction unit: infinite where it does not rise.
double optical_depth_of_ray(const AirMedium& m, const glm::dvec3& from, const glm::dvec3& direction);

/// Share of radiance that comes through the scene's fog between two points (Beer and Lambert).
double transmittance(const AirMedium& m, const glm::dvec3& from, const glm::dvec3& to);
double transmittance_of_ray(const AirMedium& m, const glm::dvec3& from, const glm::dvec3& direction);

/// What the air does at a point: fog and volumes together.
struct AirPoint {
    double extinction = 0;      // 1/m
    glm::dvec3 scattering{0.0}; // 1/m
    glm::dvec3 emission{0.0};   // cd/m2 a metre
};
AirPoint air_at(const AirMedium& m, const glm::dvec3& point);

} // namespace mirolux
