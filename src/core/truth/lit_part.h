#pragma once
#include "core/light/light.h"
#include <optional>

namespace mirolux::truth {

/// A part of a ray, metres from its origin.
struct Part {
    double from = 0, to = 0;
};

/// The part of a ray between two distances (`to` may be infinite) that lies within a point's or spot's reach (0: it has
/// none) and cone: nothing of the light is beyond it. None: it lights nothing there. direction: unit.
std::optional<Part> lit_part(const Light& light, double reach, const glm::dvec3& origin, const glm::dvec3& direction,
                             const Part& within);

} // namespace mirolux::truth
