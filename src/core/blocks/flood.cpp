#include "core/blocks/flood.h"
#include "core/base/parallel.h"
#include <algorithm>
#include <atomic>

namespace mirolux::blocks {

Flood::Flood(const Volume& still, const std::vector<Material>& palette, const FloodOptions& options, Start start)
    : cells_(still), options_(options), beside_(std::make_shared<const Neighbours>(still)) {
    take_palette(palette);
    sow();
    if (start == Start::seeds) return;
    go_on();
    for (Queues& q : queues_)
        std::fill(q.changed.begin(), q.changed.end(), 0);
}

void Flood::take_palette(const std::vector<Material>& palette) {
    for (std::size_t i = 0; i < 256; ++i) {
        const Material air{"air", glm::vec3(0.0f), 1, 0, 0, glm::ivec3(0), 0, 0};
        const Material& m = i < palette.size() ? palette[i] : air;
        passes_[i] = i == 0 || !m.stops_light();
        loss_[i] = static_cast<std::uint8_t>(i == 0 ? 0 : std::clamp(m.loss, 0, most_light));
        for (int c = 0; c < 3; ++c)
            own_[i][static_cast<std::size_t>(c)] = static_cast<std::uint8_t>(std::clamp(m.light[c], 0, most_light));
    }
}

std::uint8_t Flood::material(std::uint32_t place) const {
    const std::size_t chunk = place / chunk_cells;
    const Volume::Cells* c = cells_.cells_of(chunk);
    return c ? (*c)[place % chunk_cells] : cells_.all_of(chunk);
}

int Flood::own(Channel channel, std::uint8_t material) const {
    return channel == sun ? 0 : own_[material][static_cast<std::size_t>(channel)];
}

int Flood::offered(Channel channel, int level, int direction, std::uint8_t material) const {
    if (!passes_[material]) return 0;
    const bool straight = channel == sun && direction == Neighbours::down && level == most_light;
    return std::max(0, level - (straight ? 0 : options_.loss) - loss_[material]);
}

void Flood::put(Channel channel, std::uint32_t place, std::uint8_t level) {
    levels_[channel].set(place, level);
    queues_[channel].changed[place / chunk_cells] = 1;
}

/// What the cell gets from those beside it, or from above the world, or gives itself: to be spread from there.
void Flood::ask_neighbours(Channel channel, std::uint32_t place) {
    const std::uint8_t m = material(place);
    int best = own(channel, m);
    for (int d = 0; d < Neighbours::count; ++d) {
        const std::uint32_t n = beside_->beside(place, d ^ 1); // the light goes along d
        const int level = n != Neighbours::none                     ? levels_[channel].at(n)
                          : channel == sun && d == Neighbours::down ? most_light
                                                                    : 0;
        best = std::max(best, offered(channel, level, d, m));
    }
    if (best <= levels_[channel].at(place)) return;
    put(channel, place, static_cast<std::uint8_t>(best));
    queues_[channel].spread[static_cast<std::size_t>(best)].push_back(place);
}

bool Flood::run(Channel channel, const std::function<bool()>& more) {
    Queues& q = queues_[channel];
    Levels& levels = levels_[channel];
    constexpr std::size_t often = 4096;
    std::size_t done = 0;
    const auto tired = [&] { return more && ++done % often == 0 && !more(); };
    // What has lost its light takes it from all that may have it from there; what has it from elsewhere spreads anew.
    while (!q.gone.empty()) {
        const auto [place, level] = q.gone.back();
        q.gone.pop_back();
        for (int d = 0; d < Neighbours::count; ++d) {
            const std::uint32_t n = beside_->beside(place, d);
            if (n == Neighbours::none) continue;
            const std::uint8_t has = levels.at(n);
            if (has == 0) continue;
            if (has <= offered(channel, level, d, material(n)) && own(channel, material(n)) < has) {
                put(channel, n, 0);
                q.gone.emplace_back(n, has);
                q.dark.push_back(n);
            } else
                q.spread[has].push_back(n);
        }
        if (tired()) return false;
    }
    // Only then is what is left right to be asked.
    while (!q.dark.empty()) {
        const std::uint32_t place = q.dark.back();
        q.dark.pop_back();
        ask_neighbours(channel, place);
        if (tired()) return false;
    }
    for (std::size_t level = most_light; level > 0; --level) {
        std::vector<std::uint32_t>& places = q.spread[level];
        while (!places.empty()) {
            const std::uint32_t place = places.back();
            places.pop_back();
            if (levels.at(place) != level) continue; // it has more by now, or lost it
            for (int d = 0; d < Neighbours::count; ++d) {
                const std::uint32_t n = beside_->beside(place, d);
                if (n == Neighbours::none) continue;
                const int gets = offered(channel, static_cast<int>(level), d, material(n));
                if (gets <= levels.at(n)) continue;
                put(channel, n, static_cast<std::uint8_t>(gets));
                q.spread[static_cast<std::size_t>(gets)].push_back(n);
            }
            if (tired()) return false;
        }
    }
    return true;
}

std::uint64_t Flood::waiting() const {
    std::uint64_t sum = 0;
    for (const Queues& q : queues_) {
        sum += q.gone.size() + q.dark.size();
        for (const auto& places : q.spread)
            sum += places.size();
    }
    return sum;
}

bool Flood::go_on(const std::function<bool()>& more) {
    std::atomic<bool> whole = true;
    parallel_for(0, int(channels), [&](int c) {
        if (!run(static_cast<Channel>(c), more)) whole = false;
    });
    return whole;
}

void Flood::begin(const std::vector<Edit>& edits) {
    for (const Edit& e : edits) {
        if (!cells_.holds(e.cell) || cells_.at(e.cell) == e.material) continue;
        const std::uint32_t place = beside_->place(e.cell);
        cells_.set(e.cell, e.material);
        queues_[0].changed[place / chunk_cells] = 1; // whether it stops light, too
        for (int c = 0; c < channels; ++c) {
            const auto channel = static_cast<Channel>(c);
            const std::uint8_t had = levels_[c].at(place);
            if (had > 0) {
                put(channel, place, 0);
                queues_[c].gone.emplace_back(place, had);
            }
            queues_[c].dark.push_back(place);
        }
    }
}

std::vector<std::size_t> Flood::take_changed() {
    std::vector<std::size_t> out;
    for (std::size_t i = 0; i < cells_.chunk_count(); ++i) {
        bool any = false;
        for (Queues& q : queues_) {
            any = any || q.changed[i];
            q.changed[i] = 0;
        }
        if (any) out.push_back(i);
    }
    return out;
}

std::vector<std::size_t> Flood::change(const std::vector<Edit>& edits) {
    begin(edits);
    go_on();
    return take_changed();
}

/// Columns of open sky at once: what lies over their lowest lit cell is 63; only what borders on lower columns spreads.
void Flood::flood_sun() {
    const glm::ivec3 size = cells_.size(), chunks = cells_.chunks();
    std::vector<int> lowest(static_cast<std::size_t>(size.x) * static_cast<std::size_t>(size.z), size.y);
    const auto column = [&](int x, int z) -> int& {
        return lowest[static_cast<std::size_t>(x) + static_cast<std::size_t>(z) * static_cast<std::size_t>(size.x)];
    };
    const auto clear = [&](std::uint8_t m) { return passes_[m] && loss_[m] == 0; };
    for (int cy = chunks.y - 1; cy >= 0; --cy)
        for (int cz = 0; cz < chunks.z; ++cz)
            for (int cx = 0; cx < chunks.x; ++cx) {
                const glm::ivec3 low = chunk_edge * glm::ivec3(cx, cy, cz), high = glm::min(low + chunk_edge, size);
                const std::size_t chunk = cells_.chunk_of(low);
                const Volume::Cells* own = cells_.cells_of(chunk);
                for (int z = low.z; z < high.z; ++z)
                    for (int x = low.x; x < high.x; ++x) {
                        int& at = column(x, z);
                        if (at != high.y) continue; // closed farther up
                        if (!own) {
                            if (clear(cells_.all_of(chunk))) at = low.y;
                            continue;
                        }
                        while (at > low.y && clear((*own)[place_in_chunk(x, at - 1, z)]))
                            --at;
                    }
            }
    Levels& levels = levels_[sun];
    for (std::size_t chunk = 0; chunk < cells_.chunk_count(); ++chunk) {
        const glm::ivec3 low = cells_.corner(chunk), high = glm::min(low + chunk_edge, size);
        int most = 0, least = size.y;
        for (int z = low.z; z < high.z; ++z)
            for (int x = low.x; x < high.x; ++x) {
                most = std::max(most, column(x, z));
                least = std::min(least, column(x, z));
            }
        if (least >= high.y) continue;
        if (most <= low.y) {
            levels.set_all(chunk, most_light);
            continue;
        }
        for (int z = low.z; z < high.z; ++z)
            for (int x = low.x; x < high.x; ++x)
                for (int y = std::max(low.y, column(x, z)); y < high.y; ++y)
                    levels.set(beside_->place({x, y, z}), most_light);
    }
    std::vector<std::uint32_t>& spread = queues_[sun].spread[most_light];
    for (int z = 0; z < size.z; ++z)
        for (int x = 0; x < size.x; ++x) {
            const int from = column(x, z);
            int to = from < size.y ? from + 1 : from;
            for (const glm::ivec2 d : {glm::ivec2(1, 0), {-1, 0}, {0, 1}, {0, -1}})
                if (x + d.x >= 0 && z + d.y >= 0 && x + d.x < size.x && z + d.y < size.z)
                    to = std::max(to, column(x + d.x, z + d.y));
            for (int y = from; y < to; ++y)
                spread.push_back(beside_->place({x, y, z}));
            // Where the world's top itself is not clear, light enters with what is left.
            if (from == size.y) ask_neighbours(sun, beside_->place({x, size.y - 1, z}));
        }
}

void Flood::sow() {
    for (int c = 0; c < channels; ++c) {
        levels_[c] = Levels(cells_.chunks());
        queues_[c].spread.resize(most_light + 1);
        queues_[c].changed.assign(cells_.chunk_count(), 0);
    }
    std::array<bool, 256> lamp{};
    for (std::size_t m = 0; m < 256; ++m)
        lamp[m] = own_[m][0] > 0 || own_[m][1] > 0 || own_[m][2] > 0;
    const auto enter = [&](std::uint32_t place, std::uint8_t m) {
        for (int c = 0; c < 3; ++c)
            if (const std::uint8_t level = own_[m][static_cast<std::size_t>(c)]; level > 0) {
                levels_[c].set(place, level);
                queues_[c].spread[level].push_back(place);
            }
    };
    for (std::size_t chunk = 0; chunk < cells_.chunk_count(); ++chunk) {
        const Volume::Cells* own = cells_.cells_of(chunk);
        const auto first = static_cast<std::uint32_t>(chunk * chunk_cells);
        const glm::ivec3 low = cells_.corner(chunk);
        if (!own && !lamp[cells_.all_of(chunk)]) continue;
        for (std::uint32_t i = 0; i < chunk_cells; ++i) {
            const std::uint8_t m = own ? (*own)[i] : cells_.all_of(chunk);
            if (lamp[m] && cells_.holds(low + glm::ivec3(i & 31, i >> 10, i >> 5 & 31))) enter(first + i, m);
        }
    }
    flood_sun();
}

std::size_t Flood::bytes() const {
    std::size_t sum = 0;
    for (const Levels& l : levels_)
        sum += l.bytes();
    return sum;
}

std::array<Levels, Flood::channels> flooded_plainly(const Volume& still, const std::vector<Material>& palette,
                                                    const FloodOptions& options) {
    std::array<Levels, Flood::channels> out;
    const Neighbours places(still);
    const glm::ivec3 size = still.size();
    const auto of = [&](std::uint8_t m) { return m < palette.size() ? palette[m] : palette[0]; };
    for (int c = 0; c < Flood::channels; ++c) {
        out[static_cast<std::size_t>(c)] = Levels(still.chunks());
        Levels& levels = out[static_cast<std::size_t>(c)];
        for (bool changed = true; changed;) {
            changed = false;
            for (int y = size.y - 1; y >= 0; --y)
                for (int z = 0; z < size.z; ++z)
                    for (int x = 0; x < size.x; ++x) {
                        const glm::ivec3 cell(x, y, z);
                        const std::uint8_t m = still.at(cell);
                        const Material material = of(m);
                        int best = c < 3 ? std::clamp(material.light[c], 0, most_light) : 0;
                        if (m == 0 || !material.stops_light())
                            for (const glm::ivec3& d : Neighbours::directions) {
                                const glm::ivec3 from = cell - d;
                                const int level = still.holds(from)            ? levels.at(places.place(from))
                                                  : c == Flood::sun && d.y < 0 ? most_light
                                                                               : 0;
                                const bool whole = c == Flood::sun && d.y < 0 && level == most_light;
                                best = std::max(best, level - (whole ? 0 : options.loss) -
                                                          (m == 0 ? 0 : std::clamp(material.loss, 0, most_light)));
                            }
                        if (best == levels.at(places.place(cell))) continue;
                        levels.set(places.place(cell), static_cast<std::uint8_t>(best));
                        changed = true;
                    }
        }
    }
    return out;
}

} // namespace mirolux::blocks
