#include "core/bake/probe_grid_parts.h"
#include <cmath>

namespace mirolux {

/// Real harmonics of orders 0 to 2, as harmonic_radiance has them.
std::array<double, 9> harmonics_at(const glm::dvec3& n) {
    return {0.282095,
            0.488603 * n.y,
            0.488603 * n.z,
            0.488603 * n.x,
            1.092548 * n.x * n.y,
            1.092548 * n.y * n.z,
            0.315392 * (3 * n.z * n.z - 1),
            1.092548 * n.x * n.z,
            0.546274 * (n.x * n.x - n.y * n.y)};
}
namespace {

constexpr double least_seen = 1e-4; // weight that an unseen probe keeps, so that there is an answer at all

double mirrored_sign(double v) {
    return v >= 0 ? 1 : -1;
}

/// Mean distance and mean square toward a direction, between four texels; over the edge the octahedron folds.
glm::dvec2 distances_toward(const std::array<glm::vec2, ProbeGrid::side * ProbeGrid::side>& map,
                            const glm::dvec3& direction) {
    constexpr int side = ProbeGrid::side;
    const glm::dvec2 at = octahedral(direction) * double(side) - 0.5, low = glm::floor(at), f = at - low;
    glm::dvec2 sum(0.0);
    for (int k = 0; k < 4; ++k) {
        const glm::ivec2 t = folded_texel(glm::ivec2(low) + glm::ivec2(k % 2, k / 2), side);
        sum += (k % 2 ? f.x : 1 - f.x) * (k / 2 ? f.y : 1 - f.y) *
               glm::dvec2(map[static_cast<std::size_t>(t.y * side + t.x)]);
    }
    return sum;
}

} // namespace

ProbeGridOptions probe_grid_options(const Setup& setup) {
    return {static_cast<float>(setup.number("grid.spacing")), setup.whole("grid.paths"), setup.whole("grid.bounces"),
            setup.choice("grid.within"), setup.choice("grid.at")};
}
ProbeReading probe_reading(const Setup& setup) {
    return {setup.choice("grid.order") == "1" ? 1 : 2, setup.flag("grid.visibility")};
}

glm::dvec2 octahedral(const glm::dvec3& d) {
    glm::dvec2 p = glm::dvec2(d.x, d.y) / (std::abs(d.x) + std::abs(d.y) + std::abs(d.z));
    if (d.z < 0) p = (1.0 - glm::abs(glm::dvec2(p.y, p.x))) * glm::dvec2(mirrored_sign(p.x), mirrored_sign(p.y));
    return 0.5 * p + 0.5;
}
glm::dvec3 of_octahedral(const glm::dvec2& place) {
    const glm::dvec2 p = 2.0 * place - 1.0;
    glm::dvec3 n(p.x, p.y, 1 - std::abs(p.x) - std::abs(p.y));
    if (n.z < 0) {
        const glm::dvec2 turned =
            (1.0 - glm::abs(glm::dvec2(n.y, n.x))) * glm::dvec2(mirrored_sign(n.x), mirrored_sign(n.y));
        n.x = turned.x;
        n.y = turned.y;
    }
    return glm::normalize(n);
}
glm::ivec2 folded_texel(glm::ivec2 t, int side) {
    if (t.x < 0 || t.x >= side) t = {t.x < 0 ? 0 : side - 1, side - 1 - t.y};
    if (t.y < 0 || t.y >= side) t = {side - 1 - t.x, t.y < 0 ? 0 : side - 1};
    return glm::clamp(t, glm::ivec2(0), glm::ivec2(side - 1));
}

glm::vec3 ProbeGrid::place(std::size_t probe) const {
    if (!placed.empty()) return placed[probe];
    const auto x = static_cast<std::size_t>(count.x), y = static_cast<std::size_t>(count.y);
    return low + options.spacing * glm::vec3(probe % x, probe / x % y, probe / (x * y));
}

std::size_t ProbeGrid::bytes(int order, bool visibility) const {
    return size() * (static_cast<std::size_t>(order == 1 ? 4 : 9) * 8 +
                     (visibility ? static_cast<std::size_t>((side + 2) * (side + 2)) * 4 : 0));
}

namespace {

/// What several probes give a surface together.
class Joined {
public:
    Joined(const ProbeGrid& grid, const ProbeReading& reading, const glm::dvec3& point, const glm::dvec3& normal)
        : grid_(grid), reading_(reading), normal_(normal), asked_(point + normal * double(grid.lift())),
          harmonics_(harmonics_at(normal)) {}

