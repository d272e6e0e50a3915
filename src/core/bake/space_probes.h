#pragma once
#include "core/bake/probe_grid.h"

// Probes in space as frames read them.
namespace mirolux {

inline constexpr const char* probe_light_resource = "space probes";
inline constexpr const char* probe_distances_resource = "space probes' distances";
inline constexpr const char* probe_places_resource = "space probes' places";

/// True where the setup asks for probes in space: alone, or for what has no place in a light map.
bool uses_probe_grid(const Setup& setup);
/// The grid that a frame reads; null: none. `remark`: what there is to say.
std::shared_ptr<const ProbeGrid> shown_grid(const Scene& scene, const Setup& setup, std::string* remark = nullptr);
/// How probes lie on a device's textures, row by row.
struct ProbeSheet {
    int across = 0, down = 0;
};
ProbeSheet probe_sheet(const ProbeGrid& grid);

} // namespace mirolux
