#include "core/flat/trace_outline.h"
#include <cmath>

namespace mirolux::flat {

namespace {

double distance_to(const glm::dvec2& p, const glm::dvec2& a, const glm::dvec2& b) {
    const glm::dvec2 d = b - a;
    const double l = glm::dot(d, d);
    const double t = l > 0 ? glm::clamp(glm::dot(p - a, d) / l, 0.0, 1.0) : 0.0;
    return glm::length(p - a - d * t);
}

/// Keeps what a chain from `first` to `last` needs between them.
void simplify(const std::vector<glm::dvec2>& points, std::size_t first, std::size_t last, double tolerance,
              std::vector<bool>& kept) {
    std::vector<std::pair<std::size_t, std::size_t>> open = {{first, last}};
    while (!open.empty()) {
        const auto [a, b] = open.back();
        open.pop_back();
        double most = 0;
        std::size_t farthest = a;
        for (std::size_t i = a + 1; i < b; ++i)
            if (const double d = distance_to(points[i], points[a], points[b % points.size()]); d > most) {
                most = d;
                farthest = i;
            }
        if (most <= tolerance) continue;
        kept[farthest] = true;
        open.emplace_back(a, farthest);
        open.emplace_back(farthest, b);
    }
}

Occluder simplified(const std::vector<glm::dvec2>& loop, double tolerance) {
    // Two anchors: the first point, and the one that lies farthest from it.
    std::size_t other = 0;
    for (std::size_t i = 1; i < loop.size(); ++i)
        if (glm::length(loop[i] - loop[0]) > glm::length(loop[other] - loop[0])) other = i;
    std::vector<bool> kept(loop.size(), false);
    kept[0] = kept[other] = true;
    simplify(loop, 0, other, tolerance, kept);
    simplify(loop, other, loop.size(), tolerance, kept);
    Occluder out;
    for (std::size_t i = 0; i < loop.size(); ++i)
        if (kept[i]) out.points.push_back(loop[i]);
    return out;
}

} // namespace

std::vector<Occluder> trace_outline(int width, int height, const std::function<bool(int, int)>& solid,
                                    double tolerance) {
    const auto is = [&](int x, int y) { return x >= 0 && y >= 0 && x < width && y < height && solid(x, y); };
    // Border pieces by the corner where they begin, what is solid on their left: east, north, west, south.
    const int columns = width + 1;
    std::vector<std::uint8_t> from(static_cast<std::size_t>(columns) * static_cast<std::size_t>(height + 1), 0);
    const auto at = [&](int x, int y) -> std::uint8_t& { return from[static_cast<std::size_t>(y * columns + x)]; };
    for (int y = 0; y <= height; ++y)
        for (int x = 0; x <= width; ++x) {
            if (is(x, y) && !is(x, y - 1)) at(x, y) |= 1;
            if (is(x - 1, y) && !is(x, y)) at(x, y) |= 2;
            if (is(x - 1, y - 1) && !is(x - 1, y)) at(x, y) |= 4;
            if (is(x, y - 1) && !is(x - 1, y - 1)) at(x, y) |= 8;
        }
    static constexpr int dx[] = {1, 0, -1, 0}, dy[] = {0, 1, 0, -1};
    std::vector<Occluder> out;
    for (int y = 0; y <= height; ++y)
        for (int x = 0; x <= width; ++x)
            while (at(x, y) != 0) {
                std::vector<glm::dvec2> loop;
                int px = x, py = y, way = -1;
                do {
                    // At a corner where two pixels touch, the way that turns left stays with its own pixel.
                    int next = -1;
                    for (const int turn : {1, 0, 3})
                        if (const int d = way < 0 ? -1 : (way + turn) & 3; d >= 0 && (at(px, py) & (1 << d))) {
                            next = d;
                            break;
                        }
                    for (int d = 0; way < 0 && d < 4; ++d)
                        if (at(px, py) & (1 << d)) {
                            next = d;
                            break;
                        }
                    if (next < 0) break;
                    if (next != way) loop.emplace_back(px, py);
                    at(px, py) &= static_cast<std::uint8_t>(~(1 << next));
                    px += dx[next];
                    py += dy[next];
                    way = next;
                } while (px != x || py != y);
                if (loop.size() >= 3) out.push_back(simplified(loop, tolerance));
            }
    return out;
}

} // namespace mirolux::flat
