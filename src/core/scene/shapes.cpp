#include "core/scene/shapes.h"
#include "core/scene/geometry.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <glm/gtc/constants.hpp>
#include <map>

namespace mirolux {

const char* word(ShapeKind kind) {
    switch (kind) {
    case ShapeKind::plane:
        return "plane";
    case ShapeKind::box:
        return "box";
    case ShapeKind::ball:
        return "ball";
    case ShapeKind::cylinder:
        return "cylinder";
    case ShapeKind::cone:
        return "cone";
    case ShapeKind::capsule:
        return "capsule";
    case ShapeKind::torus:
        return "torus";
    case ShapeKind::staircase:
        return "staircase";
    }
    return "";
}

std::optional<ShapeKind> shape_named(std::string_view name) {
    for (const ShapeKind k : all_shapes)
        if (name == word(k)) return k;
    return std::nullopt;
}

bool uses_height(ShapeKind k) {
    return k == ShapeKind::box || k == ShapeKind::cylinder || k == ShapeKind::cone || k == ShapeKind::capsule ||
           k == ShapeKind::staircase;
}
bool uses_depth(ShapeKind k) {
    return k == ShapeKind::plane || k == ShapeKind::box || k == ShapeKind::staircase;
}
bool uses_rings(ShapeKind k) {
    return k == ShapeKind::ball || k == ShapeKind::capsule || k == ShapeKind::torus;
}

Shape usual_shape(ShapeKind kind) {
    Shape s;
    s.kind = kind;
    switch (kind) {
    case ShapeKind::plane:
        s.size = {4, 0, 4};
        s.segments = 1;
        break;
    case ShapeKind::box:
        s.segments = 1;
        break;
    case ShapeKind::capsule:
        s.size = {0.5f, 1.8f, 0.5f};
        break;
    case ShapeKind::cylinder:
    case ShapeKind::cone:
        s.size = {0.8f, 1.5f, 0.8f};
        break;
    case ShapeKind::torus:
        s.rings = 24;
        s.segments = 48;
        break;
    case ShapeKind::staircase:
        s.size = {1.2f, 1.8f, 2.7f};
        s.segments = 10;
        break;
    default:
        break;
    }
    return settled(s);
}

Shape settled(Shape s) {
    const auto length = [](float v) { return std::isfinite(v) ? std::clamp(v, 1e-3f, 1e4f) : 1.0f; };
    for (int k = 0; k < 3; ++k)
        s.size[k] = length(s.size[k]);
    s.tube = length(s.tube);
    const bool round = s.kind != ShapeKind::plane && s.kind != ShapeKind::box && s.kind != ShapeKind::staircase;
    if (round) s.size.z = s.size.x;
    if (s.kind == ShapeKind::plane) s.size.y = 0;
    if (s.kind == ShapeKind::ball) s.size.y = s.size.x;
    if (s.kind == ShapeKind::capsule) s.size.y = std::max(s.size.y, s.size.x);
    if (s.kind == ShapeKind::torus) {
        s.tube = std::min(s.tube, 0.49f * s.size.x);
        s.size.y = s.tube;
    } else
        s.tube = 0.25f;
    s.segments = std::clamp(s.segments, round ? 3 : 1, uses_height(s.kind) && !round ? 128 : 512);
    s.rings = uses_rings(s.kind) ? std::clamp(s.rings, s.kind == ShapeKind::torus ? 3 : 2, 512) : 16;
    if (s.kind == ShapeKind::capsule && s.rings % 2) ++s.rings; // as many for each end
    return s;
}

namespace {

/// Vertices of one smooth part, row by row, and triangles between neighbours of a grid.
class Builder {
public:
    /// at(i, j): the vertex of column i and row j; columns run to the right and rows up as one looks at the part's
    /// front. Triangles without area are left out.
    void grid(int columns, int rows, const std::function<Vertex(int, int)>& at) {
        const auto first = static_cast<std::uint32_t>(vertices_.size()), row = static_cast<std::uint32_t>(columns + 1);
        for (int j = 0; j <= rows; ++j)
            for (int i = 0; i <= columns; ++i)
                vertices_.push_back(at(i, j));
        for (std::uint32_t j = 0; j < static_cast<std::uint32_t>(rows); ++j)
            for (std::uint32_t i = 0; i < static_cast<std::uint32_t>(columns); ++i) {
                const std::uint32_t a = first + j * row + i, b = a + 1, c = a + row, d = c + 1;
                triangle(a, b, d);
                triangle(a, d, c);
            }
    }
    /// A flat rectangle along two axes: its lower left, lower right and upper left corner as one looks at its front.
    /// Points that it shares with a neighbour are the neighbour's to the bit.
    void sheet(glm::vec3 corner, glm::vec3 right, glm::vec3 up, int n = 1, glm::vec2 uv = {0, 0}) {
        const glm::vec3 normal = glm::normalize(glm::cross(right - corner, up - corner));
        const float width = glm::distance(right, corner), height = glm::distance(up, corner);
        grid(n, n, [&](int i, int j) {
            glm::vec3 p = corner;
            for (int k = 0; k < 3; ++k)
                p[k] = right[k] != corner[k] ? between(corner[k], right[k], i, n) : between(corner[k], up[k], j, n);
            return vertex(p, normal, {uv.x + width * float(i) / float(n), uv.y - height * float(j) / float(n)});
        });
    }
    /// i of n steps from a to b; the same from b to a.
    static float between(float a, float b, int i, int n) {
        if (2 * i == n) return 0.5f * (a + b);
        return 2 * i < n ? a + (b - a) * (float(i) / float(n)) : b + (a - b) * (float(n - i) / float(n));
    }
    /// A flat disc of so many corners at a height, facing up or down.
    void disc(float radius, float height, int segments, bool up) {
        const glm::vec3 n(0, up ? 1 : -1, 0);
        const auto centre = static_cast<std::uint32_t>(vertices_.size());
        vertices_.push_back(vertex({0, height, 0}, n, {0, 0}));
        for (int i = 0; i < segments; ++i) {
            const glm::vec2 p = radius * around(i, segments);
            vertices_.push_back(vertex({p.x, height, p.y}, n, {p.x, up ? p.y : -p.y}));
        }
        const auto k = static_cast<std::uint32_t>(segments);
        for (std::uint32_t i = 0; i < k; ++i) {
            const std::uint32_t a = centre + 1 + i, b = centre + 1 + (i + 1) % k;
            up ? triangle(centre, a, b) : triangle(centre, b, a);
        }
    }
    /// The corner i of a circle of radius 1, in x and z; counter-clockwise seen from above is to the right seen from
    /// outside.
    static glm::vec2 around(int i, int segments) {
        if (i == segments) i = 0; // the seam closes to the bit
        const double angle = 2 * glm::pi<double>() * i / segments;
        return {static_cast<float>(std::sin(angle)), static_cast<float>(std::cos(angle))};
    }
    static Vertex vertex(glm::vec3 position, glm::vec3 normal, glm::vec2 uv) {
        Vertex v;
        v.position = position;
        v.normal = normal;
        v.uv = uv;
        return v;
    }
    Primitive finished() {
        Primitive p;
        for (const Vertex& v : vertices_)
            p.bounds.add(v.position);
        p.vertices = std::move(vertices_);
        p.indices = std::move(indices_);
        make_tangents(p);
        return p;
    }

private:
    void triangle(std::uint32_t a, std::uint32_t b, std::uint32_t c) {
        const glm::vec3 &p = vertices_[a].position, &q = vertices_[b].position, &r = vertices_[c].position;
        if (p == q || q == r || r == p) return;
        for (const std::uint32_t i : {a, b, c})
            indices_.push_back(i);
    }
    std::vector<Vertex> vertices_;
    std::vector<std::uint32_t> indices_;
};

/// Turns a profile (radius, height, outward normal, metres along it from its lowest point) about the y axis.
struct Profile {
    float radius, height;
    glm::vec2 normal; // outward and up
    float along;
};
void turned(Builder& b, const std::vector<Profile>& profile, int segments, float around) {
    b.grid(segments, static_cast<int>(profile.size()) - 1, [&](int i, int j) {
        const Profile& p = profile[static_cast<std::size_t>(j)];
        const glm::vec2 c = Builder::around(i, segments);
        // At a pole each triangle of the ring has a corner of its own, in the middle of its side.
        const bool pole = p.radius == 0;
        const float column = float(i) + (pole ? 0.5f : 0.0f);
        return Builder::vertex({c.x * p.radius, p.height, c.y * p.radius},
                               glm::normalize(glm::vec3(c.x * p.normal.x, p.normal.y, c.y * p.normal.x)),
                               {around * column / float(segments), -p.along});
    });
}

/// A quarter of a circle or more: from one angle to another (radians; 0 is outward, up is positive).
void arc(std::vector<Profile>& out, float radius, float middle, double from, double to, int steps, float along) {
    for (int j = 0; j <= steps; ++j) {
        const double a = from + (to - from) * j / steps;
        float r = static_cast<float>(radius * std::cos(a));
        if (std::abs(a) > 0.49999999 * glm::pi<double>()) r = 0; // the pole, to the bit
        out.push_back({r,
                       middle + static_cast<float>(radius * std::sin(a)),
                       {static_cast<float>(std::cos(a)), static_cast<float>(std::sin(a))},
                       along + static_cast<float>(radius * (a - from))});
    }
}

void box(Builder& b, const glm::vec3& s, int n) {
    const float x = 0.5f * s.x, z = 0.5f * s.z, h = s.y;
    b.sheet({-x, 0, z}, {x, 0, z}, {-x, h, z}, n);   // front
    b.sheet({x, 0, -z}, {-x, 0, -z}, {x, h, -z}, n); // back
    b.sheet({x, 0, z}, {x, 0, -z}, {x, h, z}, n);
    b.sheet({-x, 0, -z}, {-x, 0, z}, {-x, h, -z}, n);
    b.sheet({-x, h, z}, {x, h, z}, {-x, h, -z}, n);  // top
    b.sheet({-x, 0, -z}, {x, 0, -z}, {-x, 0, z}, n); // bottom
}

/// Climbs towards -z, its lowest step in front.
void staircase(Builder& b, const glm::vec3& s, int steps) {
    const float x = 0.5f * s.x, z = 0.5f * s.z;
    const auto height = [&](int i) { return Builder::between(0, s.y, i, steps); };
    const auto depth = [&](int i) { return Builder::between(z, -z, i, steps); };
    for (int i = 0; i < steps; ++i) {
        const float low = height(i), top = height(i + 1), near = depth(i), far = depth(i + 1);
        b.sheet({-x, low, near}, {x, low, near}, {-x, top, near}, 1, {0, -low});
        b.sheet({-x, top, near}, {x, top, near}, {-x, top, far});
        // The sides below this step, cut at every step's height so that neighbours share their corners.
        for (int k = 0; k <= i; ++k) {
            const float l = height(k), up = height(k + 1);
            b.sheet({x, l, near}, {x, l, far}, {x, up, near}, 1, {z - near, -l});
            b.sheet({-x, l, far}, {-x, l, near}, {-x, up, far}, 1, {far - z, -l});
        }
        b.sheet({-x, 0, far}, {x, 0, far}, {-x, 0, near}, 1, {0, z - far}); // bottom
        b.sheet({x, low, -z}, {-x, low, -z}, {x, top, -z}, 1, {0, -low});   // back
    }
}

} // namespace

Primitive make_shape(const Shape& asked) {
    const Shape s = settled(asked);
    const float radius = 0.5f * s.size.x, girth = 2 * glm::pi<float>() * radius;
    const double quarter = glm::half_pi<double>();
    Builder b;
    std::vector<Profile> profile;
    switch (s.kind) {
    case ShapeKind::plane:
        b.sheet({-radius, 0, 0.5f * s.size.z}, {radius, 0, 0.5f * s.size.z}, {-radius, 0, -0.5f * s.size.z},
                s.segments);
        break;
    case ShapeKind::box:
        box(b, s.size, s.segments);
        break;
    case ShapeKind::ball:
        arc(profile, radius, radius, -quarter, quarter, s.rings, 0);
        turned(b, profile, s.segments, girth);
        break;
    case ShapeKind::capsule: {
        arc(profile, radius, radius, -quarter, 0, s.rings / 2, 0);
        const float straight = s.size.y - s.size.x;
        std::vector<Profile> top;
        arc(top, radius, s.size.y - radius, 0, quarter, s.rings / 2, profile.back().along + straight);
        profile.insert(profile.end(), straight > 0 ? top.begin() : top.begin() + 1, top.end());
        turned(b, profile, s.segments, girth);
        break;
    }
    case ShapeKind::cylinder:
        turned(b, {{radius, 0, {1, 0}, 0}, {radius, s.size.y, {1, 0}, s.size.y}}, s.segments, girth);
        b.disc(radius, s.size.y, s.segments, true);
        b.disc(radius, 0, s.segments, false);
        break;
    case ShapeKind::cone: {
        const float slope = std::hypot(radius, s.size.y);
        const glm::vec2 normal(s.size.y / slope, radius / slope);
        // In rings of its slope, so that the normal is right along it.
        turned(b, {{radius, 0, normal, 0}, {0, s.size.y, normal, slope}}, s.segments, girth);
        b.disc(radius, 0, s.segments, false);
        break;
    }
    case ShapeKind::torus: {
        const float tube = 0.5f * s.tube, ring = radius - tube;
        b.grid(s.segments, s.rings, [&](int i, int j) {
            const glm::vec2 c = Builder::around(i, s.segments), t = Builder::around(j, s.rings);
            // Around the tube from its underside out and up, so that it stands.
            const float out = t.x, up = -t.y;
            const glm::vec3 n(c.x * out, up, c.y * out);
            return Builder::vertex(
                {c.x * (ring + tube * out), tube + tube * up, c.y * (ring + tube * out)}, n,
                {girth * float(i) / float(s.segments), -2 * glm::pi<float>() * tube * float(j) / float(s.rings)});
        });
        break;
    }
    case ShapeKind::staircase:
        staircase(b, s.size, s.segments);
        break;
    }
    return b.finished();
}

std::vector<std::pair<glm::vec3, glm::vec3>> creases(const Primitive& mesh, float angle) {
    const auto key = [](const glm::vec3& p) { return std::array<float, 3>{p.x + 0.0f, p.y + 0.0f, p.z + 0.0f}; };
    struct Edge {
        glm::vec3 normal;
        bool shown = true;
    };
    std::map<std::pair<std::array<float, 3>, std::array<float, 3>>, Edge> edges;
    const std::vector<Vertex>& v = mesh.vertices;
    const std::vector<std::uint32_t>& at = mesh.indices;
    for (std::size_t t = 0; t + 2 < at.size(); t += 3) {
        const glm::vec3 p[3] = {v[at[t]].position, v[at[t + 1]].position, v[at[t + 2]].position};
        const glm::vec3 area = glm::cross(p[1] - p[0], p[2] - p[0]);
        const float size = glm::length(area);
        if (!(size > 0)) continue;
        for (int k = 0; k < 3; ++k) {
            auto a = key(p[k]), b = key(p[(k + 1) % 3]);
            if (b < a) std::swap(a, b);
            const auto [it, fresh] = edges.try_emplace({a, b}, Edge{area / size});
            if (!fresh) it->second.shown = glm::dot(it->second.normal, area / size) < std::cos(angle);
        }
    }
    std::vector<std::pair<glm::vec3, glm::vec3>> out;
    for (const auto& [ends, edge] : edges)
        if (edge.shown)
            out.emplace_back(glm::vec3(ends.first[0], ends.first[1], ends.first[2]),
                             glm::vec3(ends.second[0], ends.second[1], ends.second[2]));
    return out;
}

Shape sketched(Shape s) {
    const bool round = uses_rings(s.kind) || s.kind == ShapeKind::cylinder || s.kind == ShapeKind::cone;
    s.segments = std::min(s.segments, round ? 16 : s.kind == ShapeKind::staircase ? 24 : 1);
    s.rings = std::min(s.rings, 8);
    return s;
}

} // namespace mirolux
