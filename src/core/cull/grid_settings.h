#pragma once
#include "core/cull/light_grid.h"
#include "core/plan/settings.h"

namespace mirolux::cull {

/// The culling settings of a setup; `clustered` says whether its slices count.
GridSettings grid_settings(const Setup& setup, bool clustered);

} // namespace mirolux::cull
