#pragma once
#include "core/plan/settings.h"
#include "core/scene/scene.h"

namespace mirolux {

/// What was baked for the scene as it stood once, by name (light map, shadow masks, occlusion, probes in space), of
/// that which the setup asks for: it is left out until it is baked again.
std::vector<std::string> stale_bakes(const Scene& scene, const Setup& setup);

} // namespace mirolux
