#include "core/light/light.h"
#include <algorithm>
#include <cmath>
#include <glm/gtc/constants.hpp>

namespace mirolux {

const char* word(Mobility mobility) {
    switch (mobility) {
    case Mobility::switched:
        return "switched";
    case Mobility::mixed:
        return "mixed";
    case Mobility::moving:
        return "moving";
    default:
        return "still";
    }
}

const char* word(ShadowMode mode) {
    static constexpr const char* words[] = {"as-all", "none", "hard", "soft"};
    return words[static_cast<std::size_t>(mode)];
}

const char* word(LightType type) {
    switch (type) {
    case LightType::directional:
        return "directional";
    case LightType::point:
        return "point";
    case LightType::spot:
        return "spot";
    }
    return "";
}

const char* word(IntensityUnit unit) {
    switch (unit) {
    case IntensityUnit::candela:
        return "cd";
    case IntensityUnit::lumen:
        return "lm";
    case IntensityUnit::lux:
        return "lx";
    }
    return "";
}

const char* word(MotionKind kind) {
    switch (kind) {
    case MotionKind::sweep:
        return "sweep";
    case MotionKind::shuttle:
        return "shuttle";
    case MotionKind::blink:
        return "blink";
    case MotionKind::pulse:
        return "pulse";
    case MotionKind::flicker:
        return "flicker";
    case MotionKind::turn:
        return "turn";
    case MotionKind::path:
        return "path";
    }
    return "";
}

const char* word(FlatShape shape) {
    switch (shape) {
    case FlatShape::round:
        return "round";
    case FlatShape::line:
        return "line";
    case FlatShape::picture:
        return "picture";
    case FlatShape::text:
        return "text";
    }
    return "";
}

/// Value noise of a whole number, 0 to 1 (after R. Jenkins' one-at-a-time hash, 1997).
static double noise_at(std::uint32_t seed, std::uint32_t at) {
    std::uint32_t h = seed * 0x9E3779B9u + at * 0x85EBCA6Bu + 0x27D4EB2Fu;
    h ^= h >> 15;
    h *= 0x2C1B3C6Du;
    h ^= h >> 12;
    h *= 0x297A2D39u;
    h ^= h >> 15;
    return h / 4294967295.0;
}

/// Three octaves of smooth noise, 0 to 1; `cycle` counts periods of the slowest.
static double flicker_at(std::uint32_t seed, double cycle) {
    double sum = 0, weight = 0;
    for (int octave = 0; octave < 3; ++octave) {
        const double at = cycle * (4 << octave), f = at - std::floor(at), smooth = f * f * (3 - 2 * f),
                     w = 1.0 / (1 << octave);
        const auto cell = static_cast<std::uint32_t>(static_cast<std::int64_t>(std::floor(at)));
        const std::uint32_t own = seed * 3 + static_cast<std::uint32_t>(octave);
        sum += w * (noise_at(own, cell) * (1 - smooth) + noise_at(own, cell + 1) * smooth);
        weight += w;
    }
    return sum / weight;
}

/// Where one stands on a closed way after a share of it.
static glm::vec3 on_way(const std::vector<glm::vec3>& way, double share) {
    double whole = 0;
    for (std::size_t i = 0; i < way.size(); ++i)
        whole += glm::length(way[(i + 1) % way.size()] - way[i]);
    double left = share * whole;
    for (std::size_t i = 0; i < way.size(); ++i) {
        const glm::vec3 &a = way[i], &b = way[(i + 1) % way.size()];
        const double length = glm::length(b - a);
        if (left <= length && length > 0) return glm::mix(a, b, static_cast<float>(left / length));
        left -= length;
    }
    return way.empty() ? glm::vec3(0.0f) : way.front();
}

std::vector<Light> lights_at(const std::vector<Light>& lights, const std::vector<Motion>& motions, double seconds) {
    std::vector<Light> moved = lights;
    for (const Motion& motion : motions) {
        const auto it = std::find_if(moved.begin(), moved.end(), [&](const Light& l) { return l.id == motion.light; });
        if (it == moved.end() || motion.period <= 0.0f) continue;
        const double cycle = seconds / motion.period + motion.phase;
        const double t = cycle - std::floor(cycle);
        switch (motion.kind) {
        case MotionKind::sweep: {
            const bool whole_turn = motion.angle >= 6.283f;
            const double a = whole_turn ? t * motion.angle : 0.5 * motion.angle * std::sin(t * glm::two_pi<double>());
            const float c = static_cast<float>(std::cos(a)), s = static_cast<float>(std::sin(a));
            const glm::vec3 d = it->direction;
            it->direction = {c * d.x + s * d.z, d.y, -s * d.x + c * d.z};
            break;
        }
        case MotionKind::shuttle: {
            const float to_and_fro = static_cast<float>(0.5 - 0.5 * std::cos(t * glm::two_pi<double>()));
            it->position += motion.travel * to_and_fro;
            break;
        }
        case MotionKind::blink:
            it->enabled = it->enabled && t < motion.duty;
            break;
        case MotionKind::pulse:
            it->intensity *= static_cast<float>(1 - motion.depth * (0.5 - 0.5 * std::cos(t * glm::two_pi<double>())));
            break;
        case MotionKind::flicker:
            it->intensity *= static_cast<float>(1 - motion.depth * flicker_at(motion.seed, cycle));
            break;
        case MotionKind::turn: {
            const bool round = motion.angle >= 6.283f;
            const double a = round ? t * motion.angle : 0.5 * motion.angle * std::sin(t * glm::two_pi<double>());
            const float c = static_cast<float>(std::cos(a)), s = static_cast<float>(std::sin(a));
            const glm::vec3 d = it->direction;
            it->direction = {c * d.x - s * d.y, s * d.x + c * d.y, d.z};
            it->flat.turn += static_cast<float>(a);
            break;
        }
        case MotionKind::path:
            it->position += on_way(motion.way, t);
            break;
        }
    }
    return moved;
}

static float lumen_per_candela(const Light& light) {
    if (light.type == LightType::spot) return glm::two_pi<float>() * (1.0f - std::cos(light.outerConeAngle));
    return 4.0f * glm::pi<float>();
}

float intensity_in(const Light& light, IntensityUnit unit) {
    return unit == IntensityUnit::lumen ? light.intensity * lumen_per_candela(light) : light.intensity;
}

float intensity_from(const Light& light, IntensityUnit unit, float value) {
    return unit == IntensityUnit::lumen ? value / std::max(1e-6f, lumen_per_candela(light)) : value;
}

glm::vec3 color_of_kelvin(float kelvin) {
    const double t = std::clamp<double>(kelvin, 1667.0, 25000.0);
    const double t2 = t * t, t3 = t2 * t;
    const double x = t <= 4000.0 ? -0.2661239e9 / t3 - 0.2343589e6 / t2 + 0.8776956e3 / t + 0.179910
                                 : -3.0258469e9 / t3 + 2.1070379e6 / t2 + 0.2226347e3 / t + 0.240390;
    const double x2 = x * x, x3 = x2 * x;
    const double y = t <= 2222.0   ? -1.1063814 * x3 - 1.34811020 * x2 + 2.18555832 * x - 0.20219683
                     : t <= 4000.0 ? -0.9549476 * x3 - 1.37418593 * x2 + 2.09137015 * x - 0.16748867
                                   : 3.0817580 * x3 - 5.87338670 * x2 + 3.75112997 * x - 0.37001483;
    const double X = x / y, Z = (1.0 - x - y) / y;
    // XYZ (Y = 1) to linear Rec. 709, D65 white (IEC 61966-2-1).
    glm::dvec3 rgb(3.2404542 * X - 1.5371385 - 0.4985314 * Z, -0.9692660 * X + 1.8760108 + 0.0415560 * Z,
                   0.0556434 * X - 0.2040259 + 1.0572252 * Z);
    rgb = glm::max(rgb, glm::dvec3(0.0));
    return glm::vec3(rgb / std::max({rgb.r, rgb.g, rgb.b}));
}

} // namespace mirolux
