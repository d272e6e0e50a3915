#pragma once
#include "core/cost/device_profile.h"

namespace mirolux {

/// A frame with its counted work.
struct CountedFrame {
    FramePlan plan;
    std::vector<Work> work; // parallel to the plan's passes
};
/// From a record that was asked to count (RenderOptions::count).
CountedFrame counted_frame(FramePlan plan, const FrameRecord& record);

/// Medians of a frame's passes, ms, by name.
using PassTimes = std::map<std::string, double>;

struct ForeseenPass {
    std::string name, family;
    double ms = 0, wasMs = 0;         // wasMs: as measured now; 0: there is no such pass now
    bool changed = false;             // does other work than now
    std::vector<std::string> dearest; // what it is charged most for, at most three cost terms
};

/// What a choice would cost before it is taken. Never a measurement.
struct Foresight {
    std::vector<ForeseenPass> passes;
    double nowMs = 0; // measured
    double ms = 0, lowMs = 0, highMs = 0;
    std::string profile;
    bool madeUp = false;
    /// The interval leaves the present time out.
    bool shown() const { return lowMs > nowMs || highMs < nowMs; }
};

/// Measured now times predicted next over predicted now, pass by pass: what the profile gets wrong about a pass falls
/// out where the pass stays alike. A pass that is new is priced by the profile, times what the whole frame takes over
/// its prediction. The interval: the profile's large error on all that changes. Errors: the profile has no rate for
/// something that a frame pays; nothing was measured.
Result<Foresight> foresee(const DeviceProfile& profile, const CountedFrame& now, const PassTimes& measured,
                          const CountedFrame& next);

/// "about 35.1 ms faster (23 %): 114 ms, 105 to 124 ms".
std::string foresight_words(const Foresight& foresight);
/// What was foreseen beside what was measured then, the pass that is farthest off and what it was charged for; empty if
/// the measured frame lies in the interval.
std::string foresight_miss(const Foresight& foresight, const PassTimes& measured);

Json to_json(const Foresight& foresight);

/// Where the profile of a device is kept for this user, by the names that its driver gives.
std::filesystem::path own_profile_path(const DeviceInfo& device);
/// The kept profile. Errors: none yet, or one that cannot be read.
Result<DeviceProfile> own_profile(const DeviceInfo& device);
Result<void> keep_own_profile(const DeviceInfo& device, const DeviceProfile& profile);

} // namespace mirolux
