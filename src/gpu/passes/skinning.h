#pragma once
#include "gpu/passes/pass_frame.h"

namespace mirolux::gpu {

/// Bodies with their joints and weights, as they are and as they were in the frame before: what include/bend.glsl
/// reads. Of a scene in which nothing bends, nothing.
void provide_bodies(PassFrame& frame);
/// Number of an object's body from 1, as shaders know it; 0: it is rigid.
inline std::uint32_t body_number(const Object& object) {
    return static_cast<std::uint32_t>(object.body + 1);
}

} // namespace mirolux::gpu
