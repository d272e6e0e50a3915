#pragma once
#include "core/blocks/volume.h"

namespace mirolux::blocks {

/// A bit for each cell: whether it is solid (its material stops light). Rows of x in words.
class Bits {
public:
    Bits() = default;
    Bits(const Volume& cells, const std::vector<Material>& palette);
    bool at(const glm::ivec3& c) const {
        if (c.x < 0 || c.y < 0 || c.z < 0 || c.x >= size_.x || c.y >= size_.y || c.z >= size_.z) return false;
        return words_[row(c.y, c.z) + static_cast<std::size_t>(c.x >> 6)] >> (c.x & 63) & 1;
    }
    void set(const glm::ivec3& c, bool solid);
    const glm::ivec3& size() const { return size_; }
    std::size_t bytes() const { return words_.size() * sizeof(std::uint64_t); }

private:
    std::size_t row(int y, int z) const {
        return (static_cast<std::size_t>(y) * static_cast<std::size_t>(size_.z) + static_cast<std::size_t>(z)) *
               static_cast<std::size_t>(words_a_row_);
    }
    glm::ivec3 size_{0};
    int words_a_row_ = 0;
    std::vector<std::uint64_t> words_;
};

/// What shapes cast light (`cast.reach` and the rest).
struct CastOptions {
    int reach = 12;     // cells along each ray
    int clamp = 4;      // solid cells from which on more count no more
    double shade = 0.8; // share that full shadow takes
    double power = 1.5; // exponent of the highlight
    double hue = 0.35;  // how far dark turns cool and bright turns warm
    int headings = 0;   // of props that are cast beforehand, the nearest taken; 0: each turn is cast as it comes
    bool operator==(const CastOptions&) const = default;
};

/// Solid cells that the rays of a cell's middle enter within `reach` cells' length, its own cell aside, clamped.
struct CastHits {
    std::uint8_t toward = 0; // toward the sun: what stands in its light
    std::uint8_t away = 0;   // away from it: what lies behind the lit side
    bool operator==(const CastHits&) const = default;
};
CastHits cast(const Bits& bits, const glm::ivec3& cell, const glm::dvec3& toSun, const CastOptions& options);

/// What the hits make of a cell's light. shadow: what is left, 1 to 1 - shade; highlight: 0 to 1, of cells that the sun
/// meets, by how much lies behind them; warm: -1 (cool) to 1.
struct CastLight {
    double shadow = 1, highlight = 0, warm = 0;
};
CastLight cast_light(const CastHits& hits, const CastOptions& options);

/// Hits of every cell that is seen from somewhere (solid, with a face to a cell that is not): by its chunk's place.
struct CastField {
    std::vector<std::shared_ptr<const std::array<CastHits, chunk_cells>>> chunks; // null: none is seen
    std::vector<std::uint32_t> seen;                                              // cells cast, by chunk
    std::size_t cells() const;                                                    // that were cast
    std::size_t bytes() const;
};
CastField cast_all(const Volume& cells, const Bits& bits, const glm::dvec3& toSun, const CastOptions& options);
/// The same once cells within a box (high: beyond the last) are others: what rays from there may meet is cast again.
CastField cast_again(const CastField& last, const Volume& cells, const Bits& bits, const glm::dvec3& toSun,
                     const CastOptions& options, const glm::ivec3& low, const glm::ivec3& high);

/// The nearest of evenly spaced headings, radians from 0 to under 2 pi.
double nearest_heading(double turn, int headings);

} // namespace mirolux::blocks
