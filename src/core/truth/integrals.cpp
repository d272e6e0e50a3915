#include "core/truth/integrals.h"
#include "core/truth/sampler.h"
#include "core/truth/source.h"
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

/// The mean of a function of two numbers in [0, 1).
template <class Function>
static Estimate mean_of(std::uint32_t samples, std::uint32_t seed, const Function& value) {
    double sum = 0, squares = 0;
    for (std::uint32_t n = 0; n < samples; ++n) {
        const double v = value(Sampler(0, n, seed, Sequence::sobol).two());
        sum += v;
        squares += v * v;
    }
    Estimate out;
    out.samples = samples;
    if (samples == 0) return out;
    out.value = sum / samples;
    if (samples > 1) out.error = std::sqrt(std::max(0.0, squares / samples - out.value * out.value) / (samples - 1));
    return out;
}

/// The side of the surface that a direction leaves to: at grazing shading normals it is not the seen one.
static glm::vec3 side_toward(const SurfacePoint& s, const glm::vec3& direction) {
    return glm::dot(s.side, direction) < 0 ? -s.side : s.side;
}

double visibility_sample(const RayScene& rays, const SurfacePoint& s, const Light& light, double housing,
                         const glm::dvec2& u) {
    const Source source(light, s.position);
    const glm::vec3 to(source.direction(u));
    if (glm::dot(to, s.normal) <= 0) return 0;
    return open_way(rays, s.position, side_toward(s, to), to,
                    static_cast<float>(source.metres(glm::dvec3(to)).value_or(0) - housing));
}

Estimate visibility(const RayScene& rays, const SurfacePoint& s, const Light& light, double housing,
                    std::uint32_t samples, std::uint32_t seed) {
    if (light.sourceSize <= 0) return {visibility_sample(rays, s, light, housing, glm::dvec2(0.0)), 0, 1};
    return mean_of(samples, seed, [&](const glm::dvec2& u) { return visibility_sample(rays, s, light, housing, u); });
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
    return mean_of(samples, seed, [&](const glm::dvec2& u) { return occlusion_sample(rays, s, radius, u); });
}

Mirrored mirror(const RayScene& rays, const SurfacePoint& s, const glm::vec3& toEye) {
    const glm::vec3 to = 2.0f * glm::dot(s.normal, toEye) * s.normal - toEye;
    Mirrored out;
    out.ray = {s.position + side_toward(s, to) * clear_of(s.position), glm::normalize(to)};
    out.hit = rays.any_surface(out.ray, 0, false);
    return out;
}

} // namespace mirolux::truth
