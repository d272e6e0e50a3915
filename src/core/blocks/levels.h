#pragma once
#include "core/blocks/volume.h"

namespace mirolux::blocks {

/// A number from 0 to 63 for each cell of a volume, in its chunks; a chunk without numbers of its own has one for all.
class Levels {
public:
    using Cells = std::array<std::uint8_t, chunk_cells>;

    Levels() = default;
    explicit Levels(const glm::ivec3& chunks)
        : chunks_(chunks), cells_(static_cast<std::size_t>(chunks.x) * static_cast<std::size_t>(chunks.y) *
                                  static_cast<std::size_t>(chunks.z)),
          all_(cells_.size(), 0) {}
    Levels(const Levels& other) { *this = other; }
    Levels& operator=(const Levels& other);
    Levels(Levels&&) = default;
    Levels& operator=(Levels&&) = default;

    /// place: a chunk's number times chunk_cells, plus the cell's place in it.
    std::uint8_t at(std::uint32_t place) const {
        const Cells* c = cells_[place / chunk_cells].get();
        return c ? (*c)[place % chunk_cells] : all_[place / chunk_cells];
    }
    void set(std::uint32_t place, std::uint8_t level) {
        std::unique_ptr<Cells>& c = cells_[place / chunk_cells];
        if (!c) {
            if (all_[place / chunk_cells] == level) return;
            c = std::make_unique<Cells>();
            c->fill(all_[place / chunk_cells]);
        }
        (*c)[place % chunk_cells] = level;
    }
    void set_all(std::size_t chunk, std::uint8_t level) {
        cells_[chunk].reset();
        all_[chunk] = level;
    }
    const Cells* cells_of(std::size_t chunk) const { return cells_[chunk].get(); }
    std::uint8_t all_of(std::size_t chunk) const { return all_[chunk]; }
    std::size_t chunk_count() const { return cells_.size(); }
    std::size_t bytes() const;

private:
    glm::ivec3 chunks_{0};
    std::vector<std::unique_ptr<Cells>> cells_;
    std::vector<std::uint8_t> all_;
};

/// Steps from cell to cell of a volume by places (Levels::at).
class Neighbours {
public:
    explicit Neighbours(const Volume& volume);
    static constexpr int count = 6;
    static constexpr int down = 3; // of the directions
    static constexpr glm::ivec3 directions[count] = {{1, 0, 0},  {-1, 0, 0}, {0, 1, 0},
                                                     {0, -1, 0}, {0, 0, 1},  {0, 0, -1}};
    static constexpr std::uint32_t none = 0xFFFFFFFF;

    std::uint32_t place(const glm::ivec3& cell) const {
        return static_cast<std::uint32_t>(((cell.x >> 5) + chunks_.x * ((cell.z >> 5) + chunks_.z * (cell.y >> 5))) *
                                              static_cast<int>(chunk_cells) +
                                          static_cast<int>(place_in_chunk(cell.x, cell.y, cell.z)));
    }
    glm::ivec3 cell(std::uint32_t place) const;
    /// The cell beside it; none beyond the volume.
    std::uint32_t beside(std::uint32_t place, int direction) const {
        const std::uint32_t x = place & 31, z = place >> 5 & 31, y = place >> 10 & 31;
        switch (direction) {
        case 0:
            return x < 31 ? inside(place + 1) : across(place - 31, place, 0);
        case 1:
            return x > 0 ? place - 1 : across(place + 31, place, 1);
        case 2:
            return y < 31 ? inside(place + 1024) : across(place - 31 * 1024, place, 2);
        case 3:
            return y > 0 ? place - 1024 : across(place + 31 * 1024, place, 3);
        case 4:
            return z < 31 ? inside(place + 32) : across(place - 31 * 32, place, 4);
        default:
            return z > 0 ? place - 32 : across(place + 31 * 32, place, 5);
        }
    }

private:
    /// In the same chunk, which may reach beyond the volume.
    std::uint32_t inside(std::uint32_t to) const {
        if (whole_) return to;
        const glm::ivec3 c = cell(to);
        return c.x < size_.x && c.y < size_.y && c.z < size_.z ? to : none;
    }
    std::uint32_t across(std::uint32_t wrapped, std::uint32_t from, int direction) const;
    glm::ivec3 size_, chunks_;
    bool whole_; // the volume fills its chunks
};

} // namespace mirolux::blocks
