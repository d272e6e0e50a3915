#pragma once
#include "core/motion/rig.h"

namespace mirolux {

/// World bounds of an object as it stands in a pose: of a rigid one its primitive's, of a body a box that holds it.
Box bounds_in(const SceneAsset& asset, const Object& object, const Pose* pose);

} // namespace mirolux
