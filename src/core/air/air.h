#pragma once
#include "core/air/medium.h"
#include "core/ambient/ambient_light.h"
#include "core/technique/plan_builder.h"

namespace mirolux {

/// The air of a frame.
AirMedium medium_of(const FrameInputs& in);

/// What a deep layer of the setup's fog shows, cd/m2: its albedo times the mean of the ambient light, and what it gives
/// itself.
glm::dvec3 fog_radiance(const Setup& setup, const AmbientLight& ambient);

/// Where the air around a scene ends: a ball around all that is shown, its lamps and the eye. Radius 0: nowhere.
struct AirBall {
    glm::dvec3 center{0.0};
    double radius = 0;

    /// Metres along a ray from within to its end; infinite without one.
    double ahead(const glm::dvec3& from, const glm::dvec3& direction) const;
};
AirBall air_ball(const Box& scene, const std::vector<Light>& lights, const glm::vec3& eye);

/// What of a light the air shows: its own share, else that of all.
double air_share(const Light& light, const Setup& setup);

/// True if the air of a setup shows the light of single lamps.
bool air_shows_lamps(const Setup& setup);

/// Adds the scene's fog before a point, under light from everywhere, to what lies there.
void add_fog(const AirMedium& m, const glm::dvec3& deep, const glm::dvec3& from, const AirQuestion& q, AirShare& share);

} // namespace mirolux