    /// A probe that counts so much by where it stands. Returns how surely it sees the point, 0 to 1.
    double add(std::size_t i, double w) {
        if (w <= 0 || grid_.walled[i]) return 0;
        double sure = 1;
        if (reading_.visibility) {
            const glm::dvec3 from = asked_ - glm::dvec3(grid_.place(i));
            const double metres = std::max(glm::length(from), 1e-6);
            const double before = 0.5 * (1 - glm::dot(from / metres, normal_));
            w *= before * before + 0.05;
            const glm::dvec2 seen = distances_toward(grid_.distances[i], from / metres);
            if (metres > seen.x) { // Chebyshev's bound for the share that reaches so far
                const double spacing = double(grid_.options.spacing);
                const double variance = std::max(seen.y - seen.x * seen.x, 1e-4 * spacing * spacing);
                const double share = variance / (variance + (metres - seen.x) * (metres - seen.x));
                sure = std::max(share * share * share, least_seen);
            }
        }
        w *= sure;
        glm::dvec3 light(0.0);
        for (std::size_t c = 0; c < (reading_.order == 1 ? 4u : 9u); ++c)
            light += glm::dvec3(grid_.light[i][c]) * harmonics_[c];
        light_ += w * glm::max(light, glm::dvec3(0.0));
        weights_ += w;
        return sure;
    }
    ProbeAnswer answer(double share) const {
        return weights_ > 0 ? ProbeAnswer{light_ / weights_, share} : ProbeAnswer{};
    }

private:
    const ProbeGrid& grid_;
    ProbeReading reading_;
    glm::dvec3 normal_, asked_;
    std::array<double, 9> harmonics_;
    glm::dvec3 light_{0.0};
    double weights_ = 0;
};

} // namespace

ProbeAnswer probe_answer(const ProbeGrid& g, const ProbeReading& reading, const glm::dvec3& point,
                         const glm::dvec3& normal) {
    Joined joined(g, reading, point, normal);
    if (!g.placed.empty()) {
        double nearest = 0;
        for (std::size_t i = 0; i < g.size(); ++i) {
            const double near = 1 - glm::distance(point, glm::dvec3(g.placed[i])) / double(g.reach());
            if (near > 0) nearest = std::max(nearest, near * std::max(0.0, 2 * joined.add(i, near * near) - 1));
        }
        return joined.answer(std::min(1.0, 2 * nearest));
    }
    const double spacing = double(g.options.spacing);
    const glm::dvec3 at = (point - glm::dvec3(g.low)) / spacing, last(g.count - 1);
    const glm::dvec3 beyond = glm::max(-at, at - last);
    const double share = std::clamp(1 - std::max({beyond.x, beyond.y, beyond.z}), 0.0, 1.0);
    if (share <= 0) return {};
    const glm::dvec3 in = glm::clamp(at, glm::dvec3(0.0), last);
    const glm::ivec3 first = glm::min(glm::ivec3(glm::floor(in)), glm::max(g.count - 2, glm::ivec3(0)));
    const glm::dvec3 f = in - glm::dvec3(first);
    for (int k = 0; k < 8; ++k) {
        const glm::ivec3 step(k & 1, k >> 1 & 1, k >> 2), cell = glm::min(first + step, g.count - 1);
        const std::size_t i = (static_cast<std::size_t>(cell.z) * static_cast<std::size_t>(g.count.y) +
                               static_cast<std::size_t>(cell.y)) *
                                  static_cast<std::size_t>(g.count.x) +
                              static_cast<std::size_t>(cell.x);
        const glm::dvec3 near = glm::mix(1.0 - f, f, glm::dvec3(step));
        joined.add(i, near.x * near.y * near.z);
    }
    return joined.answer(share);
}

} // namespace mirolux
