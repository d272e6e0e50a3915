#pragma once
#include "core/blocks/levels.h"
#include <functional>

namespace mirolux::blocks {

/// Levels lost with each step (`flood.loss`).
struct FloodOptions {
    int loss = 2;        // 1 to 63
    bool second = false; // of origins: each cell keeps the strongest light of another lamp too (`flood.mix`)
    bool operator==(const FloodOptions&) const = default;
};

/// Light that floods from cell to cell, 0 to 63 in red, green, blue and, by itself, the sun's from above. In each cell
/// it is the largest over its six neighbours of (level - loss - the cell's material's loss), or what the cell itself
/// gives; none in cells that stop light, but for lamps' own. The sun's is 63 above the world; straight down, whole
/// light loses no step. Four bytes a cell where a chunk has any light of its own, none where it is all the same.
class Flood {
public:
    enum Channel { red, green, blue, sun, channels };

    Flood() = default;
    enum class Start { whole, seeds };
    /// Lights the whole world from nothing; seeds: no farther than lamps and open sky themselves, go_on() does the
    /// rest.
    Flood(const Volume& still, const std::vector<Material>& palette, const FloodOptions& options,
          Start start = Start::whole);

    std::uint8_t at(const glm::ivec3& cell, Channel channel) const {
        return cells_.holds(cell) ? levels_[channel].at(beside_->place(cell)) : 0;
    }
    const Levels& levels(Channel channel) const { return levels_[channel]; }
    const Volume& cells() const { return cells_; }
    const FloodOptions& options() const { return options_; }
    std::size_t bytes() const;

    struct Edit {
        glm::ivec3 cell{0};
        std::uint8_t material = 0;
    };
    /// Changes cells and the light that follows from it, and no more: what the change takes away by one queue, what
    /// comes back by another. Returns the chunks whose levels may be others. The same levels as a fresh flood's.
    std::vector<std::size_t> change(const std::vector<Edit>& edits);

    /// In steps: begin() changes cells, go_on() spreads light until `more` says no; true once all is done. Levels are
    /// right from then on, and too low before.
    void begin(const std::vector<Edit>& edits);
    bool go_on(const std::function<bool()>& more = {});
    bool under_way() const { return waiting() > 0; }
    /// Cells from which light, or its loss, is to go on.
    std::uint64_t waiting() const;
    /// Chunks whose levels changed since this was asked last.
    std::vector<std::size_t> take_changed();

    /// What a cell may get from one beside it.
    int offered(Channel channel, int level, int direction, std::uint8_t material) const;
    /// What a cell gives itself.
    int own(Channel channel, std::uint8_t material) const;

private:
    struct Queues {
        std::vector<std::vector<std::uint32_t>> spread;           // by level: places whose light is to go on
        std::vector<std::pair<std::uint32_t, std::uint8_t>> gone; // places that lost this level
        std::vector<std::uint32_t> dark;   // places that may get light again, once nothing goes any more
        std::vector<std::uint8_t> changed; // by chunk
    };
    void take_palette(const std::vector<Material>& palette);
    void sow();
    void flood_sun();
    std::uint8_t material(std::uint32_t place) const;
    void put(Channel channel, std::uint32_t place, std::uint8_t level);
    bool run(Channel channel, const std::function<bool()>& more);
    void ask_neighbours(Channel channel, std::uint32_t place);

    Volume cells_;
    FloodOptions options_;
    std::array<std::uint8_t, 256> passes_{};             // by material: whether light does
    std::array<std::uint8_t, 256> loss_{};               // by material
    std::array<std::array<std::uint8_t, 4>, 256> own_{}; // by material
    std::shared_ptr<const Neighbours> beside_;
    Levels levels_[channels];
    Queues queues_[channels];
};

/// The same levels by another way, cell by cell until nothing changes: slow, for tests and audits.
std::array<Levels, Flood::channels> flooded_plainly(const Volume& still, const std::vector<Material>& palette,
                                                    const FloodOptions& options);

} // namespace mirolux::blocks
