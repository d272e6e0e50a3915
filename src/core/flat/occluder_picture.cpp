#include "core/flat/occluder_picture.h"
#include "core/flat/flat_stage.h"
#include <algorithm>
#include <glm/gtc/constants.hpp>
#include <map>

namespace mirolux::flat {

namespace {

constexpr double thin = 1.5;           // cells
constexpr double most_cells = 1 << 23; // their numbers are exact in a float

double area_of(const Occluder& o) {
    double area = 0;
    for (std::size_t i = 0, n = o.points.size(); i < n; ++i) {
        const glm::dvec2 &a = o.points[i], &b = o.points[(i + 1) % n];
        area += 0.5 * (a.x * b.y - a.y * b.x);
    }
    return std::abs(area);
}

double length_of(const Occluder& o) {
    double length = 0;
    for (const Edge& e : edges_of({o}))
        length += glm::length(e.b - e.a);
    return length;
}

void add(std::vector<OccluderPoint>& out, const std::vector<glm::dvec2>& triangles, std::size_t body) {
    for (const glm::dvec2& p : triangles)
        out.push_back({glm::vec2(p), static_cast<float>(body), 0});
}

/// A straight piece as wide as a cell, a little longer at both ends.
std::vector<glm::dvec2> bar(const Edge& e, double half) {
    const glm::dvec2 u = glm::normalize(e.b - e.a) * half, v(-u.y, u.x), a = e.a - u, b = e.b + u;
    return {a - v, b - v, b + v, a - v, b + v, a + v};
}

double convex_rim(std::vector<glm::dvec2> points) {
    std::sort(points.begin(), points.end(),
              [](const glm::dvec2& a, const glm::dvec2& b) { return a.x != b.x ? a.x < b.x : a.y < b.y; });
    std::vector<glm::dvec2> hull;
    for (int side = 0; side < 2; ++side) { // A. Andrew, Another Efficient Algorithm for Convex Hulls, 1979
        const std::size_t first = hull.size();
        for (const glm::dvec2& p : points) {
            while (hull.size() >= first + 2) {
                const glm::dvec2 a = hull[hull.size() - 2], b = hull.back();
                if ((b.x - a.x) * (p.y - a.y) - (b.y - a.y) * (p.x - a.x) > 0) break;
                hull.pop_back();
            }
            hull.push_back(p);
        }
        hull.pop_back();
        std::reverse(points.begin(), points.end());
    }
    double rim = 0;
    for (std::size_t i = 0; i < hull.size(); ++i)
        rim += glm::length(hull[(i + 1) % hull.size()] - hull[i]);
    return rim;
}

/// Cells whose middle lies within a source, or the one that holds it; and the rim of what they cover, units.
struct Cells {
    std::vector<glm::ivec2> cells;
    double rim = 0;
};
Cells cells_of(const PlaneSource& s, const OccluderGrid& grid) {
    Cells out;
    const glm::dvec2 extent = glm::abs(s.axis) + s.radius;
    const glm::ivec2 low(glm::floor(grid.at(s.place - extent))), high(glm::floor(grid.at(s.place + extent)));
    const double length = glm::dot(s.axis, s.axis), reach = std::max(s.radius, length > 0 ? 0.5 * grid.cell : 0.0);
    const bool small = s.radius < 0.5 * thin * grid.cell && length == 0;
    for (int y = low.y; y <= high.y && !small; ++y)
        for (int x = low.x; x <= high.x; ++x) {
            const glm::dvec2 to = grid.low + (glm::dvec2(x, y) + 0.5) * grid.cell - s.place,
                             nearest = length > 0 ? s.axis * glm::clamp(glm::dot(to, s.axis) / length, -1.0, 1.0)
                                                  : glm::dvec2(0.0);
            if (glm::length(to - nearest) <= reach) out.cells.emplace_back(x, y);
        }
    if (out.cells.empty()) out.cells.emplace_back(glm::floor(grid.at(s.place)));
    std::vector<glm::dvec2> corners;
    for (const glm::ivec2& c : out.cells)
        for (int k = 0; k < 4; ++k)
            corners.push_back(grid.cell * (glm::dvec2(c) + glm::dvec2(k & 1, k >> 1)));
    out.rim = convex_rim(std::move(corners));
    return out;
}

} // namespace

OccluderGrid occluder_grid(const Setup& setup, const View& view) {
    const Window w = window_of(view);
    const bool cascades = way_of(setup) == Way::cascades;
    const double beyond = setup.number(cascades ? "cascades2d.margin" : "occluders.margin");
    for (int scale = std::stoi(setup.choice(cascades ? "cascades2d.scale" : "occluders.scale"));; scale *= 2) {
        OccluderGrid g;
        g.scale = scale;
        g.cell = w.units() * scale;
        const int margin = static_cast<int>(std::ceil(beyond * view.height / scale));
        g.width = (view.width + scale - 1) / scale + 2 * margin;
        g.height = (view.height + scale - 1) / scale + 2 * margin;
        g.low = w.low - g.cell * margin;
        if (double(g.width) * g.height <= most_cells) return g;
    }
}

std::vector<glm::dvec2> filled(const Occluder& o) {
    std::vector<double> levels;
    for (const glm::dvec2& p : o.points)
        levels.push_back(p.y);
    std::sort(levels.begin(), levels.end());
    levels.erase(std::unique(levels.begin(), levels.end()), levels.end());
    std::vector<glm::dvec2> out;
    std::vector<std::vector<Edge>> slabs(levels.size()); // edges through each slab, from the lower to the upper end
    for (const Edge& e : edges_of({o})) {
        const Edge up = e.a.y < e.b.y ? e : Edge{e.b, e.a};
        const auto place = [&](double y) {
            return static_cast<std::size_t>(std::lower_bound(levels.begin(), levels.end(), y) - levels.begin());
        };
        for (std::size_t k = place(up.a.y); k < place(up.b.y); ++k)
            slabs[k].push_back(up);
    }
    for (std::size_t k = 0; k + 1 < levels.size(); ++k) {
        const double low = levels[k], high = levels[k + 1], middle = 0.5 * (low + high);
        const auto x_at = [](const Edge& e, double y) {
            return e.a.x + (e.b.x - e.a.x) * (y - e.a.y) / (e.b.y - e.a.y);
        };
        std::sort(slabs[k].begin(), slabs[k].end(),
                  [&](const Edge& a, const Edge& b) { return x_at(a, middle) < x_at(b, middle); });
        for (std::size_t i = 0; i + 1 < slabs[k].size(); i += 2) {
            const Edge &l = slabs[k][i], &r = slabs[k][i + 1];
            const glm::dvec2 a(x_at(l, low), low), b(x_at(r, low), low), c(x_at(r, high), high), d(x_at(l, high), high);
            out.insert(out.end(), {a, b, c, a, c, d});
        }
    }
    return out;
}

OccluderPicture occluder_picture(const World& world, const OccluderGrid& grid, const std::vector<Light>& lights,
                                 const SceneAsset* asset) {
    OccluderPicture out;
    for (const Wall& wall : world.walls) {
        if (!stops_light(world, wall)) continue;
        PlaneBody body;
        body.sends = {wall.emits, 1.0f};
        body.reflects = {wall.reflects, world.seen == Seen::above ? wall.height : 0.0f};
        out.bodies.push_back(body);
        const Occluder outline = outline_of(world, wall);
        const bool closed = outline.closed && outline.points.size() > 2;
        if (closed) add(out.points, filled(outline), out.bodies.size());
        // The mean thickness of a long shape is twice its area over its border.
        if (!closed || 2 * area_of(outline) < thin * grid.cell * length_of(outline))
            for (const Edge& e : edges_of({outline}))
                add(out.points, bar(e, 0.5 * grid.cell), out.bodies.size());
    }
    for (std::size_t i = 0; i < lights.size() && asset; ++i) {
        const auto s = plane_source(lights[i], *asset, static_cast<int>(i));
        if (!s) continue;
        const Cells cells = cells_of(*s, grid);
        PlaneBody body;
        body.sends = glm::vec4(s->radiance * (s->rim() / cells.rim), s->spot ? 3.0f + static_cast<float>(i) : 2.0f);
        out.bodies.push_back(body);
        bool any = false;
        for (const glm::ivec2& c : cells.cells) {
            any = any || (c.x >= 0 && c.y >= 0 && c.x < grid.width && c.y < grid.height);
            const glm::dvec2 a = grid.low + grid.cell * glm::dvec2(c), b = a + grid.cell;
            add(out.points, {a, {b.x, a.y}, b, a, b, {a.x, b.y}}, out.bodies.size());
        }
        out.beyond += !any;
    }
    return out;
}

bool needs_field(const Setup& setup) {
    return way_of(setup) == Way::cascades || shadow_of(setup) == Shadow::field;
}

bool needs_occluders(const Setup& setup) {
    return needs_field(setup) || shadow_of(setup) == Shadow::march;
}

} // namespace mirolux::flat
