#pragma once
#include "core/scene/project.h"

namespace mirolux::demo {

inline constexpr const char* sky_file_name = "dusk-over-the-quay.hdr"; // beside the scene

/// The demo's project but for its scene, lights and cameras: sky, walk, targets, and setups from night to noon.
Project make_project(const std::vector<Motion>& motions);

/// Balls for the quay's bollards, a sky for the moon, a rim; the project's lights must be there.
void add_cheap_lights(Project& project);

} // namespace mirolux::demo
