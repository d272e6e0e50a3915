#pragma once
#include "core/cull/light_lists.h"
#include "core/technique/plan_builder.h"

namespace mirolux {

/// Lists of lights for the air, by columns of the view: those of surfaces end where surfaces are, and the air beside an
/// edge would lose its light.
cull::GridSettings air_grid_settings(const Setup& setup);
cull::GridShape air_grid_shape(const Setup& setup, const View& view, const DrawList& list);

inline constexpr const char* air_lists_resource = "air lists";

} // namespace mirolux
