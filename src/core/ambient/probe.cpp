#include "core/ambient/probe.h"
#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

namespace mirolux {

const char* word(Recapture r) {
    return r == Recapture::byHand ? "by-hand" : r == Recapture::changed ? "changed" : "in-turn";
}

glm::dvec3 direction_in(const Probe& p, const glm::dvec3& d) {
    const double c = std::cos(double(p.turn)), s = std::sin(double(p.turn));
    return {c * d.x - s * d.z, d.y, s * d.x + c * d.z};
}

glm::dvec3 point_in(const Probe& p, const glm::dvec3& point) {
    return direction_in(p, point - glm::dvec3(p.center));
}

glm::vec3 place_in(const Probe& p, const glm::vec3& unit) {
    const glm::vec3 own = 0.5f * p.size * unit;
    const float c = std::cos(p.turn), s = std::sin(p.turn);
    return p.center + glm::vec3(c * own.x + s * own.z, own.y, c * own.z - s * own.x);
}

double claim(const Probe& p, const glm::dvec3& point) {
    const glm::dvec3 beyond = glm::abs(point_in(p, point)) - 0.5 * glm::dvec3(p.size);
    const double outside = std::max({beyond.x, beyond.y, beyond.z}) - probe_skin;
    if (outside <= 0) return p.weight;
    return p.blend > 0 ? p.weight * std::max(0.0, 1 - outside / p.blend) : 0;
}

std::vector<std::size_t> nested(const std::vector<Probe>& probes) {
    std::vector<std::size_t> out;
    for (std::size_t i = 0; i < probes.size(); ++i)
        if (probes[i].enabled && !probes[i].file.empty()) out.push_back(i);
    const auto volume = [&](std::size_t i) {
        const glm::dvec3 s(probes[i].size);
        return s.x * s.y * s.z;
    };
    std::stable_sort(out.begin(), out.end(), [&](std::size_t a, std::size_t b) { return volume(a) < volume(b); });
    return out;
}

std::vector<ProbeShare> probe_shares(const std::vector<Probe>& probes, const glm::dvec3& point) {
    std::vector<ProbeShare> out;
    double left = 1;
    for (const std::size_t i : nested(probes)) {
        const double share = left * claim(probes[i], point);
        if (share <= 0) continue;
        out.push_back({i, share});
        left -= share;
    }
    return out;
}

glm::dvec3 box_projected(const Probe& p, const glm::dvec3& point, const glm::dvec3& direction) {
    const glm::dvec3 from = point_in(p, point), d = direction_in(p, direction), half = 0.5 * glm::dvec3(p.size);
    double leaves = std::numeric_limits<double>::max();
    for (int axis = 0; axis < 3; ++axis)
        if (d[axis] != 0) leaves = std::min(leaves, ((d[axis] > 0 ? half[axis] : -half[axis]) - from[axis]) / d[axis]);
    return glm::normalize(point + direction * std::max(leaves, 0.0) - glm::dvec3(p.position));
}

} // namespace mirolux
