#pragma once
#include "core/blocks/cast.h"
#include "core/blocks/cell_tree.h"
#include "core/blocks/mesh.h"
#include "core/blocks/origin_flood.h"

// What follows from a world's cells, worked out once and kept while the world is looked at: where another world differs
// from the last one in a few cells, only what follows from these. From any thread.
namespace mirolux::blocks {

/// Cells in which b differs from a; both of one size.
std::vector<Flood::Edit> edits_between(const Volume& a, const Volume& b);

/// All rectangles of a world, those of a chunk and a face side by side.
struct MeshedWorld {
    struct Run {
        std::uint32_t first = 0, count = 0; // among all of the part
    };
    struct Part { // of the still world, or a prop
        glm::ivec3 size{0};
        // By chunk, null: none; opaque ones by face, then clear ones. Worlds that follow one another share them.
        std::vector<std::shared_ptr<const std::vector<Quad>>> quads;
        std::vector<std::array<Run, 7>> chunks; // by face, then clear ones; empty runs where there are none
        std::vector<glm::ivec3> corners;        // of the chunks, cells
        std::vector<Quad> all() const;          // one chunk after the other
    };
    Part still;
    std::vector<Part> props;
};
std::shared_ptr<const MeshedWorld> meshed(const WorldPtr& world);

/// Trees of the still world and of the props.
std::shared_ptr<const std::vector<CellTree>> trees(const WorldPtr& world);

std::shared_ptr<const Flood> flooded(const WorldPtr& world, const FloodOptions& options);

/// A flood as far as it has come.
struct FloodSoFar {
    std::shared_ptr<const Flood> flood;
    std::uint64_t waiting = 0; // cells from which light is to go on; 0: it is whole
    std::uint64_t state = 0;   // another number, another light
    std::uint64_t since = 0;   // the state from which it differs in no more than these chunks
    std::vector<std::size_t> changed;
};
/// The same for a caller that waits no longer than `ms` at a time for light to spread: each call goes on from where the
/// last one left the flood. Until it is whole, levels are too low. From one thread.
FloodSoFar flooded_so_far(const WorldPtr& world, const FloodOptions& options, double ms);
std::shared_ptr<const OriginFlood> origins(const WorldPtr& world, const FloodOptions& options);

/// Hits of the still world, and of each prop in its own frame.
struct CastWorld {
    CastField still;
    std::vector<CastField> props;
    double stillMs = 0, propsMs = 0; // that it took
    double bakedMs = 0;              // of all headings of the props, where they are cast beforehand
    std::size_t bakedBytes = 0;
};
/// turns: of the props, radians.
std::shared_ptr<const CastWorld> casts(const WorldPtr& world, const glm::dvec3& toSun, const std::vector<double>& turns,
                                       const CastOptions& options);

} // namespace mirolux::blocks
