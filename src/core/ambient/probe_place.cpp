#include "core/ambient/probe_place.h"
#include <algorithm>

namespace mirolux {

Light as_light(const Probe& p) {
    Light l;
    l.name = p.name;
    l.enabled = p.enabled;
    l.position = p.position;
    l.range = 0.5f * std::max({p.size.x, p.size.y, p.size.z});
    return l;
}

void take_place(Probe& p, const Light& from) {
    const float before = as_light(p).range;
    p.center += from.position - p.position;
    p.position = from.position;
    if (from.range > 0) p.size = glm::max(p.size * (from.range / std::max(before, 1e-4f)), glm::vec3(0.1f));
}

Probe fitted(const RayScene& rays, Probe p) {
    constexpr float farthest = 20.0f; // metres
    glm::vec3 low(0.0f), high(0.0f);
    const float c = std::cos(p.turn), s = std::sin(p.turn);
    const glm::vec3 axes[3] = {{c, 0, -s}, {0, 1, 0}, {s, 0, c}};
    for (int axis = 0; axis < 3; ++axis)
        for (const float side : {-1.0f, 1.0f}) {
            std::vector<float> metres;
            for (int i = -2; i <= 2; ++i)
                for (int j = -2; j <= 2; ++j) {
                    const glm::vec3 way =
                        glm::normalize(side * axes[axis] + 0.12f * static_cast<float>(i) * axes[(axis + 1) % 3] +
                                       0.12f * static_cast<float>(j) * axes[(axis + 2) % 3]);
                    const RayHit hit = rays.nearest({p.position, way}, 0.01f);
                    metres.push_back(hit.object < 0
                                         ? farthest
                                         : std::min(farthest, hit.distance * glm::dot(way, side * axes[axis])));
                }
            std::nth_element(metres.begin(), metres.begin() + 12, metres.end());
            (side < 0 ? low : high)[axis] = side * std::max(0.05f, metres[12]);
        }
    p.size = high - low;
    const glm::vec3 middle = 0.5f * (high + low);
    p.center = p.position + axes[0] * middle.x + axes[1] * middle.y + axes[2] * middle.z;
    return p;
}

} // namespace mirolux
