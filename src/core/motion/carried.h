#pragma once
#include "core/motion/rig.h"

namespace mirolux {

/// A light as clips carry it at a time: by its node, and by its values. The same where none does.
Light carried(const Scene& scene, const Light& light, double seconds);

/// The light that clips carry so that what was done to it there, from `from` to `to`, is done: its place and direction
/// taken back, its range and cone changed alike.
Light put_back(const Scene& scene, const Light& light, const Light& from, const Light& to, double seconds);

} // namespace mirolux
