#include "core/blocks/colors.h"
#include "core/image/image.h"
#include <algorithm>
#include <map>
#include <numeric>

namespace mirolux::blocks {

namespace {

/// A colour as it is coded, with how many samples have it.
struct Coded {
    glm::ivec3 code{0};
    std::size_t count = 0;
};

struct Group {
    std::vector<Coded> colors;
    int widest = 0; // axis
    double width = 0;

    explicit Group(std::vector<Coded> all) : colors(std::move(all)) {
        glm::ivec3 low(255), high(0);
        std::size_t count = 0;
        for (const Coded& c : colors) {
            low = glm::min(low, c.code);
            high = glm::max(high, c.code);
            count += c.count;
        }
        for (int a = 1; a < 3; ++a)
            if (high[a] - low[a] > high[widest] - low[widest]) widest = a;
        // Where many cells are, steps are seen sooner.
        width = double(high[widest] - low[widest]) * std::pow(double(count), 0.25);
        if (high[widest] == low[widest]) width = 0;
    }
};

} // namespace

std::vector<int> alike_colors(const std::vector<ColorSample>& samples, int most) {
    using Key = std::tuple<int, int, int, int>; // kind, red, green, blue
    const auto key_of = [](const ColorSample& s) {
        const auto code = [](float v) {
            return static_cast<int>(std::lround(255 * srgb_encode(std::clamp(double(v), 0.0, 1.0))));
        };
        return Key(s.kind, code(s.color.x), code(s.color.y), code(s.color.z));
    };
    std::map<Key, std::size_t> counts;
    for (const ColorSample& s : samples)
        ++counts[key_of(s)];
    std::vector<std::pair<int, Group>> groups; // with their kind
    for (auto at = counts.begin(); at != counts.end();) {
        const int kind = std::get<0>(at->first);
        std::vector<Coded> colors;
        for (; at != counts.end() && std::get<0>(at->first) == kind; ++at)
            colors.push_back({{std::get<1>(at->first), std::get<2>(at->first), std::get<3>(at->first)}, at->second});
        groups.emplace_back(kind, Group(std::move(colors)));
    }
    while (static_cast<int>(groups.size()) < most) {
        const auto widest = std::max_element(
            groups.begin(), groups.end(), [](const auto& a, const auto& b) { return a.second.width < b.second.width; });
        if (widest == groups.end() || widest->second.width <= 0) break;
        std::vector<Coded> colors = std::move(widest->second.colors);
        const int axis = widest->second.widest, kind = widest->first;
        std::sort(colors.begin(), colors.end(),
                  [&](const Coded& a, const Coded& b) { return a.code[axis] < b.code[axis]; });
        const std::size_t all = std::accumulate(colors.begin(), colors.end(), std::size_t(0),
                                                [](std::size_t sum, const Coded& c) { return sum + c.count; });
        std::size_t before = 0, cut = 0;
        while (cut + 1 < colors.size() && (cut == 0 || before + colors[cut].count <= all / 2))
            before += colors[cut++].count;
        *widest = {kind, Group({colors.begin(), colors.begin() + static_cast<std::ptrdiff_t>(cut)})};
        groups.emplace_back(kind, Group({colors.begin() + static_cast<std::ptrdiff_t>(cut), colors.end()}));
    }
    std::map<Key, int> groupOf;
    for (std::size_t g = 0; g < groups.size(); ++g)
        for (const Coded& c : groups[g].second.colors)
            groupOf[Key(groups[g].first, c.code.x, c.code.y, c.code.z)] = static_cast<int>(g);
    std::vector<int> out;
    for (const ColorSample& s : samples)
        out.push_back(groupOf.at(key_of(s)));
    return out;
}

} // namespace mirolux::blocks
