#include "core/air/end_of_sight.h"
#include "core/plan/camera_motion.h"
#include <cmath>
#include <limits>

namespace mirolux {

double sight_along(const AirMedium& m, const glm::dvec3& from, const glm::dvec3& direction, double share) {
    const double wanted = -std::log(share);
    if (optical_depth_of_ray(m, from, direction) <= wanted) return std::numeric_limits<double>::infinity();
    double low = 0, high = 1;
    while (optical_depth(m, from, from + direction * high) < wanted && high < 1e7)
        high *= 2;
    for (int i = 0; i < 60; ++i) {
        const double middle = 0.5 * (low + high);
        (optical_depth(m, from, from + direction * middle) < wanted ? low : high) = middle;
    }
    return high;
}

/// Metres to where a ray leaves a box for good; 0: it never meets it.
static double leaves(const Box& box, const glm::dvec3& from, const glm::dvec3& d) {
    double enter = 0, leave = std::numeric_limits<double>::infinity();
    for (int a = 0; a < 3; ++a) {
        if (std::abs(d[a]) < 1e-12) {
            if (from[a] < box.low[a] || from[a] > box.high[a]) return 0;
            continue;
        }
        const double x = (box.low[a] - from[a]) / d[a], y = (box.high[a] - from[a]) / d[a];
        enter = std::max(enter, std::min(x, y));
        leave = std::min(leave, std::max(x, y));
    }
    return leave > enter ? leave : 0;
}

double end_of_sight(const AirMedium& m, const Box& scene, const View& view, double share) {
    if (m.shape == AirShape::none || scene.empty()) return std::numeric_limits<double>::infinity();
    double farthest = 0;
    bool hides = false;
    const glm::dvec3 eye(view.camera.eye);
    const auto look = [&](const glm::dvec3& d) {
        const double ends = leaves(scene, eye, d), sight = sight_along(m, eye, d, share);
        hides = hides || sight < ends;
        farthest = std::max(farthest, std::min(ends, sight));
    };
    for (int x = 0; x <= 8; ++x) {
        double highest = -1, lowest = 1;
        for (int y = 0; y <= 16; ++y) {
            const glm::dvec3 d(ray_through(view, view.width * (x / 8.0), view.height * (y / 16.0)).direction);
            look(d);
            highest = std::max(highest, d.y);
            lowest = std::min(lowest, d.y);
        }
        // Level is where one sees farthest over ground.
        glm::dvec3 level(ray_through(view, view.width * (x / 8.0), 0.5 * view.height).direction);
        level.y = 0;
        if (highest > 0 && lowest < 0 && glm::length(level) > 1e-6) look(glm::normalize(level));
    }
    return hides ? farthest : std::numeric_limits<double>::infinity();
}

SightProposal propose_sight(const Scene& scene, const Setup& setup, const View& view) {
    SightProposal p;
    p.metres = end_of_sight(medium(setup), scene.bounds(), view);
    if (!std::isfinite(p.metres)) return p;
    const double end = std::ceil(p.metres);
    const bool sun = std::any_of(scene.lights.begin(), scene.lights.end(), [](const Light& l) {
        return l.enabled && l.type == LightType::directional && l.intensity > 0;
    });
    if (Setup s = setup; sun && setup.flag("shadow.maps") && setup.number("cascade.distance") > end &&
                         s.set("cascade.distance", std::max(end, 1.0)))
        p.shadows = s;
    const double outer = setup.number("light.fadeOuter");
    if (Setup s = setup;
        (outer <= 0 || outer > end) && s.set("light.fadeOuter", end) &&
        s.set("light.fadeInner",
              std::min(setup.number("light.fadeInner") > 0 && outer > 0 ? setup.number("light.fadeInner") : 0.8 * end,
                       0.8 * end)))
        p.fades = s;
    return p;
}

} // namespace mirolux
