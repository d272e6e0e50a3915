#pragma once
#include "core/cost/device_profile.h"

namespace mirolux {

struct CheckedSetup {
    std::string name; // what was varied, in words
    double predictedMs = 0, measuredMs = 0;
    double error() const { return measuredMs > 0 ? (predictedMs - measuredMs) / measuredMs : 0; }
};
struct ProfileCheck {
    std::vector<CheckedSetup> setups;
    double medianError = 0, p90Error = 0; // of |error|
    double withinBar = 0; // share of setups whose measured time lies between the prediction's low and high
};

/// Predicts and measures `count` seeded setups of a scene on the present device: paths, shading models, picture sizes,
/// culling settings and cameras vary. Measured: the median of two fenced frames of each in `sweeps` turns over all of
/// them, so that a slow minute does not fall on one. `progress` gets how many of count * sweeps are done; false stops
/// and keeps what was checked.
Result<ProfileCheck> check_profile(RenderSession& session, const DeviceProfile& profile, const Scene& scene,
                                   const Setup& base, const View& view, const std::vector<Camera>& cameras, int count,
                                   std::uint32_t seed, int sweeps, const std::function<bool(int done)>& progress);

Json to_json(const ProfileCheck& check);
/// Predicted against measured on logarithmic axes, with the line of equality and the profile's error bar.
std::string check_svg(const ProfileCheck& check, const DeviceProfile& profile);
std::string check_markdown(const ProfileCheck& check, const DeviceProfile& profile, const std::string& plotFile);

} // namespace mirolux
