#include "core/flat/plane_rays.h"
#include <algorithm>

namespace mirolux::flat {

static double wedge(const glm::dvec2& a, const glm::dvec2& b) {
    return a.x * b.y - a.y * b.x;
}

/// Half of a source's width and height.
static glm::dvec2 extent_of(const PlaneSource& s) {
    return glm::abs(s.axis) + s.radius;
}

PlaneRays::PlaneRays(const World& world, std::vector<PlaneSource> sources) : sources_(std::move(sources)) {
    for (std::size_t w = 0; w < world.walls.size(); ++w)
        if (stops_light(world, world.walls[w]))
            for (const Edge& e : edges_of({outline_of(world, world.walls[w])}))
                pieces_.push_back({e.a, e.b, static_cast<int>(w), -1});
    for (std::size_t s = 0; s < sources_.size(); ++s)
        pieces_.push_back({sources_[s].place - extent_of(sources_[s]), sources_[s].place + extent_of(sources_[s]), -1,
                           static_cast<int>(s)});
    glm::dvec2 low = pieces_.empty() ? glm::dvec2(0.0) : pieces_[0].a, high = low;
    for (const Piece& p : pieces_) {
        low = glm::min(low, glm::min(p.a, p.b));
        high = glm::max(high, glm::max(p.a, p.b));
    }
    low_ = low - 1.0;
    const glm::dvec2 size = high + 1.0 - low_;
    cell_ = std::max(std::sqrt(size.x * size.y / (1.0 + 2.0 * static_cast<double>(pieces_.size()))),
                     std::max(size.x, size.y) / 512);
    columns_ = static_cast<int>(size.x / cell_) + 1;
    rows_ = static_cast<int>(size.y / cell_) + 1;
    cells_.resize(static_cast<std::size_t>(columns_) * static_cast<std::size_t>(rows_));
    for (std::size_t i = 0; i < pieces_.size(); ++i)
        put(pieces_[i], static_cast<int>(i));
}

void PlaneRays::put(const Piece& p, int number) {
    const glm::ivec2 first(glm::floor((glm::min(p.a, p.b) - low_) / cell_ - 1e-6)),
        last(glm::floor((glm::max(p.a, p.b) - low_) / cell_ + 1e-6));
    const glm::dvec2 way = p.b - p.a;
    for (int y = std::max(0, first.y); y <= std::min(rows_ - 1, last.y); ++y)
        for (int x = std::max(0, first.x); x <= std::min(columns_ - 1, last.x); ++x) {
            const glm::dvec2 middle = low_ + (glm::dvec2(x, y) + 0.5) * cell_;
            // A cell that lies on one side of an edge's line does not hold it.
            const double reach = 0.501 * cell_ * (std::abs(way.x) + std::abs(way.y));
            if (p.wall >= 0 && std::abs(wedge(way, middle - p.a)) > reach) continue;
            cells_[static_cast<std::size_t>(y) * static_cast<std::size_t>(columns_) + static_cast<std::size_t>(x)]
                .push_back(number);
        }
}

void PlaneRays::meet(const Piece& p, const glm::dvec2& from, const glm::dvec2& way, PlaneHit& hit) const {
    if (p.source >= 0) {
        const double t = sources_[static_cast<std::size_t>(p.source)].met(from, way);
        if (t < hit.distance) hit = {t, -1, p.source, glm::dvec2(0.0)};
        return;
    }
    const glm::dvec2 d = p.b - p.a;
    const double across = wedge(way, d);
    if (across == 0) return;
    const double t = wedge(p.a - from, d) / across, u = wedge(p.a - from, way) / across;
    if (!(t > 0 && t < hit.distance && u >= 0 && u <= 1)) return;
    const glm::dvec2 n = glm::dvec2(-d.y, d.x) / glm::length(d);
    hit = {t, p.wall, -1, glm::dot(n, way) > 0 ? -n : n};
}

PlaneHit PlaneRays::nearest(const glm::dvec2& from, const glm::dvec2& way) const {
    PlaneHit hit;
    // The part of the ray within the grid.
    double enter = 0, leave = std::numeric_limits<double>::infinity();
    const glm::dvec2 size = glm::dvec2(columns_, rows_) * cell_;
    for (int a = 0; a < 2; ++a) {
        if (way[a] == 0) {
            if (from[a] < low_[a] || from[a] > low_[a] + size[a]) return hit;
            continue;
        }
        const double s = (low_[a] - from[a]) / way[a], t = (low_[a] + size[a] - from[a]) / way[a];
        enter = std::max(enter, std::min(s, t));
        leave = std::min(leave, std::max(s, t));
    }
    if (!(enter < leave)) return hit;
    const glm::dvec2 a = (from + way * enter - low_) / cell_, b = (from + way * leave - low_) / cell_;
    traverse(a, b, [&](const glm::ivec2& cell, double share) {
        if (cell.x >= 0 && cell.y >= 0 && cell.x < columns_ && cell.y < rows_)
            for (const int i : cells_[static_cast<std::size_t>(cell.y) * static_cast<std::size_t>(columns_) +
                                      static_cast<std::size_t>(cell.x)])
                meet(pieces_[static_cast<std::size_t>(i)], from, way, hit);
        return hit.distance > enter + (leave - enter) * share;
    });
    return hit;
}

} // namespace mirolux::flat
