#pragma once
#include "core/base/error.h"
#include "core/blocks/origin_flood.h"
#include <filesystem>

// Floods held against what they must be.
namespace mirolux::blocks {

/// A cell whose light cannot be right.
struct OddCell {
    glm::ivec3 cell{0};
    std::string what;
};
struct FloodAudit {
    std::uint64_t cells = 0;        // that were looked at
    std::uint64_t wrong = 0;        // with another level than a fresh flood's
    std::uint64_t inconsistent = 0; // whose level nothing explains, or whose origin is no lamp
    std::vector<OddCell> odd;       // the first hundred of them
};
/// Every cell against a fresh flood and against its neighbours.
FloodAudit audit(const Flood& flood, const std::vector<Material>& palette);
/// The same of origins: a level that no neighbour or lamp explains, an origin that is no lamp of that material, a turn
/// that the cell does not see.
FloodAudit audit(const OriginFlood& flood, const std::vector<Material>& palette, const FloodOptions& options);

/// Why a cell has no more light: it stops light; nothing is in reach; what shuts it; the level and from where it came.
std::string why_dark(const Flood& flood, const std::vector<Material>& palette, const glm::ivec3& cell);

/// Levels as they are: "MRXLVL1\n", width, height, depth (4 bytes each, the low one first), then 4 bytes a cell (red,
/// green, blue, sun), x fastest, then z, then y.
Result<void> write_levels(const Flood& flood, const std::filesystem::path& path);

} // namespace mirolux::blocks
