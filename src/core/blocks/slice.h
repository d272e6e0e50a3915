#pragma once
#include "core/blocks/block_light.h"
#include "core/image/image.h"

namespace mirolux::blocks {

/// What a slice of a world is coloured by.
enum class Field { cells, lamps, sky, hits };

/// A horizontal slice through the still world, north up: a pixel a cell, opaque. cells: materials at this height, and
/// what lies under open cells, darker with depth. lamps, sky: levels that flood there. hits: what rays toward the sun
/// met (red) and away from it (blue), of cells that were cast. What stops light is dim in all but the first.
ByteImage slice(const BlockLight& light, Field field, int height);

/// What there is to say of a cell: its material, levels and from where they come, the way back to its lamp.
std::string told(const BlockLight& light, const glm::ivec3& cell);

} // namespace mirolux::blocks
