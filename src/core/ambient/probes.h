#pragma once
#include "core/ambient/probe_capture.h"

// Probes in a frame: those that were captured, as light that stands before the surroundings.
namespace mirolux {

bool uses_probes(const Setup& setup);
/// What their captures are averaged over.
LobeLevels probe_levels(const Setup& setup);

/// More take no part: cube maps of so many layers is what every device has.
inline constexpr std::size_t most_probes = 64;

struct CapturedProbe {
    Probe probe;
    std::shared_ptr<const ProbeLight> light;
};
/// The probes of a frame, those of smaller boxes first, and what is to be said of the others.
struct CapturedProbes {
    std::vector<CapturedProbe> probes;
    std::vector<std::string> notes;
};
CapturedProbes captured_probes(const Scene& scene, const Setup& setup);
/// probe_shares of them: indices into `probes`.
std::vector<ProbeShare> shares_of(const CapturedProbes& captured, const glm::dvec3& point);

inline constexpr const char* probe_faces_resource = "probe's faces";
inline constexpr const char* probe_lobes_resource = "probes by lobes";

} // namespace mirolux
