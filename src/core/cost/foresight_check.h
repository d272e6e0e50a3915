#pragma once
#include "core/cost/foresight.h"
#include "core/cost/measure.h"

namespace mirolux {

struct CheckedChange {
    std::string change; // in words
    double nowMs = 0, foreseenMs = 0, lowMs = 0, highMs = 0, measuredMs = 0;
    Comparison comparison; // of the changed frame with the present one, in paired rounds
    double error() const { return measuredMs > 0 ? std::abs(foreseenMs - measuredMs) / measuredMs : 0; }
    bool shown() const { return comparison.verdict != Verdict::notShown; }
    /// Foreseen on the side on which it was measured to be.
    bool right() const { return (foreseenMs < nowMs) == (comparison.verdict == Verdict::faster); }
};
struct ForesightCheck {
    std::vector<CheckedChange> changes;
    int shown = 0, right = 0; // changes with a measured difference; those of them that were foreseen on its side
    double medianError = 0;   // of the frame
    double within = 0;        // share of changes whose measured frame lies in the interval
};

/// Foresees and then measures `count` seeded changes of a scene: of a path, of other settings, of the picture's size,
/// from varied paths and cameras. The present frame is measured alone, as the window does; the change in paired rounds.
/// `progress` gets how many are done; false stops and keeps what was checked.
Result<ForesightCheck> check_foresight(RenderSession& session, const DeviceProfile& profile, const Scene& scene,
                                       const Setup& base, const View& view, const std::vector<Camera>& cameras,
                                       int count, std::uint32_t seed, const std::function<bool(int done)>& progress);

Json to_json(const ForesightCheck& check);
std::string foresight_markdown(const ForesightCheck& check, const DeviceProfile& profile);

} // namespace mirolux
