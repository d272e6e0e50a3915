#include "core/shadow/shadow_atlas.h"
#include <algorithm>
#include <bit>
#include <cmath>
#include <cstdint>

namespace mirolux {

namespace {

/// Every second bit of a Morton number.
std::uint32_t even_bits(std::uint64_t m) {
    std::uint32_t out = 0;
    for (int i = 0; i < 32; ++i)
        out |= static_cast<std::uint32_t>(m >> (2 * i) & 1u) << i;
    return out;
}

int power_of_two(double texels, int least, int most) {
    const int bits = static_cast<int>(std::lround(std::log2(std::max(texels, 1.0))));
    return std::clamp(1 << std::clamp(bits, 0, 20), least, most);
}

std::uint64_t area(const MapWish& w) {
    return static_cast<std::uint64_t>(w.size) * static_cast<std::uint64_t>(w.size) *
           static_cast<std::uint64_t>(w.faces);
}

} // namespace

ShadowAtlas shadow_atlas(std::vector<MapWish> wishes, const AtlasChoices& c) {
    ShadowAtlas out;
    out.size = static_cast<int>(std::bit_floor(static_cast<unsigned>(std::max(c.size, 1))));
    const int high =
        c.half ? std::max(1, out.size / 2) : out.size; // the first half of a Morton curve is the lower half
    const int most = std::min(static_cast<int>(std::bit_floor(static_cast<unsigned>(std::max(c.most, 1)))), high),
              least = std::min(static_cast<int>(std::bit_ceil(static_cast<unsigned>(std::max(c.least, 1)))), most);
    std::stable_sort(wishes.begin(), wishes.end(),
                     [](const MapWish& a, const MapWish& b) { return a.importance > b.importance; });
    while (static_cast<int>(wishes.size()) > std::max(c.casters, 0)) {
        out.refused.push_back({wishes.back().light, NoMap::casters});
        wishes.pop_back();
    }
    double first = 1e-300; // of those that importance gives a size
    for (const MapWish& w : wishes)
        if (w.size <= 0) first = std::max(first, w.importance);
    for (MapWish& w : wishes)
        w.size = w.size > 0 ? power_of_two(w.size, 1, high)
                            : power_of_two(most * std::sqrt(std::max(0.0, w.importance) / first), least, most);
    const std::uint64_t room = static_cast<std::uint64_t>(out.size) * static_cast<std::uint64_t>(high);
    const auto all = [&] {
        std::uint64_t sum = 0;
        for (const MapWish& w : wishes)
            sum += area(w);
        return sum;
    };
    while (all() > room) {
        // The least important of the largest ones gives way; when all are at the least, the least important goes.
        auto halved = wishes.end();
        for (auto it = wishes.begin(); it != wishes.end(); ++it)
            if (it->size > least && (halved == wishes.end() || it->size >= halved->size)) halved = it;
        if (halved != wishes.end())
            halved->size /= 2;
        else {
            out.refused.push_back({wishes.back().light, NoMap::budget});
            wishes.pop_back();
        }
    }
    std::vector<std::size_t> order(wishes.size());
    for (std::size_t i = 0; i < order.size(); ++i)
        order[i] = i;
    std::stable_sort(order.begin(), order.end(),
                     [&](std::size_t a, std::size_t b) { return wishes[a].size > wishes[b].size; });
    std::vector<std::uint64_t> start(wishes.size(), 0);
    std::uint64_t at = 0;
    for (const std::size_t i : order) {
        start[i] = at;
        at += area(wishes[i]);
    }
    for (std::size_t i = 0; i < wishes.size(); ++i)
        for (int face = 0; face < wishes[i].faces; ++face) {
            const int size = wishes[i].size;
            const std::uint64_t m = start[i] + static_cast<std::uint64_t>(face) * static_cast<std::uint64_t>(size) *
                                                   static_cast<std::uint64_t>(size);
            out.places.push_back(
                {wishes[i].light, face, static_cast<int>(even_bits(m)), static_cast<int>(even_bits(m >> 1)), size});
        }
    return out;
}

} // namespace mirolux
