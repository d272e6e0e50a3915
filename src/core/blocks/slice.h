#pragma once
#include "core/blocks/block_light.h"
#include "core/image/image.h"

namespace mirolux::blocks {

/// What a slice of a world is coloured by.
enum class Field { cells, lamps, sky, hits, ways, steps };

/// A horizontal slice through the still world, north up: a pixel a cell, opaque. cells: materials at this height, and
/// what lies under open cells, darker with depth. lamps, sky: levels that flood there. hits: what rays toward the sun
/// met (red) and away from it (blue), of cells that were cast. ways: the direction toward the light that each cell
/// knows, +1 white and -1 black of x, y, z in red, green and blue; steps: how far it has come, near white. What stops
/// light is dim in all but the first.
ByteImage slice(const BlockLight& light, Field field, int height);

/// What there is to say of a cell: its material, levels and from where they come, the way back to its lamp.
std::string told(const BlockLight& light, const glm::ivec3& cell);

} // namespace mirolux::blocks
