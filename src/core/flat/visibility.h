#pragma once
#include <glm/glm.hpp>
#include <vector>

// What a point of the plane sees past straight edges: the exact form of two-dimensional shadows.
namespace mirolux::flat {

/// Straight pieces that stop light, one after the other. In scene units, y up.
struct Occluder {
    std::vector<glm::dvec2> points;
    bool closed = true; // the last point is joined to the first

    bool operator==(const Occluder&) const = default;
};

struct Edge {
    glm::dvec2 a, b;
};
/// Pieces of no length are left out.
std::vector<Edge> edges_of(const std::vector<Occluder>& occluders);

/// True if no edge crosses the way from one point to the other. An edge that passes through either end, or that is
/// seen along its length, stops nothing.
/// `over`: the share of the way, from `from` on, that passes over all edges.
bool sees(const std::vector<Edge>& edges, const glm::dvec2& from, const glm::dvec2& to, double over = 0);

/// The star-shaped polygon of what `from` sees within the square of `reach` around it, counter-clockwise; edges may
/// cross and touch. Between two of its corners lies one edge; where the nearest edge changes, two corners share a
/// direction. Costs n log n, and the crossings. A light on an edge sees both sides of it.
std::vector<glm::dvec2> visible_polygon(const std::vector<Edge>& edges, const glm::dvec2& from, double reach);

/// True if the point lies in a polygon of visible_polygon.
bool within(const std::vector<glm::dvec2>& polygon, const glm::dvec2& from, const glm::dvec2& point);

} // namespace mirolux::flat
