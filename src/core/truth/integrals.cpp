#include "core/truth/integrals.h"
#include "core/truth/sampler.h"
#include "core/truth/source.h"
#include <limits>

namespace mirolux::truth {

float clear_of(const glm::vec3& p) {
    return 1e-4f + 2e-6f * std::max({std::abs(p.x), std::abs(p.y), std::abs(p.z)});
}

float open_way(const RayScene& rays, const glm::vec3& from, const glm::vec3& side, const glm::vec3& direction,
               float metres, Blocks blocks) {
    const float clear = clear_of(from);
    return rays.transmitted({from + side * clear, direction}, 0, metres - 2 * clear, blocks);
}

/// The side of the surface that a direction leaves to: at grazing shading normals it is not the seen one.
static glm::vec3 side_toward(const SurfacePoint& s, const glm::vec3& direction) {
    return glm::dot(s.side, direction) < 0 ? -s.side : s.side;
}

namespace {

/// A way from a surface that may be open.
struct Way {
    Ray ray;
    float metres = 0;
    bool closed = false; // by the surface itself
};

Way way_to_source(const SurfacePoint& s, const Light& light, double housing, const glm::dvec2& u) {
    const Source source(light, s.position);
    const glm::dvec3 d = source.direction(u);
    const glm::vec3 to(d);
    const float clear = clear_of(s.position);
    return {{s.position + side_toward(s, to) * clear, to},
            static_cast<float>(source.metres(d).value_or(0) - housing) - 2 * clear,
            glm::dot(to, s.normal) <= 0};
}

Way way_around(const SurfacePoint& s, double radius, const glm::dvec2& u) {
    glm::dvec3 t, b;
    const glm::dvec3 n(s.normal), w = cosine_direction(u);
    frame_of(n, t, b);
    const glm::vec3 to(t * w.x + b * w.y + n * w.z);
    const float clear = clear_of(s.position);
    return {{s.position + s.side * clear, to}, static_cast<float>(radius) - 2 * clear, glm::dot(to, s.side) <= 0};
}

double openness(const RayScene& rays, const Way& way, Blocks blocks) {
    return way.closed ? 0 : rays.transmitted(way.ray, 0, way.metres, blocks);
}

/// The mean over ways that a function of two numbers in [0, 1) gives; several are asked at once.
template <class Function>
Estimate mean_of(const RayScene& rays, std::uint32_t samples, std::uint32_t seed, Blocks blocks, const Function& way) {
    constexpr std::uint32_t together = 8;
    double sum = 0, squares = 0;
    for (std::uint32_t first = 0; first < samples; first += together) {
        const std::uint32_t count = std::min(together, samples - first);
        Ray asked[together];
        float metres[together], open[together];
        for (std::uint32_t i = 0; i < count; ++i) {
            const Way w = way(Sampler(0, first + i, seed, Sequence::sobol).two());
            asked[i] = w.ray;
            metres[i] = w.closed ? -1 : std::max(w.metres, 1e-12f);
        }
        rays.transmitted({asked, count}, {metres, count}, {open, count}, blocks);
        for (std::uint32_t i = 0; i < count; ++i) {
            const double v = metres[i] < 0 ? 0 : open[i];
            sum += v;
            squares += v * v;
        }
    }
    Estimate out;
    out.samples = samples;
    if (samples == 0) return out;
    out.value = sum / samples;
    if (samples > 1) out.error = std::sqrt(std::max(0.0, squares / samples - out.value * out.value) / (samples - 1));
    return out;
}

} // namespace

double visibility_sample(const RayScene& rays, const SurfacePoint& s, const Light& light, double housing,
                         const glm::dvec2& u) {
    return s.receives ? openness(rays, way_to_source(s, light, housing, u), Blocks::casting) : 1;
}

Estimate visibility(const RayScene& rays, const SurfacePoint& s, const Light& light, double housing,
                    std::uint32_t samples, std::uint32_t seed) {
    if (light.sourceSize <= 0 || !s.receives)
        return {visibility_sample(rays, s, light, housing, glm::dvec2(0.0)), 0, 1};
    return mean_of(rays, samples, seed, Blocks::casting,
                   [&](const glm::dvec2& u) { return way_to_source(s, light, housing, u); });
}

double occlusion_sample(const RayScene& rays, const SurfacePoint& s, double radius, const glm::dvec2& u) {
    return openness(rays, way_around(s, radius, u), Blocks::drawn);
}

Estimate occlusion(const RayScene& rays, const SurfacePoint& s, double radius, std::uint32_t samples,
                   std::uint32_t seed) {
    return mean_of(rays, samples, seed, Blocks::drawn, [&](const glm::dvec2& u) { return way_around(s, radius, u); });
}

Mirrored mirror(const RayScene& rays, const SurfacePoint& s, const glm::vec3& toEye) {
    const glm::vec3 to = 2.0f * glm::dot(s.normal, toEye) * s.normal - toEye;
    Mirrored out;
    out.ray = {s.position + side_toward(s, to) * clear_of(s.position), glm::normalize(to)};
    out.hit = rays.any_surface(out.ray, 0, false);
    return out;
}

} // namespace mirolux::truth
