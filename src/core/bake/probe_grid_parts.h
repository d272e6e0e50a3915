#pragma once
#include "core/bake/probe_grid.h"
#include "core/truth/path_tracer.h"

// What the parts of probes in space share.
namespace mirolux {

inline constexpr std::size_t most_probes_of_grid = 200000, most_probes_by_hand = 256;

/// Real harmonics of orders 0 to 2 toward a direction, as harmonic_radiance has them.
std::array<double, 9> harmonics_at(const glm::dvec3& direction);

/// Gives a grid its places: by hand, or through the box that its options name. Errors: no object has those names;
/// nothing stands still; too many.
Result<void> place_probes(ProbeGrid& grid, const Scene& scene, const Setup& setup);
/// Of what its light depends on.
std::string grid_scene_digest(const Scene& scene, const Setup& setup);

/// A tracer of what bounces off still surfaces, of lamps that are in maps.
std::unique_ptr<truth::PathTracer> bounced_tracer(const Scene& scene, const Setup& setup, int bounces,
                                                  std::shared_ptr<const RayScene> rays);

} // namespace mirolux
