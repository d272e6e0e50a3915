#pragma once
#include "core/light/brdf.h"
#include "core/plan/settings.h"

namespace mirolux {

/// The model that a setup shades with.
brdf::Model shading_model(const Setup& setup);

} // namespace mirolux
