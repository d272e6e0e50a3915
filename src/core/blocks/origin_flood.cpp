#include "core/blocks/origin_flood.h"
#include "core/blocks/grid_walk.h"
#include <algorithm>
#include <tuple>

namespace mirolux::blocks {

namespace {

bool before(const glm::ivec3& a, const glm::ivec3& b) {
    return std::tie(a.x, a.y, a.z) < std::tie(b.x, b.y, b.z);
}

glm::ivec3 offset(const std::int8_t (&o)[3]) {
    return {o[0], o[1], o[2]};
}

void put(std::int8_t (&o)[3], const glm::ivec3& v) {
    for (int a = 0; a < 3; ++a)
        o[a] = static_cast<std::int8_t>(v[a]);
}

int strength_of(const Material& m) {
    return std::clamp(std::max({m.light.x, m.light.y, m.light.z}), 0, most_light);
}

} // namespace

OriginFlood::OriginFlood(const Volume& still, const std::vector<Material>& palette, const FloodOptions& options)
    : cells_(still), palette_(palette), options_(options), chunks_(still.chunk_count()),
      seconds_(options.second ? still.chunk_count() : 0) {
    light(glm::ivec3(0), still.size());
}

Origin OriginFlood::in(const Chunks& chunks, const glm::ivec3& cell) const {
    if (chunks.empty() || !cells_.holds(cell)) return {};
    const auto& chunk = chunks[cells_.chunk_of(cell)];
    return chunk ? (*chunk)[place_in_chunk(cell.x, cell.y, cell.z)] : Origin{};
}

Origin OriginFlood::at(const glm::ivec3& cell) const {
    return in(chunks_, cell);
}

Origin OriginFlood::second_at(const glm::ivec3& cell) const {
    return in(seconds_, cell);
}

Origin& OriginFlood::entry(Chunks& chunks, const glm::ivec3& c) {
    std::shared_ptr<Cells>& chunk = chunks[cells_.chunk_of(c)];
    if (!chunk) chunk = std::make_shared<Cells>();
    return (*chunk)[place_in_chunk(c.x, c.y, c.z)];
}

void OriginFlood::clear(Chunks& chunks, const glm::ivec3& low, const glm::ivec3& high) {
    for (std::size_t i = 0; i < chunks.size(); ++i) {
        const glm::ivec3 corner = cells_.corner(i), from = glm::max(low, corner),
                         to = glm::min(high, corner + chunk_edge);
        if (!chunks[i] || from.x >= to.x || from.y >= to.y || from.z >= to.z) continue;
        for (int y = from.y; y < to.y; ++y)
            for (int z = from.z; z < to.z; ++z)
                for (int x = from.x; x < to.x; ++x)
                    (*chunks[i])[place_in_chunk(x, y, z)] = {};
    }
}

std::size_t OriginFlood::bytes() const {
    const auto of = [](const Chunks& chunks) {
        return static_cast<std::size_t>(
                   std::count_if(chunks.begin(), chunks.end(), [](const auto& c) { return c != nullptr; })) *
                   sizeof(Cells) +
               chunks.size() * sizeof(void*);
    };
    return of(chunks_) + of(seconds_);
}

bool OriginFlood::open(const glm::ivec3& c) const {
    const std::uint8_t m = cells_.at(c);
    return cells_.holds(c) && (m == 0 || !palette_[m].stops_light());
}

int OriginFlood::cost(const glm::ivec3& c) const {
    const std::uint8_t m = cells_.at(c);
    return options_.loss + (m == 0 ? 0 : std::clamp(palette_[m].loss, 0, most_light));
}

template <class F>
void OriginFlood::each_that_matters(const glm::ivec3& low, const glm::ivec3& high, const F& f) const {
    for (std::size_t i = 0; i < cells_.chunk_count(); ++i) {
        const glm::ivec3 corner = cells_.corner(i), from = glm::max(low, corner),
                         to = glm::min(high, corner + chunk_edge);
        if (from.x >= to.x || from.y >= to.y || from.z >= to.z) continue;
        const bool inner = glm::all(glm::greaterThan(from, low)) && glm::all(glm::lessThan(to, high));
        const std::uint8_t all = cells_.all_of(i);
        const bool shines = all < palette_.size() && palette_[all].shines();
        // Light enters a box at its border alone; but a world's border lets none in.
        const bool border = !inner && (low != glm::ivec3(0) || high != cells_.size());
        if (!border && !cells_.cells_of(i) && !shines && !chunks_[i]) continue;
        for (int y = from.y; y < to.y; ++y)
            for (int z = from.z; z < to.z; ++z)
                for (int x = from.x; x < to.x; ++x)
                    f(glm::ivec3(x, y, z));
    }
}

/// Lights the cells of a box anew (high: beyond the last). What lies around it is right and may shine into it.
void OriginFlood::light(const glm::ivec3& low, const glm::ivec3& high) {
    const auto inside = [&](const glm::ivec3& c) {
        return c.x >= low.x && c.y >= low.y && c.z >= low.z && c.x < high.x && c.y < high.y && c.z < high.z;
    };
    const auto is_open = [this](const glm::ivec3& c) { return open(c); };
    clear(chunks_, low, high);
    const auto length_of = [&](const glm::ivec3& cell) {
        double sum = 0;
        glm::ivec3 c = cell;
        for (Origin o = at(c); o.level > 0 && offset(o.via) != glm::ivec3(0); o = at(c)) {
            sum += glm::length(glm::dvec3(offset(o.via)));
            c += offset(o.via);
        }
        return sum;
    };
    std::vector<std::vector<glm::ivec3>> todo(most_light + 1);
    // Lamps within, and light at the border.
    each_that_matters(low, high, [&](const glm::ivec3& cell) {
        int best = 0;
        if (const std::uint8_t m = cells_.at(cell); m < palette_.size() && palette_[m].shines())
            best = strength_of(palette_[m]);
        if (cell.x == low.x || cell.y == low.y || cell.z == low.z || cell.x == high.x - 1 || cell.y == high.y - 1 ||
            cell.z == high.z - 1)
            for (const glm::ivec3& d : Neighbours::directions)
                if (!inside(cell + d) && open(cell)) best = std::max(best, int(at(cell + d).level) - cost(cell));
        if (best > 0) todo[static_cast<std::size_t>(best)].push_back(cell);
    });
    // From the strongest level down: what a cell may take its light from is settled before it.
    for (int level = most_light; level > 0; --level) {
        std::vector<glm::ivec3>& cells = todo[static_cast<std::size_t>(level)];
        for (std::size_t i = 0; i < cells.size(); ++i) {
            const glm::ivec3 cell = cells[i];
            if (at(cell).level > 0) continue; // stronger, or met twice
            Origin best;
            glm::ivec3 lamp(0), via(0);
            double length = 0;
            const std::uint8_t m = cells_.at(cell);
            if (m < palette_.size() && palette_[m].shines() && strength_of(palette_[m]) == level) {
                best.level = static_cast<std::uint8_t>(level);
                best.material = m;
                lamp = via = cell;
            }
            if (open(cell))
                for (const glm::ivec3& d : Neighbours::directions) {
                    const glm::ivec3 from = cell + d;
                    const Origin there = at(from);
                    if (int(there.level) - cost(cell) != level) continue;
                    const glm::ivec3 itsLamp = from + offset(there.lamp), itsVia = from + offset(there.via);
                    if (best.level > 0 && before(lamp, itsLamp)) continue;
                    const bool straight = sees(cell, itsVia, is_open);
                    const glm::ivec3 turn = straight ? itsVia : from;
                    const double way = length_of(turn) + glm::length(glm::dvec3(turn - cell));
                    if (best.level > 0 && lamp == itsLamp &&
                        (way > length + 1e-9 || (way > length - 1e-9 && !before(turn, via))))
                        continue;
                    best.level = static_cast<std::uint8_t>(level);
                    best.material = there.material;
                    lamp = itsLamp;
                    via = turn;
                    length = way;
                }
            if (best.level == 0) continue;
            put(best.lamp, lamp - cell);
            put(best.via, via - cell);
            entry(chunks_, cell) = best;
            for (const glm::ivec3& d : Neighbours::directions) {
                const glm::ivec3 to = cell + d;
                if (!inside(to) || !open(to)) continue;
                const int gets = level - cost(to);
                if (gets > 0 && at(to).level == 0) todo[static_cast<std::size_t>(gets)].push_back(to);
            }
        }
    }
    if (options_.second) light_second(low, high);
}

/// The strongest light of another lamp than each cell's first. It comes from a neighbour's first or second: were there
/// two stronger lamps at the neighbour, one of them would be no less in this cell.
void OriginFlood::light_second(const glm::ivec3& low, const glm::ivec3& high) {
    const auto is_open = [this](const glm::ivec3& c) { return open(c); };
    clear(seconds_, low, high);
    const auto own = [&](const glm::ivec3& c) {
        const std::uint8_t m = cells_.at(c);
        return m < palette_.size() && palette_[m].shines() ? strength_of(palette_[m]) : 0;
    };
    // What a cell may take from beside it, as it stands, of any lamp but `lamp`: f(from, entry, level).
    const auto offers = [&](const glm::ivec3& cell, const glm::ivec3& lamp, const auto& f) {
        if (!open(cell)) return;
        const int step = cost(cell);
        for (const glm::ivec3& d : Neighbours::directions) {
            const glm::ivec3 from = cell + d;
            for (const Chunks* chunks : {&chunks_, &seconds_}) {
                const Origin there = in(*chunks, from);
                if (int(there.level) > step && from + offset(there.lamp) != lamp)
                    f(from, there, int(there.level) - step);
            }
        }
    };
    std::vector<std::vector<glm::ivec3>> todo(most_light + 1);
    for (std::size_t i = 0; i < chunks_.size(); ++i) {
        const glm::ivec3 corner = cells_.corner(i), from = glm::max(low, corner),
                         to = glm::min(high, corner + chunk_edge);
        if (!chunks_[i]) continue; // without a first there is no second
        for (int y = from.y; y < to.y; ++y)
            for (int z = from.z; z < to.z; ++z)
                for (int x = from.x; x < to.x; ++x) {
                    const glm::ivec3 cell(x, y, z);
                    const Origin first = at(cell);
                    if (first.level == 0) continue;
                    const glm::ivec3 lamp = cell + offset(first.lamp);
                    int best = lamp == cell ? 0 : own(cell);
                    offers(cell, lamp,
                           [&](const glm::ivec3&, const Origin&, int level) { best = std::max(best, level); });
                    if (best > 0) todo[static_cast<std::size_t>(best)].push_back(cell);
                }
    }
    for (int level = most_light; level > 0; --level) {
        std::vector<glm::ivec3>& cells = todo[static_cast<std::size_t>(level)];
        for (std::size_t i = 0; i < cells.size(); ++i) {
            const glm::ivec3 cell = cells[i];
            if (second_at(cell).level > 0) continue;
            const glm::ivec3 first = cell + offset(at(cell).lamp);
            Origin best;
            glm::ivec3 lamp(0), via(0);
            if (first != cell && own(cell) == level) {
                best.level = static_cast<std::uint8_t>(level);
                best.material = cells_.at(cell);
                lamp = via = cell;
            }
            offers(cell, first, [&](const glm::ivec3& from, const Origin& there, int gets) {
                if (gets != level) return;
                const glm::ivec3 itsLamp = from + offset(there.lamp), itsVia = from + offset(there.via);
                if (best.level > 0 && before(lamp, itsLamp)) return;
                const glm::ivec3 turn = sees(cell, itsVia, is_open) ? itsVia : from;
                const auto apart = [&](const glm::ivec3& t) { return glm::length(glm::dvec3(t - itsLamp)); };
                if (best.level > 0 && lamp == itsLamp &&
                    (apart(turn) > apart(via) || (apart(turn) == apart(via) && !before(turn, via))))
                    return;
                best.level = static_cast<std::uint8_t>(level);
                best.material = there.material;
                lamp = itsLamp;
                via = turn;
            });
            if (best.level == 0) continue;
            put(best.lamp, lamp - cell);
            put(best.via, via - cell);
            entry(seconds_, cell) = best;
            for (const glm::ivec3& d : Neighbours::directions) {
                const glm::ivec3 to = cell + d;
                if (glm::any(glm::lessThan(to, low)) || glm::any(glm::greaterThanEqual(to, high)) || !open(to))
                    continue;
                const Origin there = at(to);
                const int gets = level - cost(to);
                if (gets > 0 && there.level > 0 && to + offset(there.lamp) != lamp && second_at(to).level == 0)
                    todo[static_cast<std::size_t>(gets)].push_back(to);
            }
        }
    }
}

std::vector<std::size_t> OriginFlood::change(const std::vector<Flood::Edit>& edits) {
    glm::ivec3 low(largest_edge), high(0);
    for (const Flood::Edit& e : edits) {
        if (!cells_.holds(e.cell) || cells_.at(e.cell) == e.material) continue;
        cells_.set(e.cell, e.material);
        low = glm::min(low, e.cell);
        high = glm::max(high, e.cell + 1);
    }
    if (low.x >= high.x) return {};
    const int reach = (most_light + options_.loss - 1) / options_.loss;
    low = glm::max(low - reach, glm::ivec3(0));
    high = glm::min(high + reach, cells_.size());
    std::vector<std::size_t> out;
    const glm::ivec3 first = low / chunk_edge, last = (high - 1) / chunk_edge;
    for (int y = first.y; y <= last.y; ++y)
        for (int z = first.z; z <= last.z; ++z)
            for (int x = first.x; x <= last.x; ++x)
                out.push_back(cells_.chunk_of(chunk_edge * glm::ivec3(x, y, z)));
    for (const std::size_t i : out) // copies of this value keep what they have
        for (Chunks* chunks : {&chunks_, &seconds_})
            if (i < chunks->size() && (*chunks)[i] && (*chunks)[i].use_count() > 1)
                (*chunks)[i] = std::make_shared<Cells>(*(*chunks)[i]);
    light(low, high);
    return out;
}

std::vector<glm::ivec3> OriginFlood::way_back(const glm::ivec3& cell) const {
    std::vector<glm::ivec3> out;
    if (at(cell).level == 0) return out;
    out.push_back(cell);
    for (Origin o = at(cell); offset(o.via) != glm::ivec3(0) && o.level > 0; o = at(out.back()))
        out.push_back(out.back() + offset(o.via));
    return out;
}

} // namespace mirolux::blocks
