#pragma once
#include <string>

namespace mirolux {

/// How a clip of the scene file plays.
struct ClipPlay {
    std::string clip; // Clip::name
    bool on = true;
    bool loop = true;    // else it stops at its ends
    double speed = 1.0;  // seconds of the clip in a second of the scene; below 0: backward
    double offset = 0.0; // seconds: where it stands at the scene's 0
    double share = 1.0;  // of the values that several clips change

    bool operator==(const ClipPlay&) const = default;
};

} // namespace mirolux
