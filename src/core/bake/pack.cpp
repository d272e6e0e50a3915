#include "core/bake/pack.h"
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <numeric>

namespace mirolux {

namespace {

struct Step { // of the skyline: from x on it is y high
    int x = 0, y = 0;
};

/// The height that a width takes; places are written.
int laid(std::vector<PackedRect>& rects, const std::vector<std::size_t>& order, int width, bool turns) {
    std::vector<Step> line{{0, 0}};
    int top = 0;
    for (const std::size_t i : order) {
        PackedRect& r = rects[i];
        int best = 0x7FFFFFFF, bestX = 0, bestY = 0;
        bool turned = false;
        for (const bool t : {false, true}) {
            const int across = t ? r.height : r.width, up = t ? r.width : r.height;
            if (across > width || (t && (!turns || r.width == r.height))) continue;
            for (std::size_t s = 0; s < line.size() && line[s].x + across <= width; ++s) {
                int y = 0;
                for (std::size_t k = s; k < line.size() && line[k].x < line[s].x + across; ++k)
                    y = std::max(y, line[k].y);
                if (y + up < best) {
                    best = y + up;
                    bestX = line[s].x;
                    bestY = y;
                    turned = t;
                }
            }
        }
        r.x = bestX;
        r.y = bestY;
        r.turned = turned;
        top = std::max(top, best);
        // The line is as high as the rectangle where that lies.
        const int end = r.x + r.across();
        int after = 0; // of the line past its end
        std::vector<Step> next;
        for (const Step& s : line) {
            if (s.x < end) after = s.y;
            if (s.x < r.x || s.x >= end) next.push_back(s);
        }
        const auto at = std::lower_bound(next.begin(), next.end(), r.x, [](const Step& s, int x) { return s.x < x; });
        const auto placed = next.insert(at, {r.x, best});
        if (end < width && (placed + 1 == next.end() || (placed + 1)->x != end)) next.insert(placed + 1, {end, after});
        line = std::move(next);
    }
    return top;
}

} // namespace

glm::ivec2 pack(std::vector<PackedRect>& rects, int unit, bool turns) {
    if (rects.empty()) return {0, 0};
    std::vector<std::size_t> order(rects.size());
    std::iota(order.begin(), order.end(), std::size_t(0));
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
        const auto longer = [](const PackedRect& r) { return std::max(r.width, r.height); };
        return longer(rects[a]) > longer(rects[b]);
    });
    std::int64_t area = 0;
    int widest = 1;
    for (const PackedRect& r : rects) {
        area += std::int64_t(r.width) * r.height;
        widest = std::max(widest, turns ? std::min(r.width, r.height) : r.width);
    }
    const auto whole = [&](int n) { return (n + unit - 1) / unit * unit; };
    std::int64_t least = -1;
    int best = 0;
    for (const double share : {0.75, 0.85, 0.95, 1.0, 1.05, 1.1, 1.2, 1.35, 1.5}) {
        const int width = whole(std::max(widest, static_cast<int>(std::ceil(share * std::sqrt(double(area))))));
        const int height = whole(laid(rects, order, width, turns));
        // Of two that waste as much the squarer one.
        const std::int64_t cost = std::int64_t(width) * height + std::abs(width - height);
        if (least < 0 || cost < least) {
            least = cost;
            best = width;
        }
    }
    return {best, whole(laid(rects, order, best, turns))};
}

} // namespace mirolux
