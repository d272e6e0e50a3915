#include "core/bake/chart_layout.h"
#include "core/bake/pack.h"
#include <algorithm>
#include <cmath>
#include <unordered_map>

namespace mirolux {

namespace {

double cross(const glm::dvec2& u, const glm::dvec2& v) {
    return u.x * v.y - u.y * v.x;
}

/// What a texel's square holds of a triangle: its area in texels, and its middle (I. Sutherland and G. Hodgman,
/// Reentrant Polygon Clipping, 1974).
struct Piece {
    double area = 0;
    glm::dvec2 middle{0.0};
};
Piece piece_of(const glm::dvec2 (&triangle)[3], int x, int y) {
    std::vector<glm::dvec2> polygon(triangle, triangle + 3), next;
    for (int side = 0; side < 4; ++side) {
        const int axis = side / 2;
        const double at = (axis ? y : x) + side % 2, sign = side % 2 ? -1 : 1;
        const auto inside = [&](const glm::dvec2& p) { return sign * (p[axis] - at); };
        next.clear();
        for (std::size_t k = 0; k < polygon.size(); ++k) {
            const glm::dvec2 &a = polygon[k], &b = polygon[(k + 1) % polygon.size()];
            const double da = inside(a), db = inside(b);
            if (da >= 0) next.push_back(a);
            if ((da > 0 && db < 0) || (da < 0 && db > 0)) next.push_back(a + (da / (da - db)) * (b - a));
        }
        std::swap(polygon, next);
    }
    Piece out;
    for (std::size_t k = 1; k + 1 < polygon.size(); ++k) {
        const double area = 0.5 * std::abs(cross(polygon[k] - polygon[0], polygon[k + 1] - polygon[0]));
        out.area += area;
        out.middle += area / 3 * (polygon[0] + polygon[k] + polygon[k + 1]);
    }
    if (out.area > 0) out.middle /= out.area;
    return out;
}

/// Weights of a triangle's corners at a point in it.
glm::dvec3 weights_at(const glm::dvec2& p, const glm::dvec2 (&t)[3]) {
    const double area = cross(t[1] - t[0], t[2] - t[0]);
    const glm::dvec3 w(cross(t[1] - p, t[2] - p) / area, cross(t[2] - p, t[0] - p) / area,
                       cross(t[0] - p, t[1] - p) / area);
    const glm::dvec3 in = glm::max(w, glm::dvec3(0.0));
    return in / (in.x + in.y + in.z);
}

} // namespace

MappedMesh mapped(const Primitive& mesh, float density, int gutter, const UnwrapOptions& options) {
    MappedMesh out;
    out.flat = unwrap(mesh, options);
    out.density = density;
    // A lookup at a place touches the texels whose middles lie around it: half a texel beyond the chart on each side.
    std::vector<PackedRect> rects;
    for (const Chart& c : out.flat.charts) {
        const auto texels = [&](float metres) {
            return static_cast<int>(std::ceil(std::max(1.0, double(metres) * density))) + 1;
        };
        rects.push_back({texels(c.size.x) + 2 * gutter, texels(c.size.y) + 2 * gutter});
    }
    const glm::ivec2 size = pack(rects);
    out.width = size.x;
    out.height = size.y;
    for (const PackedRect& r : rects)
        out.areas.push_back({r.x + gutter, r.y + gutter, r.across() - 2 * gutter, r.up() - 2 * gutter});
    std::vector<Vertex> vertices;
    std::vector<std::uint32_t> indices;
    std::unordered_map<std::uint64_t, std::uint32_t> known; // by vertex and chart
    const std::size_t triangles = mesh.indices.size() / 3;
    for (std::size_t t = 0; t < triangles; ++t) {
        const std::uint32_t chart = out.flat.chartOf[t];
        for (std::size_t k = 0; k < 3; ++k) {
            const std::uint32_t v = mesh.indices[3 * t + k];
            const auto [it, fresh] =
                known.emplace(std::uint64_t(chart) << 32 | v, static_cast<std::uint32_t>(vertices.size()));
            indices.push_back(it->second);
            if (!fresh) continue;
            vertices.push_back(mesh.vertices[v]);
            out.from.push_back(v);
            glm::vec2 at(0.0f);
            if (chart != Unwrapping::none) {
                const Chart& c = out.flat.charts[chart];
                const PackedRect& r = rects[chart];
                const MappedMesh::Area& area = out.areas[chart];
                glm::vec2 flat = out.flat.corners[3 * t + k];
                // A quarter turn, so that it does not mirror.
                if (r.turned) flat = {c.size.y - flat.y, flat.x};
                const glm::vec2 own = r.turned ? glm::vec2(c.size.y, c.size.x) : c.size;
                // In the middle of its area, which is rounded up.
                at = glm::vec2(area.x, area.y) + 0.5f * (glm::vec2(area.width, area.height) - own * density) +
                     flat * density;
            }
            out.places.push_back(at);
        }
    }
    out.mesh.vertices = std::move(vertices);
    out.mesh.indices = std::move(indices);
    out.mesh.material = mesh.material;
    out.mesh.bounds = mesh.bounds;
    return out;
}

std::vector<Texel> covered_texels(const MappedMesh& m) {
    constexpr double least = 1e-4; // of a texel: less of a surface is none
    const std::size_t count = static_cast<std::size_t>(m.width) * static_cast<std::size_t>(m.height);
    std::vector<Texel> best(count);
    std::vector<double> share(count, 0.0), sum(count, 0.0);
    for (std::size_t t = 0; t < m.flat.chartOf.size(); ++t) {
        const std::uint32_t chart = m.flat.chartOf[t];
        if (chart == Unwrapping::none) continue;
        const MappedMesh::Area& area = m.areas[chart];
        glm::dvec2 c[3], low(1e300), high(-1e300);
        for (std::size_t k = 0; k < 3; ++k) {
            c[k] = glm::dvec2(m.places[m.mesh.indices[3 * t + k]]);
            low = glm::min(low, c[k]);
            high = glm::max(high, c[k]);
        }
        if (!(std::abs(cross(c[1] - c[0], c[2] - c[0])) > 0)) continue;
        const int x0 = std::max(area.x, static_cast<int>(std::floor(low.x))),
                  x1 = std::min(area.x + area.width - 1, static_cast<int>(std::floor(high.x))),
                  y0 = std::max(area.y, static_cast<int>(std::floor(low.y))),
                  y1 = std::min(area.y + area.height - 1, static_cast<int>(std::floor(high.y)));
        for (int y = y0; y <= y1; ++y)
            for (int x = x0; x <= x1; ++x) {
                const Piece piece = piece_of(c, x, y);
                const std::size_t i =
                    static_cast<std::size_t>(y) * static_cast<std::size_t>(m.width) + static_cast<std::size_t>(x);
                sum[i] += piece.area;
                if (piece.area < least || piece.area <= share[i]) continue;
                share[i] = piece.area;
                best[i] = {x, y, static_cast<std::uint32_t>(t), chart, glm::vec3(weights_at(piece.middle, c)), 0};
            }
    }
    std::vector<Texel> out;
    for (std::size_t i = 0; i < count; ++i) {
        if (!(share[i] > 0)) continue;
        out.push_back(best[i]);
        out.back().area = static_cast<float>(std::min(1.0, sum[i]));
    }
    return out;
}

} // namespace mirolux
