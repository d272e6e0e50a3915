#pragma once
#include "core/ambient/ambient_light.h"

namespace mirolux {

/// Air of one density everywhere: what it lets through and what it sends toward the eye.
struct UniformFog {
    bool on = false;
    double extinction = 0;     // 1/m
    glm::dvec3 scattered{0.0}; // cd/m2: albedo times the mean of the ambient light, what a deep layer of it shows
};
UniformFog uniform_fog(const Setup& setup, const AmbientLight& ambient);
/// Under an ambient light that is not the sky's.
inline UniformFog uniform_fog(const Setup& setup) {
    return uniform_fog(setup, ambient_light(setup));
}

/// Share of radiance that comes through `metres` of it (Beer and Lambert): exp(-extinction metres).
double transmittance(const UniformFog& fog, double metres);

} // namespace mirolux
