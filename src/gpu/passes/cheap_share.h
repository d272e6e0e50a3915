#pragma once
#include "gpu/passes/pass_frame.h"

namespace mirolux::gpu {

/// With the ledger: draws one cheap light alone and enters what it changes of the scene target, on how many pixels,
/// and the least fenced time of three. before: what its pixels are found with, also timed, but not counted.
void enter_cheap_share(PassFrame& frame, int light, const std::function<void()>& before,
                       const std::function<void()>& draw);

/// How a pass joins its two outputs to the scene target: picture * second + first; alpha is kept.
inline PassState::Blend changing() {
    return {true, GL_ONE, GL_SRC1_COLOR, GL_ZERO, GL_ONE};
}

} // namespace mirolux::gpu
