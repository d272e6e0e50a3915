#pragma once
#include "core/ambient/ambient_light.h"
#include "core/technique/plan_builder.h"

namespace mirolux {

/// What a deep layer of fog shows, cd/m2: its albedo times the mean of the ambient light.
glm::dvec3 fog_radiance(const Setup& setup, const AmbientLight& ambient);

/// Sets a fog's parameter: xyz what a deep layer of it shows, w its extinction, 1/m.
void set_fog(const FrameInputs& in, PlanBuilder& b, const std::string& parameter);

} // namespace mirolux
