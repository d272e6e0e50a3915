#include "core/air/air_volume.h"
#include <algorithm>
#include <cmath>
#include <cstdint>

namespace mirolux {

const char* word(VolumeShape s) {
    return s == VolumeShape::box ? "box" : "sphere";
}

static double hashed(int x, int y, int z) {
    std::uint32_t a = static_cast<std::uint32_t>(x) * 1664525u + 1013904223u,
                  b = static_cast<std::uint32_t>(y) * 1664525u + 1013904223u,
                  c = static_cast<std::uint32_t>(z) * 1664525u + 1013904223u;
    const auto mix = [&] {
        a += b * c;
        b += c * a;
        c += a * b;
    };
    mix();
    a ^= a >> 16;
    b ^= b >> 16;
    c ^= c >> 16;
    mix();
    return static_cast<double>(a >> 8) / 16777216.0;
}

static double one_octave(const glm::dvec3& p) {
    const glm::dvec3 low = glm::floor(p), f = p - low, t = f * f * (3.0 - 2.0 * f);
    const glm::ivec3 i(low);
    const auto row = [&](int y, int z) {
        return glm::mix(hashed(i.x, i.y + y, i.z + z), hashed(i.x + 1, i.y + y, i.z + z), t.x);
    };
    return glm::mix(glm::mix(row(0, 0), row(1, 0), t.y), glm::mix(row(0, 1), row(1, 1), t.y), t.z);
}

double air_noise(const glm::dvec3& place) {
    return (4 * one_octave(place) + 2 * one_octave(place * 2.0) + one_octave(place * 4.0)) / 7;
}

/// Into the volume's own axes.
static glm::dvec3 turned(const AirVolume& v, const glm::dvec3& way) {
    const double c = std::cos(double(v.turn)), s = std::sin(double(v.turn));
    return {c * way.x - s * way.z, way.y, s * way.x + c * way.z};
}

double density(const AirVolume& v, const glm::dvec3& point, double seconds) {
    const glm::dvec3 p = turned(v, point - glm::dvec3(v.center)), half = glm::max(0.5 * glm::dvec3(v.size), 1e-4);
    double inside = 0; // metres from the side
    if (v.shape == VolumeShape::box) {
        const glm::dvec3 d = half - glm::abs(p);
        inside = std::min({d.x, d.y, d.z});
    } else
        inside = (1 - glm::length(p / half)) * std::min({half.x, half.y, half.z});
    if (inside <= 0) return 0;
    double share = v.falloff > 0 ? std::min(inside / double(v.falloff), 1.0) : 1.0;
    share *= share * (3 - 2 * share);
    if (v.noise <= 0) return share;
    const double n = air_noise((point - glm::dvec3(v.drift) * seconds) / std::max(double(v.grain), 1e-3));
    return share * glm::mix(1.0, std::clamp(4 * n - 1.5, 0.0, 1.0), double(v.noise));
}

std::optional<glm::dvec2> crossed(const AirVolume& v, const glm::dvec3& origin, const glm::dvec3& direction) {
    const glm::dvec3 o = turned(v, origin - glm::dvec3(v.center)), d = turned(v, direction),
                     half = glm::max(0.5 * glm::dvec3(v.size), 1e-4);
    double from = 0, to = 1e30;
    if (v.shape == VolumeShape::box) {
        for (int a = 0; a < 3; ++a) {
            if (std::abs(d[a]) < 1e-12) {
                if (std::abs(o[a]) > half[a]) return std::nullopt;
                continue;
            }
            const double x = (-half[a] - o[a]) / d[a], y = (half[a] - o[a]) / d[a];
            from = std::max(from, std::min(x, y));
            to = std::min(to, std::max(x, y));
        }
    } else {
        const glm::dvec3 p = o / half, q = d / half;
        const double a = glm::dot(q, q), b = glm::dot(p, q), c = glm::dot(p, p) - 1, rest = b * b - a * c;
        if (rest <= 0) return std::nullopt;
        from = std::max(from, (-b - std::sqrt(rest)) / a);
        to = (-b + std::sqrt(rest)) / a;
    }
    if (!(to > from)) return std::nullopt;
    return glm::dvec2(from, to);
}

} // namespace mirolux
