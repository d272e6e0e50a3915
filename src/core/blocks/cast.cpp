#include "core/blocks/cast.h"
#include "core/base/parallel.h"
#include "core/blocks/grid_walk.h"
#include "core/blocks/levels.h"
#include <algorithm>
#include <numeric>

namespace mirolux::blocks {

Bits::Bits(const Volume& cells, const std::vector<Material>& palette)
    : size_(cells.size()), words_a_row_((cells.size().x + 63) / 64),
      words_(static_cast<std::size_t>(words_a_row_) * static_cast<std::size_t>(size_.y) *
             static_cast<std::size_t>(size_.z)) {
    std::array<bool, 256> solid{};
    for (std::size_t i = 1; i < palette.size(); ++i)
        solid[i] = palette[i].stops_light();
    parallel_for(0, cells.chunks().y, [&](int cy) { // chunks of one layer share no row with others
        for (std::size_t chunk = 0; chunk < cells.chunk_count(); ++chunk) {
            const glm::ivec3 low = cells.corner(chunk), high = glm::min(low + chunk_edge, size_);
            const Volume::Cells* own = cells.cells_of(chunk);
            if (low.y != cy * chunk_edge || (!own && !solid[cells.all_of(chunk)])) continue;
            for (int y = low.y; y < high.y; ++y)
                for (int z = low.z; z < high.z; ++z)
                    for (int x = low.x; x < high.x; ++x)
                        if (!own || solid[(*own)[place_in_chunk(x, y, z)]])
                            words_[row(y, z) + static_cast<std::size_t>(x >> 6)] |= std::uint64_t(1) << (x & 63);
        }
    });
}

void Bits::set(const glm::ivec3& c, bool solid) {
    std::uint64_t& word = words_[row(c.y, c.z) + static_cast<std::size_t>(c.x >> 6)];
    const std::uint64_t bit = std::uint64_t(1) << (c.x & 63);
    word = solid ? word | bit : word & ~bit;
}

static std::uint8_t hits_along(const Bits& bits, const glm::ivec3& cell, const glm::dvec3& direction,
                               const CastOptions& o) {
    int hits = 0;
    walk_grid(glm::dvec3(cell) + 0.5, direction, o.reach, [&](const glm::ivec3& c, double, int) {
        hits += bits.at(c);
        return hits < o.clamp;
    });
    return static_cast<std::uint8_t>(hits);
}

CastHits cast(const Bits& bits, const glm::ivec3& cell, const glm::dvec3& toSun, const CastOptions& options) {
    return {hits_along(bits, cell, toSun, options), hits_along(bits, cell, -toSun, options)};
}

CastLight cast_light(const CastHits& hits, const CastOptions& o) {
    const double most = std::max(o.clamp, 1), dark = std::min(hits.toward / most, 1.0),
                 behind = std::min(hits.away / most, 1.0);
    CastLight out;
    out.shadow = 1 - o.shade * dark;
    out.highlight = std::pow((1 - dark) * behind, o.power);
    out.warm = o.hue * ((1 - dark) * behind - dark);
    return out;
}

std::size_t CastField::bytes() const {
    return static_cast<std::size_t>(
               std::count_if(chunks.begin(), chunks.end(), [](const auto& c) { return c != nullptr; })) *
               sizeof(std::array<CastHits, chunk_cells>) +
           chunks.size() * sizeof(void*);
}

std::size_t CastField::cells() const {
    return std::accumulate(seen.begin(), seen.end(), std::size_t(0));
}

namespace {

void cast_chunk(CastField& out, std::size_t chunk, const Volume& cells, const Bits& bits, const glm::dvec3& toSun,
                const CastOptions& options) {
    out.chunks[chunk].reset();
    out.seen[chunk] = 0;
    if (!cells.cells_of(chunk) && cells.all_of(chunk) == 0) return;
    const glm::ivec3 low = cells.corner(chunk), high = glm::min(low + chunk_edge, cells.size());
    std::shared_ptr<std::array<CastHits, chunk_cells>> own;
    for (int y = low.y; y < high.y; ++y)
        for (int z = low.z; z < high.z; ++z)
            for (int x = low.x; x < high.x; ++x) {
                const glm::ivec3 c(x, y, z);
                if (!bits.at(c) || std::all_of(std::begin(Neighbours::directions), std::end(Neighbours::directions),
                                               [&](const glm::ivec3& d) { return bits.at(c + d); }))
                    continue;
                if (!own) own = std::make_shared<std::array<CastHits, chunk_cells>>();
                (*own)[place_in_chunk(x, y, z)] = cast(bits, c, toSun, options);
                ++out.seen[chunk];
            }
    out.chunks[chunk] = std::move(own);
}

} // namespace

CastField cast_all(const Volume& cells, const Bits& bits, const glm::dvec3& toSun, const CastOptions& options) {
    CastField out;
    out.chunks.resize(cells.chunk_count());
    out.seen.resize(cells.chunk_count());
    parallel_for(0, static_cast<int>(cells.chunk_count()),
                 [&](int i) { cast_chunk(out, static_cast<std::size_t>(i), cells, bits, toSun, options); });
    return out;
}

CastField cast_again(const CastField& last, const Volume& cells, const Bits& bits, const glm::dvec3& toSun,
                     const CastOptions& options, const glm::ivec3& low, const glm::ivec3& high) {
    CastField out = last;
    const glm::ivec3 from = low - options.reach - 2, to = high + options.reach + 2; // neighbours are seen, or no more
    parallel_for(0, static_cast<int>(cells.chunk_count()), [&](int i) {
        const glm::ivec3 corner = cells.corner(static_cast<std::size_t>(i));
        if (glm::all(glm::lessThan(corner, to)) && glm::all(glm::greaterThan(corner + chunk_edge, from)))
            cast_chunk(out, static_cast<std::size_t>(i), cells, bits, toSun, options);
    });
    return out;
}

double nearest_heading(double turn, int headings) {
    const double step = 2 * 3.14159265358979323846 / headings;
    const auto k = static_cast<long>(std::lround(turn / step)) % headings;
    return static_cast<double>(k < 0 ? k + headings : k) * step;
}

} // namespace mirolux::blocks
