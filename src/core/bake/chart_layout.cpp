#include "core/bake/chart_layout.h"
#include "core/bake/pack.h"
#include <algorithm>
#include <cmath>
#include <unordered_map>

namespace mirolux {

namespace {

/// The point of a triangle that is nearest to one in its plane, by weights of its corners.
glm::dvec3 nearest_weights(const glm::dvec2& p, const glm::dvec2& a, const glm::dvec2& b, const glm::dvec2& c) {
    const auto cross = [](const glm::dvec2& u, const glm::dvec2& v) { return u.x * v.y - u.y * v.x; };
    const double area = cross(b - a, c - a);
    if (std::abs(area) > 1e-12) {
        const glm::dvec3 w(cross(b - p, c - p) / area, cross(c - p, a - p) / area, cross(a - p, b - p) / area);
        if (w.x >= 0 && w.y >= 0 && w.z >= 0) return w;
    }
    const glm::dvec2 corners[] = {a, b, c};
    double least = 1e300;
    glm::dvec3 best(1, 0, 0);
    for (int k = 0; k < 3; ++k) {
        const glm::dvec2 from = corners[k], edge = corners[(k + 1) % 3] - from;
        const double length = glm::dot(edge, edge),
                     t = length > 0 ? std::clamp(glm::dot(p - from, edge) / length, 0.0, 1.0) : 0;
        const glm::dvec2 off = from + t * edge - p;
        if (const double far = glm::dot(off, off); far < least) {
            least = far;
            best = glm::dvec3(0.0);
            best[k] = 1 - t;
            best[(k + 1) % 3] += t;
        }
    }
    return best;
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
    std::vector<Texel> best(static_cast<std::size_t>(m.width) * static_cast<std::size_t>(m.height));
    std::vector<double> far(best.size(), 1e300); // from the texel's middle, squared
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
        const int x0 = std::max(area.x, static_cast<int>(std::floor(low.x))),
                  x1 = std::min(area.x + area.width - 1, static_cast<int>(std::floor(high.x))),
                  y0 = std::max(area.y, static_cast<int>(std::floor(low.y))),
                  y1 = std::min(area.y + area.height - 1, static_cast<int>(std::floor(high.y)));
        for (int y = y0; y <= y1; ++y)
            for (int x = x0; x <= x1; ++x) {
                const glm::dvec2 middle(x + 0.5, y + 0.5);
                const glm::dvec3 w = nearest_weights(middle, c[0], c[1], c[2]);
                const glm::dvec2 off = w.x * c[0] + w.y * c[1] + w.z * c[2] - middle;
                if (std::max(std::abs(off.x), std::abs(off.y)) > 0.5) continue; // not of this texel
                const std::size_t i =
                    static_cast<std::size_t>(y) * static_cast<std::size_t>(m.width) + static_cast<std::size_t>(x);
                if (const double d = glm::dot(off, off); d < far[i]) {
                    far[i] = d;
                    best[i] = {x, y, static_cast<std::uint32_t>(t), chart, glm::vec3(w)};
                }
            }
    }
    std::vector<Texel> out;
    for (std::size_t i = 0; i < best.size(); ++i)
        if (far[i] < 1e300) out.push_back(best[i]);
    return out;
}

} // namespace mirolux
