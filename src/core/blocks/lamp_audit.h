#pragma once
#include "core/blocks/block_light.h"
#include "core/image/image.h"

// Light that cells know, held against what it stands for: directions against every lamp, cast hits against every cell.
namespace mirolux::blocks {

/// A cell that shines.
struct Lamp {
    glm::ivec3 cell{0};
    std::uint8_t material = 0;
};
/// Of the still world, by (x, y, z).
std::vector<Lamp> lamps_of(const World& world);

/// What every lamp that a cell sees in a straight line gives there, each as strong as the flood would be over as many
/// cells of open air.
struct LampLight {
    glm::dvec3 to{0.0}; // mean direction, weighted by illuminance; unit, the zero vector without a lamp
    double lux = 0;     // sum of the largest channels
    int lamps = 0;      // that are seen
};
LampLight lamp_light(const BlockLight& light, const std::vector<Lamp>& lamps, const FloodOptions& options,
                     const glm::ivec3& cell);

struct DirectionAudit {
    std::uint64_t cells =
        0; // that were asked: open, lit by the flood, beside one that stops light, and in sight of a lamp
    std::uint64_t hidden = 0;   // lit by the flood, but no lamp is in sight: round a corner
    double one = 0, oneP95 = 0; // degrees between the strongest lamp's direction and the mean of all that are seen
    double two = 0, twoP95 = 0; // the same of the two strongest, weighted; 0 where they are not kept
    // Of a picture of what the specular lobe makes of lamps' light, over the mean of the true one's.
    double meanApart = 0; // |is - true|
    double bias = 0;      // is - true
    FloatImage is, truly; // cd/m2, RGB, rows from the top
    int seen = 0;         // pixels that show cells
    double ms = 0;        // that evaluating all lamps took for that picture, on the processor
};
/// setup: one with origins. Asks about `most` cells, evenly strewn; the picture has the view's size, of the still world
/// alone.
DirectionAudit audit_directions(const Scene& scene, const Setup& setup, const View& view, int most = 20000);

/// Hits by a test of every cell in reach: slow, for tests and audits.
CastHits cast_plainly(const Bits& bits, const glm::ivec3& cell, const glm::dvec3& toSun, const CastOptions& options);

struct CastAudit {
    std::uint64_t cells = 0, asked = 0; // that were cast; of which so many were tried plainly
    std::uint64_t wrong = 0;            // with other hits
    std::uint64_t ofProps = 0;          // cells of props that were cast, at one turn
    std::size_t bytes = 0;              // of the still world's hits and the props' at one turn
    double wholeMs = 0, editMs = 0;     // the still world; one cell changed, its bits anew, on average
    double propMs = 0;                  // all props, at one turn
    double worldFrame = 0;              // hits that casting props by the world's direction would be apart, on average
    int headings = 0;                   // cast beforehand
    double headingsMs = 0, headingsApart = 0; // what they take; hits apart of the nearest, on average over turns
    std::size_t headingsBytes = 0;
};
/// asked: cells, evenly strewn, each of the still world and of the props at 24 turns; headings: to be tried.
CastAudit audit_casts(const Scene& scene, const Setup& setup, const View& view, int asked = 2000, int headings = 16);

} // namespace mirolux::blocks
