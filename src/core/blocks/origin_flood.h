#pragma once
#include "core/blocks/flood.h"

namespace mirolux::blocks {

/// Where a cell's light came from.
struct Origin {
    std::int8_t lamp[3] = {};  // cells from here to the lamp
    std::int8_t via[3] = {};   // and to the last cell on the light's way that this one sees in a straight line
    std::uint8_t level = 0;    // 0 to 63; 0: no light comes
    std::uint8_t material = 0; // the lamp's

    bool operator==(const Origin&) const = default;
};
static_assert(sizeof(Origin) == 8);

/// One light for each cell, the strongest, with the way that it came: levels as Flood's, of each lamp's strongest
/// channel; where two lamps are as strong, that of least (x, y, z). Of the ways from that lamp the one of least length,
/// measured straight from turn to turn; of those the one whose last turn is of least (x, y, z). In a cell that sees its
/// lamp the last cell on the way is the lamp itself. Eight bytes a cell in chunks that have light; with
/// FloodOptions::second eight more, for the strongest light of any other lamp than that.
class OriginFlood {
public:
    using Cells = std::array<Origin, chunk_cells>;

    OriginFlood() = default;
    OriginFlood(const Volume& still, const std::vector<Material>& palette, const FloodOptions& options);

    Origin at(const glm::ivec3& cell) const;
    /// Of another lamp than at(); its turn is seen from the cell too.
    Origin second_at(const glm::ivec3& cell) const;
    bool keeps_second() const { return options_.second; }
    const Cells* seconds_of(std::size_t chunk) const { return seconds_.empty() ? nullptr : seconds_[chunk].get(); }
    const Cells* cells_of(std::size_t chunk) const { return chunks_[chunk].get(); }
    std::size_t chunk_count() const { return chunks_.size(); }
    std::size_t bytes() const;
    const Volume& cells() const { return cells_; }

    /// Changes cells; what lies within a lamp's reach of them is lit anew. Returns the chunks that may be others.
    std::vector<std::size_t> change(const std::vector<Flood::Edit>& edits);

    /// The light's way from a cell back to its lamp, the cell first: the turns alone.
    std::vector<glm::ivec3> way_back(const glm::ivec3& cell) const;

private:
    using Chunks = std::vector<std::shared_ptr<Cells>>; // null: no light
    void light(const glm::ivec3& low, const glm::ivec3& high);
    void light_second(const glm::ivec3& low, const glm::ivec3& high);
    Origin in(const Chunks& chunks, const glm::ivec3& cell) const;
    Origin& entry(Chunks& chunks, const glm::ivec3& cell);
    void clear(Chunks& chunks, const glm::ivec3& low, const glm::ivec3& high);
    bool open(const glm::ivec3& cell) const;
    int cost(const glm::ivec3& cell) const; // levels, of a step into it
    /// Cells of a box, but for those of chunks that are even and in which, or beside which, nothing shines.
    template <class F>
    void each_that_matters(const glm::ivec3& low, const glm::ivec3& high, const F& f) const;
    Volume cells_;
    std::vector<Material> palette_;
    FloodOptions options_;
    Chunks chunks_, seconds_; // seconds_: none where they are not kept
};

} // namespace mirolux::blocks
