#pragma once
#include "core/shadow/shadow_set.h"
#include "core/technique/technique.h"

namespace mirolux {

/// Name of the plan's one target that holds all shadow maps.
inline constexpr const char* shadow_atlas_resource = "shadow atlas";

/// Of the one that holds the maps of points as cubes.
inline constexpr const char* shadow_cubes_resource = "shadow cubes";

/// Of the target that holds what stands still in them, where that is kept apart.
inline constexpr const char* still_shadows_resource = "still shadows";

/// Of the target that holds them in a form that may be blurred, with coarser levels, for the filters that ask it.
inline constexpr const char* blurred_shadows_resource = "blurred shadows";
inline constexpr int blurred_shadows_mips = 4;

/// Targets that a lookup of shadows reads.
std::vector<std::string> shadow_targets(const ShadowSet& set, const Setup& setup);

/// Lights of a frame without a map, as a sentence: how many, why, and the first of them by name. Empty: all have one.
std::string unmapped_text(const ShadowSet& set, const DrawList& draws);

} // namespace mirolux
