#include "core/flat/visibility.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <set>

namespace mirolux::flat {

static double cross(const glm::dvec2& a, const glm::dvec2& b) {
    return a.x * b.y - a.y * b.x;
}

/// True of an edge that the eye (the origin) lies on or sees along its length, to rounding: it stops nothing.
static bool end_on(const glm::dvec2& a, const glm::dvec2& b) {
    return std::abs(cross(a, b)) <= 1e-9 * glm::length(b - a) * (glm::length(a) + glm::length(b));
}

std::vector<Edge> edges_of(const std::vector<Occluder>& occluders) {
    std::vector<Edge> edges;
    for (const Occluder& o : occluders) {
        const std::size_t n = o.points.size(), pieces = n < 2 ? 0 : o.closed && n > 2 ? n : n - 1;
        for (std::size_t i = 0; i < pieces; ++i)
            if (o.points[i] != o.points[(i + 1) % n]) edges.push_back({o.points[i], o.points[(i + 1) % n]});
    }
    return edges;
}

bool sees(const std::vector<Edge>& edges, const glm::dvec2& from, const glm::dvec2& to, double over) {
    const glm::dvec2 way = to - from;
    for (const Edge& e : edges) {
        const glm::dvec2 d = e.b - e.a;
        const double across = cross(way, d);
        if (across == 0 || end_on(e.a - from, e.b - from)) continue;
        const double t = cross(e.a - from, d) / across, u = cross(e.a - from, way) / across;
        if (t > over && t < 1 && u >= 0 && u <= 1) return false;
    }
    return true;
}

namespace {

/// An edge relative to the eye, turning counter-clockwise from a to b.
struct Turning {
    glm::dvec2 a, b;
    /// How far out it lies in a direction, in lengths of it.
    double along(const glm::dvec2& d) const { return cross(a, b - a) / cross(d, b - a); }
    glm::dvec2 at(const glm::dvec2& d) const { return d * along(d); }
};

/// The part within the square of half a side `reach` around the origin (B. Liang and B. Barsky, A New Concept and
/// Method for Line Clipping, 1984); false: none.
bool clip(Edge& e, double reach) {
    double from = 0, to = 1;
    const glm::dvec2 d = e.b - e.a;
    for (int axis = 0; axis < 2; ++axis)
        for (const double side : {-1.0, 1.0}) {
            const double speed = side * d[axis], room = reach - side * e.a[axis];
            if (speed == 0 && room < 0) return false;
            if (speed > 0) to = std::min(to, room / speed);
            if (speed < 0) from = std::max(from, room / speed);
        }
    if (from >= to) return false;
    e = {e.a + d * from, e.a + d * to};
    return true;
}

/// Which edges pass through which cells of a grid over the square: pairs that may meet share a cell.
std::vector<std::vector<std::uint32_t>> cells_of(const std::vector<Edge>& edges, double reach) {
    const int side = std::clamp(static_cast<int>(std::sqrt(double(edges.size()))), 1, 512);
    std::vector<std::vector<std::uint32_t>> cells(std::size_t(side) * static_cast<std::size_t>(side));
    const double size = 2 * reach / side;
    const auto cell = [&](double x) { return std::clamp(static_cast<int>((x + reach) / size), 0, side - 1); };
    for (std::size_t i = 0; i < edges.size(); ++i) {
        const Edge& e = edges[i];
        const auto [low, high] = std::minmax(e.a.y, e.b.y);
        for (int row = cell(low); row <= cell(high); ++row) {
            // The part of the edge in this row, a hair more against rounding.
            double from = e.a.x, to = e.b.x;
            if (high > low) {
                const auto x_at = [&](double y) {
                    return e.a.x + (e.b.x - e.a.x) * std::clamp((y - e.a.y) / (e.b.y - e.a.y), 0.0, 1.0);
                };
                from = x_at(row * size - reach);
                to = x_at((row + 1) * size - reach);
            }
            const auto [left, right] = std::minmax(from, to);
            for (int column = cell(left - 1e-9 * reach); column <= cell(right + 1e-9 * reach); ++column)
                cells[std::size_t(row) * static_cast<std::size_t>(side) + static_cast<std::size_t>(column)].push_back(
                    static_cast<std::uint32_t>(i));
        }
    }
    return cells;
}

/// Edges cut where they cross each other, so that none lies before another in one place and behind it in another.
std::vector<Edge> parted(const std::vector<Edge>& edges, double reach) {
    std::vector<std::vector<double>> cuts(edges.size());
    for (const std::vector<std::uint32_t>& cell : cells_of(edges, reach))
        for (std::size_t m = 0; m < cell.size(); ++m)
            for (std::size_t n = m + 1; n < cell.size(); ++n) {
                const std::size_t i = cell[m], k = cell[n];
                const Edge &e = edges[i], &f = edges[k];
                const glm::dvec2 d = e.b - e.a, g = f.b - f.a;
                const double across = cross(d, g);
                if (across == 0) continue; // side by side, or one on the other: neither passes through
                const double t = cross(f.a - e.a, g) / across, u = cross(f.a - e.a, d) / across;
                if (!(t >= 0 && t <= 1 && u >= 0 && u <= 1)) continue;
                if (t > 0 && t < 1) cuts[i].push_back(t);
                if (u > 0 && u < 1) cuts[k].push_back(u);
            }
    std::vector<Edge> out;
    for (std::size_t i = 0; i < edges.size(); ++i) {
        std::sort(cuts[i].begin(), cuts[i].end());
        glm::dvec2 last = edges[i].a;
        for (const double t : cuts[i]) {
            const glm::dvec2 at = edges[i].a + (edges[i].b - edges[i].a) * t;
            if (at != last) out.push_back({last, at});
            last = at;
        }
        if (last != edges[i].b) out.push_back({last, edges[i].b});
    }
    return out;
}

/// Directions in the order of their angle from -x on, counter-clockwise.
bool earlier(const glm::dvec2& a, const glm::dvec2& b) {
    const bool upA = a.y > 0 || (a.y == 0 && a.x > 0), upB = b.y > 0 || (b.y == 0 && b.x > 0);
    if (upA != upB) return upB;
    return cross(a, b) > 0;
}
bool same_way(const glm::dvec2& a, const glm::dvec2& b) {
    return !earlier(a, b) && !earlier(b, a);
}

} // namespace

std::vector<glm::dvec2> visible_polygon(const std::vector<Edge>& edges, const glm::dvec2& from, double reach) {
    std::vector<Edge> near;
    for (const Edge& e : edges) {
        Edge moved{e.a - from, e.b - from};
        if (!end_on(moved.a, moved.b) && clip(moved, reach)) near.push_back(moved);
    }
    near = parted(near, reach);
    const std::array<glm::dvec2, 4> corners = {
        glm::dvec2(-reach, -reach), {reach, -reach}, {reach, reach}, {-reach, reach}};
    for (std::size_t i = 0; i < 4; ++i)
        near.push_back({corners[i], corners[(i + 1) % 4]});
    std::vector<Turning> all;
    const glm::dvec2 start(-1, 0);
    for (const Edge& e : near) {
        Turning t = cross(e.a, e.b) > 0 ? Turning{e.a, e.b} : Turning{e.b, e.a};
        if (earlier(t.b, t.a) && !same_way(t.b, start)) { // across where the round begins: two parts
            const glm::dvec2 middle = t.at(start);
            if (!same_way(t.a, start)) all.push_back({t.a, middle});
            t.a = middle;
        }
        all.push_back(t);
    }
    // Between two directions at which edges begin or end the nearest one stays the same.
    std::vector<glm::dvec2> directions = {start};
    for (const Turning& t : all)
        for (const glm::dvec2& d : {t.a, t.b})
            directions.push_back(d);
    std::sort(directions.begin(), directions.end(), earlier);
    directions.erase(std::unique(directions.begin(), directions.end(), same_way), directions.end());
    const auto place = [&](const glm::dvec2& d) {
        return static_cast<std::size_t>(std::lower_bound(directions.begin(), directions.end(), d, earlier) -
                                        directions.begin());
    };
    const std::size_t count = directions.size();
    std::vector<std::vector<std::size_t>> begins(count + 1), ends(count + 1);
    for (std::size_t i = 0; i < all.size(); ++i) {
        const std::size_t a = place(all[i].a), b = same_way(all[i].b, start) ? count : place(all[i].b);
        if (a >= b) continue; // thinner than rounding
        begins[a].push_back(i);
        ends[b].push_back(i);
    }
    glm::dvec2 middle = start;
    const auto nearer = [&](std::size_t x, std::size_t y) {
        const double u = all[x].along(middle), v = all[y].along(middle);
        return u != v ? u < v : x < y;
    };
    std::set<std::size_t, decltype(nearer)> alive(nearer);
    std::vector<decltype(alive)::iterator> where(all.size(), alive.end());
    std::vector<glm::dvec2> polygon;
    std::size_t last = all.size();
    for (std::size_t i = 0; i < count; ++i) {
        for (const std::size_t e : ends[i])
            if (where[e] != alive.end()) alive.erase(where[e]);
        const glm::dvec2 next = i + 1 < count ? directions[i + 1] : start;
        middle = glm::normalize(directions[i]) + glm::normalize(next);
        if (glm::length(middle) < 1e-9) middle = glm::dvec2(-directions[i].y, directions[i].x); // half a turn
        for (const std::size_t e : begins[i]) {
            const auto [at, fresh] = alive.insert(e);
            if (fresh) where[e] = at;
        }
        if (alive.empty()) continue;
        const std::size_t nearest = *alive.begin();
        if (nearest != last) {
            if (last < all.size()) polygon.push_back(from + all[last].at(directions[i]));
            polygon.push_back(from + all[nearest].at(directions[i]));
        }
        last = nearest;
    }
    if (last < all.size()) polygon.push_back(from + all[last].at(start));
    return polygon;
}

bool within(const std::vector<glm::dvec2>& polygon, const glm::dvec2& from, const glm::dvec2& point) {
    for (std::size_t i = 0; i < polygon.size(); ++i) {
        const glm::dvec2 a = polygon[i] - from, b = polygon[(i + 1) % polygon.size()] - from, p = point - from;
        if (cross(a, p) >= 0 && cross(p, b) >= 0 && cross(a, b) > 0 && cross(b - a, p - a) >= 0) return true;
    }
    return false;
}

} // namespace mirolux::flat
