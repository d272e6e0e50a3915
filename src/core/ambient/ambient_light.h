#pragma once
#include "core/plan/frame_plan.h"
#include "core/sky/sky_model.h"

namespace mirolux {

/// Light from everywhere: radiance by the height of the normal, cd/m2. Constant ambient has three equal ones. Of
/// surroundings (`sky` set: the sky's light, or a picture's) it is their harmonics instead, times `strength`.
struct AmbientLight {
    glm::vec3 top{0.0f}, side{0.0f}, bottom{0.0f};
    std::shared_ptr<const SkyModel> sky = nullptr;
    double strength = 1;
};
AmbientLight ambient_light(const Scene& scene, const Setup& setup, const View& view);
/// The same of setups whose ambient light is not that of surroundings.
AmbientLight ambient_light(const Setup& setup);

/// Radiance that arrives at a surface with this unit normal: three colours by the squared components of the normal,
/// which sum to one (after J. Mitchell, G. McTaggart and C. Green, 2006, whose basis has six).
glm::dvec3 ambient_radiance(const AmbientLight& ambient, const glm::dvec3& normal);

/// Its mean over the sphere of normals: y^2 is a third on average, and half of that looks up.
glm::dvec3 mean_radiance(const AmbientLight& ambient);

/// Parameters that follow from the ambient light; of the sky's, whose sum takes long, made when they are asked for.
void set_by_ambient(const FrameInputs& in, PlanBuilder& b, std::function<Parameters(const AmbientLight&)> values);

} // namespace mirolux
