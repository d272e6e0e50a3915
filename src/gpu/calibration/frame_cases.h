#pragma once
#include "core/plan/settings.h"
#include "core/plan/view.h"
#include "core/scene/scene.h"

namespace mirolux::gpu {

/// A frame of a made-up scene; every pass of it is a workload.
struct FrameCase {
    std::string name;
    Scene scene;
    Setup setup;
    View view;
};

/// Frames whose passes stress the real shaders, and those that techniques ask for (CostTerm::exercise).
std::vector<FrameCase> frame_cases();

} // namespace mirolux::gpu
