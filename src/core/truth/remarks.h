#pragma once
#include "core/plan/settings.h"
#include "core/rays/ray_scene.h"

namespace mirolux::truth {

/// What makes a traced picture other than one may expect, in words: lights within something solid (all that they see is
/// met from behind, from `housing` metres on), nothing that gives light at all, triangles without area, normals that
/// are no numbers.
std::vector<std::string> remarks(const Scene& scene, const Setup& setup, const RayScene& rays, double housing);

} // namespace mirolux::truth
