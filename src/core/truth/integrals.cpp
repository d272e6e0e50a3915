#include "core/truth/integrals.h"
#include "core/truth/sampler.h"
#include "core/truth/scattering.h"
#include <limits>

namespace mirolux::truth {

float clear_of(const glm::vec3& p) {
    return 1e-4f + 2e-6f * std::max({std::abs(p.x), std::abs(p.y), std::abs(p.z)});
}

float open_way(const RayScene& rays, const glm::vec3& from, const glm::vec3& side, const glm::vec3& direction,
               float metres) {
    const float clear = clear_of(from);
    return rays.transmitted({from + side * clear, direction}, 0, metres - 2 * clear);
}

/// The side of the surface that a direction leaves to: at grazing shading normals it is not the seen one.
static glm::vec3 side_toward(const SurfacePoint& s, const glm::vec3& direction) {
    return glm::dot(s.side, direction) < 0 ? -s.side : s.side;
}

Estimate visibility(const RayScene& rays, const SurfacePoint& s, const Light& light, double housing) {
    const bool sun = light.type == LightType::directional;
    const glm::vec3 v = light.position - s.position;
    const float metres = sun ? std::numeric_limits<float>::infinity() : glm::length(v) - static_cast<float>(housing);
    const glm::vec3 to = sun ? -glm::normalize(light.direction) : v / std::max(glm::length(v), 1e-6f);
    if (glm::dot(to, s.normal) <= 0) return {0, 0, 1};
    return {open_way(rays, s.position, side_toward(s, to), to, metres), 0, 1};
}

double occlusion_sample(const RayScene& rays, const SurfacePoint& s, double radius, const glm::dvec2& u) {
    glm::dvec3 t, b;
    const glm::dvec3 n(s.normal), w = cosine_direction(u);
    frame_of(n, t, b);
    const glm::vec3 to(t * w.x + b * w.y + n * w.z);
    if (glm::dot(to, s.side) <= 0) return 0; // into the surface itself
    return open_way(rays, s.position, s.side, to, static_cast<float>(radius));
}

Estimate occlusion(const RayScene& rays, const SurfacePoint& s, double radius, std::uint32_t samples,
                   std::uint32_t seed) {
    double sum = 0, squares = 0;
    for (std::uint32_t n = 0; n < samples; ++n) {
        const double open = occlusion_sample(rays, s, radius, Sampler(0, n, seed, Sequence::sobol).two());
        sum += open;
        squares += open * open;
    }
    Estimate out;
    out.samples = samples;
    if (samples == 0) return out;
    out.value = sum / samples;
    if (samples > 1) out.error = std::sqrt(std::max(0.0, squares / samples - out.value * out.value) / (samples - 1));
    return out;
}

Mirrored mirror(const RayScene& rays, const SurfacePoint& s, const glm::vec3& toEye) {
    const glm::vec3 to = 2.0f * glm::dot(s.normal, toEye) * s.normal - toEye;
    Mirrored out;
    out.ray = {s.position + side_toward(s, to) * clear_of(s.position), glm::normalize(to)};
    out.hit = rays.any_surface(out.ray, 0, false);
    return out;
}

} // namespace mirolux::truth
