#pragma once
#include "core/air/air_volume.h"
#include "core/light/light.h"
#include <algorithm>
#include <cmath>

// Clouds of air as they are taken hold of in the picture.
namespace mirolux {

/// A point of its own axes, -1 to 1 from side to side, in the world.
inline glm::vec3 place_in(const AirVolume& v, const glm::vec3& unit) {
    const glm::vec3 own = 0.5f * v.size * unit;
    const float c = std::cos(v.turn), s = std::sin(v.turn);
    return v.center + glm::vec3(c * own.x + s * own.z, own.y, c * own.z - s * own.x);
}

/// As a point light of its place, whose range is half of its longest side, so that its handles are a light's.
inline Light as_light(const AirVolume& v) {
    Light l;
    l.name = v.name;
    l.enabled = v.enabled;
    l.color = v.albedo;
    l.position = v.center;
    l.range = 0.5f * std::max({v.size.x, v.size.y, v.size.z});
    return l;
}

/// Back from there: all its sides grow alike.
inline void take_place(AirVolume& v, const Light& from) {
    const float before = as_light(v).range;
    v.center = from.position;
    if (from.range > 0) v.size = glm::max(v.size * (from.range / std::max(before, 1e-4f)), glm::vec3(0.1f));
}

} // namespace mirolux
