#pragma once
#include "core/image/image.h"

namespace mirolux::demo {

/// The sky over the quay at dusk with broken clouds, cd/m2: equirectangular, as `sky.kind` file reads it.
FloatImage dusk_sky(int width);

} // namespace mirolux::demo
