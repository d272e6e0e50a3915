#pragma once
#include "core/rays/surface_point.h"

// What audits ask of one surface: each with its own samples and error, by rays alone.
namespace mirolux::truth {

/// Metres that a ray starts away from where it begins, so that it does not meet that surface again.
float clear_of(const glm::vec3& point);

/// Share of light that comes over `metres` (infinite: from outside) from a direction to a point; side: that the ray
/// leaves to, the zero vector in air.
float open_way(const RayScene& rays, const glm::vec3& from, const glm::vec3& side, const glm::vec3& direction,
               float metres, Blocks blocks);

/// A mean of samples with its standard error.
struct Estimate {
    double value = 0, error = 0;
    std::uint32_t samples = 0;
};

/// Share of a light's source that the surface sees, 0 behind its horizon; one ray and no error for a light without
/// size. housing: metres around a lamp where nothing stands in its way. The same for the same seed.
Estimate visibility(const RayScene& rays, const SurfacePoint& surface, const Light& light, double housing,
                    std::uint32_t samples, std::uint32_t seed);
/// One of its samples. u: two numbers in [0, 1), of no meaning without size.
double visibility_sample(const RayScene& rays, const SurfacePoint& surface, const Light& light, double housing,
                         const glm::dvec2& u);

/// Cosine-weighted share of the hemisphere that nothing closes within `radius` metres. The same for the same seed.
Estimate occlusion(const RayScene& rays, const SurfacePoint& surface, double radius, std::uint32_t samples,
                   std::uint32_t seed);
/// One of its samples: open or not (in part, behind panes). u: two numbers in [0, 1).
double occlusion_sample(const RayScene& rays, const SurfacePoint& surface, double radius, const glm::dvec2& u);

/// The ray that a mirror in the surface's place sends the eye's to, and what it meets (object -1: nothing). toEye:
/// unit.
struct Mirrored {
    Ray ray;
    RayHit hit;
};
Mirrored mirror(const RayScene& rays, const SurfacePoint& surface, const glm::vec3& toEye);

} // namespace mirolux::truth
