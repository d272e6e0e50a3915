#pragma once
#include "core/technique/technique.h"

// What a frame takes of a scene's cheap lights: techniques solid_lights and view_lights.
namespace mirolux {

inline constexpr std::size_t most_cheap_lights = 32; // of each kind in a frame: a bit each

/// Those of a scene that a setup shows, in their order: solid shapes or view-locked ones.
std::vector<CheapLight> cheap_lights_of(const Scene& scene, const Setup& setup, bool solid);

/// A sentence where the scene has more of a kind than a frame draws; else empty.
std::string cheap_lights_left_out(const Scene& scene, const Setup& setup, bool solid);

/// Light::id of those that a frame leaves out, since cheap lights stand for them (`cheapLights.instead`).
std::vector<int> replaced_lights(const Scene& scene, const Setup& setup);

/// For each object of the scene a bit for each of these view-locked lights that lies on it.
std::vector<std::uint32_t> view_lights_by_object(const Scene& scene, const std::vector<CheapLight>& lights);

} // namespace mirolux
