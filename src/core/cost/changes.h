#pragma once
#include "core/scene/project.h"
#include <map>

namespace mirolux {

/// What an entry can bring back: how the scene was lit, rendered and looked at.
struct State {
    Setup setup;
    std::vector<Light> lights;
    View view;
    /// Settings of an older or newer build that this one cannot take, as they were kept: key and value.
    std::map<std::string, std::string> unknown{};
    EditList objects{};
    std::vector<AirVolume> volumes{};
    std::vector<CheapLight> cheapLights{};
    std::vector<Probe> probes{};

    bool operator==(const State&) const = default;
};
inline State state_of(const Project& p) {
    return {p.setup, p.lights, p.view, {}, p.objects, p.volumes, p.cheapLights, p.probes};
}

/// What changed from one state to the next, a line each, in words.
std::vector<std::string> describe_changes(const State& from, const State& to);

} // namespace mirolux
