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

int strength(const Material& m) {
    return std::clamp(std::max({m.light.x, m.light.y, m.light.z}), 0, most_light);
}

} // namespace

OriginFlood::OriginFlood(const Volume& still, const std::vector<Material>& palette, const FloodOptions& options)
    : cells_(still), palette_(palette), options_(options), chunks_(still.chunk_count()) {
    light(glm::ivec3(0), still.size());
}

Origin OriginFlood::at(const glm::ivec3& cell) const {
    if (!cells_.holds(cell)) return {};
    const auto& chunk = chunks_[cells_.chunk_of(cell)];
    return chunk ? (*chunk)[place_in_chunk(cell.x, cell.y, cell.z)] : Origin{};
}

std::size_t OriginFlood::bytes() const {
    return static_cast<std::size_t>(
               std::count_if(chunks_.begin(), chunks_.end(), [](const auto& c) { return c != nullptr; })) *
               sizeof(Cells) +
           chunks_.size() * sizeof(void*);
}

/// Lights the cells of a box anew (high: beyond the last). What lies around it is right and may shine into it.
void OriginFlood::light(const glm::ivec3& low, const glm::ivec3& high) {
    struct Lit {
        glm::ivec3 cell;
        double length; // of the light's way
    };
    const Neighbours places(cells_);
    const auto inside = [&](const glm::ivec3& c) {
        return c.x >= low.x && c.y >= low.y && c.z >= low.z && c.x < high.x && c.y < high.y && c.z < high.z;
    };
    const auto open = [&](const glm::ivec3& c) {
        const std::uint8_t m = cells_.at(c);
        return cells_.holds(c) && (m == 0 || !palette_[m].stops_light());
    };
    const auto origin = [&](const glm::ivec3& c) -> Origin& {
        std::shared_ptr<Cells>& chunk = chunks_[cells_.chunk_of(c)];
        if (!chunk) chunk = std::make_shared<Cells>();
        return (*chunk)[place_in_chunk(c.x, c.y, c.z)];
    };
    for (int y = low.y; y < high.y; ++y)
        for (int z = low.z; z < high.z; ++z)
            for (int x = low.x; x < high.x; ++x)
                if (chunks_[cells_.chunk_of({x, y, z})]) origin({x, y, z}) = {};
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
    const auto cost = [&](const glm::ivec3& c) {
        const std::uint8_t m = cells_.at(c);
        return options_.loss + (m == 0 ? 0 : std::clamp(palette_[m].loss, 0, most_light));
    };
    // Lamps within, and light at the border.
    for (int y = low.y; y < high.y; ++y)
        for (int z = low.z; z < high.z; ++z)
            for (int x = low.x; x < high.x; ++x) {
                const glm::ivec3 cell(x, y, z);
                int best = 0;
                if (const std::uint8_t m = cells_.at(cell); m < palette_.size() && palette_[m].shines())
                    best = strength(palette_[m]);
                if (x == low.x || y == low.y || z == low.z || x == high.x - 1 || y == high.y - 1 || z == high.z - 1)
                    for (const glm::ivec3& d : Neighbours::directions)
                        if (!inside(cell + d) && open(cell))
                            best = std::max(best, int(at(cell + d).level) - cost(cell));
                if (best > 0) todo[static_cast<std::size_t>(best)].push_back(cell);
            }
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
            if (m < palette_.size() && palette_[m].shines() && strength(palette_[m]) == level) {
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
                    const bool straight = sees(cell, itsVia, open);
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
            origin(cell) = best;
            for (const glm::ivec3& d : Neighbours::directions) {
                const glm::ivec3 to = cell + d;
                if (!inside(to) || !open(to)) continue;
                const int gets = level - cost(to);
                if (gets > 0 && at(to).level == 0) todo[static_cast<std::size_t>(gets)].push_back(to);
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
        if (chunks_[i] && chunks_[i].use_count() > 1) chunks_[i] = std::make_shared<Cells>(*chunks_[i]);
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
