#pragma once
#include "core/blocks/block_file.h"

namespace mirolux::demo {

/// The breakwater's light islet in blocks: cave, stairs, lighthouse, lanterns, a market of stalls, a ship's boat that
/// turns. 192 x 112 x 192 cells of a quarter of a metre.
blocks::Contents light_islet(unsigned seed = 1);
/// The same islet beside itself up to an edge of so many cells: to see what size costs.
blocks::Contents islet_of_edge(int edge, unsigned seed = 1);
/// Writes light-islet.blocks with its project.
Result<void> write_islet(const std::filesystem::path& folder);
/// Writes islet-EDGE.blocks alone.
Result<void> write_islet_of_edge(const std::filesystem::path& folder, int edge, unsigned seed);

} // namespace mirolux::demo
