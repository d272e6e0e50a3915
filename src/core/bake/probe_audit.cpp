#include "core/ambient/probe_capture.h"
#include "core/bake/light_map.h"
#include "core/bake/probe_grid_parts.h"
#include "core/base/parallel.h"
#include "core/light/luminance.h"
#include <algorithm>
#include <cmath>
#include <random>

namespace mirolux {

ProbeComparison audit_probes(const Scene& scene, const Setup& setup, const ProbeGrid& grid, int order, int places,
                             int samples, const std::function<bool(double share)>& more) {
    const Scene still = only_still(scene, setup);
    const auto rays = std::make_shared<RayScene>(still);
    const auto tracer = bounced_tracer(still, setup, grid.options.bounces, rays);
    // Places spread by area over all that stands still, the same for every grid.
    struct Triangle {
        std::size_t object;
        std::uint32_t first;
        double upTo;
    };
    std::vector<Triangle> all;
    double area = 0;
    const SceneAsset& asset = *still.asset;
    for (std::size_t o = 0; o < still.objects().size(); ++o) {
        const Object& object = still.objects()[o];
        if (object.hidden || object.proxy || object.casts == Casting::unseen || object.body >= 0 ||
            asset.material_of(object).alphaMode == AlphaMode::blend)
            continue;
        const Primitive& p = asset.primitives[static_cast<std::size_t>(object.primitive)];
        const glm::mat3 turn(object.transform);
        for (std::uint32_t i = 0; i + 2 < p.indices.size(); i += 3) {
            const glm::vec3 a = p.vertices[p.indices[i]].position, b = p.vertices[p.indices[i + 1]].position,
                            c = p.vertices[p.indices[i + 2]].position;
            area += 0.5 * double(glm::length(glm::cross(turn * (b - a), turn * (c - a))));
            all.push_back({o, i, area});
        }
    }
    std::vector<SurfacePoint> points;
    std::mt19937 random(7);
    std::uniform_real_distribution<double> unit(0, 1);
    for (int tries = 0; tries < 4 * places && static_cast<int>(points.size()) < places && area > 0; ++tries) {
        const double at = area * unit(random);
        const Triangle& t =
            *std::lower_bound(all.begin(), all.end() - 1, at, [](const Triangle& x, double v) { return x.upTo < v; });
        const Object& object = still.objects()[t.object];
        const Primitive& p = asset.primitives[static_cast<std::size_t>(object.primitive)];
        double u = unit(random), v = unit(random);
        if (u + v > 1) {
            u = 1 - u;
            v = 1 - v;
        }
        glm::vec3 corner[3];
        for (std::uint32_t k = 0; k < 3; ++k)
            corner[k] = glm::vec3(object.transform * glm::vec4(p.vertices[p.indices[t.first + k]].position, 1));
        const glm::vec3 n = glm::cross(corner[1] - corner[0], corner[2] - corner[0]);
        if (!(glm::length(n) > 1e-12f)) continue;
        SurfacePoint s;
        s.side = s.normal = glm::normalize(object.mirrored ? -n : n);
        s.position = corner[0] + static_cast<float>(u) * (corner[1] - corner[0]) +
                     static_cast<float>(v) * (corner[2] - corner[0]);
        if (walled_in(*rays, s.position + 1e-3f * s.side) < 0.25) points.push_back(s);
    }
    std::vector<glm::dvec3> truth(points.size());
    constexpr std::size_t together = 64;
    for (std::size_t first = 0; first < points.size(); first += together) {
        if (more && !more(static_cast<double>(first) / static_cast<double>(points.size()))) return {};
        parallel_for(static_cast<int>(first), static_cast<int>(std::min(first + together, points.size())), [&](int i) {
            std::uint64_t taken = 0;
            const auto k = static_cast<std::size_t>(i);
            for (int n = 0; n < samples; ++n)
                truth[k] +=
                    tracer->falling(points[k], static_cast<std::uint32_t>(i), static_cast<std::uint32_t>(n), taken) /
                    (glm::pi<double>() * samples);
        });
    }
    double mean = 0;
    for (const glm::dvec3& t : truth)
        mean += luminance(t) / static_cast<double>(std::max<std::size_t>(1, truth.size()));
    ProbeComparison out;
    for (const bool visibility : {true, false}) {
        ProbeErrors& e = visibility ? out.with : out.without;
        for (std::size_t i = 0; i < points.size(); ++i) {
            const double given = luminance(probe_answer(grid, {order, visibility}, glm::dvec3(points[i].position),
                                                        glm::dvec3(points[i].normal))
                                               .light),
                         wanted = luminance(truth[i]);
            ++e.places;
            e.off += std::abs(given - wanted);
            if (wanted > mean / 20) continue;
            ++e.dark;
            e.leak += std::max(0.0, given - wanted);
        }
        if (e.places && mean > 0) e.off /= mean * static_cast<double>(e.places);
        if (e.dark && mean > 0) e.leak /= mean * static_cast<double>(e.dark);
    }
    return out;
}

} // namespace mirolux
