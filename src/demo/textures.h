#pragma once
#include "core/image/image.h"
#include <string>

namespace mirolux::demo {

/// The three maps of a surface, tileable, `size` pixels square: base colour (sRGB), normal (OpenGL's green up),
/// occlusion-roughness-metallic.
struct SurfaceMaps {
    ByteImage baseColor, normal, orm;
};

SurfaceMaps asphalt(int size);    // wet, with puddles
SurfaceMaps corrugated(int size); // painted corrugated steel with rust
SurfaceMaps planks(int size);
SurfaceMaps tiles(int size);
SurfaceMaps concrete(int size);
SurfaceMaps water(int size);

} // namespace mirolux::demo
