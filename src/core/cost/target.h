#pragma once
#include "core/io/json_cursor.h"
#include "core/plan/settings.h"
#include "core/plan/view.h"
#include <optional>
#include <vector>

namespace mirolux {

/// What the picture is held against: a size and a frame time, the share of it that lighting may take, how many eyes,
/// and on which device.
struct Target {
    std::string name;
    int width = 1280, height = 720; // pixels, of one eye
    double frameMs = 1000.0 / 60;
    double hz = 60.0; // 0 when the frame time was given in ms
    double lightingShare =
        1.0; // over 0, at most 1: of the frame time; the rest belongs to what Mirolux does not render
    Stereo stereo = Stereo::off;
    float eyeDistance = 0.064f; // metres
    std::string profile;   // device profile (a file, or the name of one that is shipped); empty: this device, measured
    bool software = false; // made for software rasterisers: taken on one while no target was chosen
    std::optional<Setup> setup;          // its own; none: the one that the project's targets share
    std::vector<int> offLights;          // Light::id: off on this target, ascending
    std::vector<std::string> offObjects; // ObjectName::id: hidden on this target, ascending

    bool operator==(const Target&) const = default;
};
std::string
to_text(const Target& target); // "Desk, 1280x720, 60 Hz, 16.67 ms", "Headset, 2 x 1024x1024, 72 Hz, 11.11 of 13.89 ms"

/// A target of a frame time, for one eye, on this device, all of it lighting's.
Target plain_target(const std::string& name, int width, int height, double frameMs);

/// What lighting may cost on the target, ms.
inline double budget_ms(const Target& target) {
    return target.frameMs * target.lightingShare;
}
/// The budget that times measured on this device may be held against: none (0) where the target is of another device.
inline double measured_budget_ms(const Target& target) {
    return target.profile.empty() ? budget_ms(target) : 0;
}
/// The view at the target's size and eyes.
View on_target(View view, const Target& target);

/// What a new project holds: a desk, a handheld and a headset, the latter two with shipped device profiles.
std::vector<Target> standard_targets();

Json to_json(const Target& target);
Target target_from_json(const JsonCursor& json);

} // namespace mirolux
