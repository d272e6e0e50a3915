#include "core/ambient/reflection.h"
#include "core/base/parallel.h"
#include "core/plan/camera_motion.h"
#include "core/rays/surface_point.h"
#include "core/truth/integrals.h"
#include <cmath>
#include <mutex>

namespace mirolux {

ReflectionErrors& ReflectionErrors::operator+=(const ReflectionErrors& o) {
    asked += o.asked;
    right += o.right;
    wrong += o.wrong;
    none += o.none;
    shown += o.shown;
    missed += o.missed;
    return *this;
}

/// The nearest opaque surface that shows its front: what the picture would hold.
static RayHit nearest_opaque(const RayScene& rays, const Ray& ray) {
    float from = 0;
    RayHit hit;
    for (int panes = 0; panes < 16; ++panes) {
        hit = rays.any_surface(ray, from, true);
        if (hit.object < 0 || hit.alpha >= 0.999f) break;
        from = hit.distance + truth::clear_of(ray.origin + ray.direction * hit.distance);
    }
    return hit;
}

ReflectionErrors audit_reflections(const Setup& setup, const View& view, const RayScene& rays, const FloatImage& hits,
                                   const FloatImage& depth, const FloatImage& normals, int every) {
    const bool half = hits.width < view.width, normalMaps = setup.flag("shading.normalMaps");
    const glm::mat4 project = projection_matrix(view.camera, aspect_of(view)) * view_matrix(view.camera);
    const double pixelWidth = 2 * std::tan(0.5 * view.camera.fovY) / view.height; // at one metre
    const glm::dvec3 eye(view.camera.eye), forward(glm::normalize(view.camera.aim - view.camera.eye));
    /// Where the picture's surface lies at a pixel (row from the top).
    const auto shown_at = [&](int x, int y) {
        const Ray ray = ray_through(view, x + 0.5, y + 0.5);
        const double metres = depth.pixel(x, y)[0];
        return glm::dvec3(ray.origin) +
               glm::dvec3(ray.direction) * (metres / glm::dot(glm::dvec3(ray.direction), forward));
    };
    ReflectionErrors all;
    std::mutex mutex;
    parallel_for(0, (hits.height + every - 1) / every, [&](int row) {
        ReflectionErrors e;
        const int ty = row * every, fromBottom = hits.height - 1 - ty;
        for (int tx = 0; tx < hits.width; tx += every) {
            const float* h = hits.pixel(tx, ty);
            const auto answer = static_cast<ScreenAnswer>(static_cast<int>(std::lround(h[3])));
            if (answer == ScreenAnswer::notAsked) continue;
            // The device counts rows from the bottom, and of four pixels one stands for a texel of half size.
            const int px = half ? std::min(2 * tx + (fromBottom & 1), view.width - 1) : tx,
                      py = view.height - 1 - (half ? std::min(2 * fromBottom + (tx & 1), view.height - 1) : fromBottom);
            const Ray ray = ray_through(view, px + 0.5, py + 0.5);
            const RayHit seen = nearest_opaque(rays, ray);
            if (seen.object < 0) continue;
            SurfacePoint surface = surface_point(rays, ray, seen, normalMaps);
            const float* n = normals.pixel(px, py); // as it is shaded there
            surface.normal = glm::normalize(glm::vec3(n[0], n[1], n[2]));
            const Ray mirrored = truth::mirror(rays, surface, -ray.direction).ray;
            const RayHit met = nearest_opaque(rays, mirrored);
            const glm::dvec3 truth =
                glm::dvec3(mirrored.origin) + glm::dvec3(mirrored.direction) * double(met.distance);
            const auto slack = [&](const glm::dvec3& p) {
                const glm::dvec3 fromEye = p - eye;
                const double away = glm::length(fromEye),
                             flat = std::abs(glm::dot(fromEye / away, glm::dvec3(met.normal))); // how flat it is seen
                return 0.05 + 0.02 * glm::distance(p, glm::dvec3(surface.position)) +
                       2 * pixelWidth * away / std::max(flat, 0.1);
            };
            ++e.asked;
            bool onPicture = false;
            if (met.object >= 0) {
                const glm::vec4 c = project * glm::vec4(glm::vec3(truth), 1);
                const int x = int(std::floor((c.x / c.w * 0.5 + 0.5) * view.width)),
                          y = int(std::floor((0.5 - c.y / c.w * 0.5) * view.height));
                onPicture = c.w > view.camera.near && x >= 0 && y >= 0 && x < view.width && y < view.height &&
                            depth.pixel(x, y)[0] > 0 && glm::distance(shown_at(x, y), truth) <= slack(truth);
            }
            e.shown += onPicture;
            if (answer != ScreenAnswer::hit) {
                ++e.none;
                e.missed += onPicture;
                continue;
            }
            const glm::dvec3 found = shown_at(std::clamp(int(h[0]), 0, view.width - 1),
                                              std::clamp(view.height - 1 - int(h[1]), 0, view.height - 1));
            const bool right = met.object >= 0 && glm::distance(found, truth) <= slack(truth);
            ++(right ? e.right : e.wrong);
        }
        const std::lock_guard lock(mutex);
        all += e;
    });
    return all;
}

} // namespace mirolux
