#include "core/bake/flat_triangles.h"
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <numeric>

namespace mirolux {

namespace {

using Whole = std::array<std::int64_t, 2>;

/// Twice the area of a triangle, over 0 where it goes round counter-clockwise.
std::int64_t turn(const Whole& a, const Whole& b, const Whole& c) {
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
}

/// True if a line through an edge of the first has all of the second on its outer side.
bool parted(const std::array<Whole, 3>& a, const std::array<Whole, 3>& b) {
    for (std::size_t k = 0; k < 3; ++k) {
        const Whole &from = a[k], &to = a[(k + 1) % 3];
        if (std::all_of(b.begin(), b.end(), [&](const Whole& p) { return turn(from, to, p) <= 0; })) return true;
    }
    return false;
}

} // namespace

glm::dvec2 narrowest_way(std::vector<glm::dvec2> p) {
    const auto before = [](const glm::dvec2& a, const glm::dvec2& b) { return a.x != b.x ? a.x < b.x : a.y < b.y; };
    std::sort(p.begin(), p.end(), before);
    p.erase(std::unique(p.begin(), p.end()), p.end());
    // The hull (A. Andrew, 1979): one of its edges lies on the smallest rectangle.
    std::vector<glm::dvec2> hull;
    for (int pass = 0; pass < 2; ++pass) {
        const std::size_t base = hull.size();
        for (const glm::dvec2& c : p) {
            while (hull.size() >= base + 2) {
                const glm::dvec2 a = hull[hull.size() - 2], b = hull.back();
                if ((b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x) > 0) break;
                hull.pop_back();
            }
            hull.push_back(c);
        }
        if (!hull.empty()) hull.pop_back();
        std::reverse(p.begin(), p.end());
    }
    glm::dvec2 best(1, 0);
    double least = 1e300;
    for (std::size_t i = 0; i < hull.size(); ++i) {
        const glm::dvec2 edge = hull[(i + 1) % hull.size()] - hull[i];
        const double length = glm::length(edge);
        if (!(length > 0)) continue;
        const glm::dvec2 way = edge / length;
        glm::dvec2 low(1e300), high(-1e300);
        for (const glm::dvec2& c : hull) {
            const glm::dvec2 at(glm::dot(c, way), way.x * c.y - way.y * c.x);
            low = glm::min(low, at);
            high = glm::max(high, at);
        }
        if (const double area = (high.x - low.x) * (high.y - low.y); area < least) {
            least = area;
            best = high.x - low.x >= high.y - low.y ? way : glm::dvec2(way.y, -way.x); // the longer side along x
        }
    }
    return best;
}

double on_grain(std::vector<std::array<glm::dvec2, 3>>& triangles, const glm::dvec2& size) {
    const double extent = std::max({size.x, size.y, 1e-30});
    const double grain = std::exp2(std::ceil(std::log2(extent)) - 21);
    for (auto& t : triangles)
        for (glm::dvec2& c : t)
            c = glm::round(c / grain) * grain;
    return grain;
}

bool overlap_within(const std::vector<std::array<glm::dvec2, 3>>& triangles, double grain) {
    struct Placed {
        std::array<Whole, 3> corners;
        Whole low, high;
    };
    std::vector<Placed> all;
    for (const auto& t : triangles) {
        Placed p{};
        for (std::size_t k = 0; k < 3; ++k)
            p.corners[k] = {std::llround(t[k].x / grain), std::llround(t[k].y / grain)};
        const std::int64_t area = turn(p.corners[0], p.corners[1], p.corners[2]);
        if (area == 0) continue; // it has no inside
        if (area < 0) std::swap(p.corners[1], p.corners[2]);
        p.low = p.high = p.corners[0];
        for (const Whole& c : p.corners)
            for (std::size_t k = 0; k < 2; ++k) {
                p.low[k] = std::min(p.low[k], c[k]);
                p.high[k] = std::max(p.high[k], c[k]);
            }
        all.push_back(p);
    }
    std::sort(all.begin(), all.end(), [](const Placed& a, const Placed& b) { return a.low[0] < b.low[0]; });
    std::vector<std::size_t> open; // that a line across, moved from left to right, still meets
    for (std::size_t i = 0; i < all.size(); ++i) {
        std::erase_if(open, [&](std::size_t o) { return all[o].high[0] <= all[i].low[0]; });
        for (const std::size_t o : open) {
            const Placed &a = all[o], &b = all[i];
            if (a.high[1] <= b.low[1] || b.high[1] <= a.low[1]) continue;
            if (!parted(a.corners, b.corners) && !parted(b.corners, a.corners)) return true;
        }
        open.push_back(i);
    }
    return false;
}

} // namespace mirolux
