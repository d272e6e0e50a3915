#pragma once
#include "core/air/medium.h"
#include "core/plan/view.h"
#include "core/scene/scene.h"

namespace mirolux {

/// Metres along a ray until less than `share` of a surface's contrast is left through the scene's fog; infinite: never.
double sight_along(const AirMedium& m, const glm::dvec3& from, const glm::dvec3& direction, double share);

/// Where sight ends in a picture: the farthest place of its rays that lies within the scene and is seen through the fog
/// with at least `share` of its contrast; infinite where the fog hides nothing of the scene.
double end_of_sight(const AirMedium& m, const Box& scene, const View& view, double share = 0.02);

/// What may end with it.
struct SightProposal {
    double metres = 0;            // infinite: nothing to propose
    std::optional<Setup> shadows; // the same setup with the directional light's shadows ended there, if they reach
                                  // farther now
    std::optional<Setup> fades;   // and with lights faded out there
};
SightProposal propose_sight(const Scene& scene, const Setup& setup, const View& view);

} // namespace mirolux
