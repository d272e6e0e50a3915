#pragma once
#include "core/scene/project.h"

namespace mirolux::demo {

/// The demo's project but for its scene, lights and cameras: sky, walk, targets, and setups from night to noon.
Project make_project(const std::vector<Motion>& motions);

} // namespace mirolux::demo
