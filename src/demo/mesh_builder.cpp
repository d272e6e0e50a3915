#include "demo/mesh_builder.h"
#include <cmath>

namespace mirolux::demo {

using glm::vec3;

static vec3 side_of(const vec3& axis) {
    return glm::normalize(glm::cross(axis, std::abs(axis.y) < 0.9f ? vec3(0, 1, 0) : vec3(1, 0, 0)));
}

void MeshBuilder::quad(int material, vec3 p, vec3 du, vec3 dv, int nu, int nv) {
    Part& part = parts_[material];
    const auto first = static_cast<std::uint32_t>(part.vertices.size());
    const vec3 n = glm::normalize(glm::cross(du, dv));
    for (int j = 0; j <= nv; ++j)
        for (int i = 0; i <= nu; ++i) {
            Vertex v;
            const float s = static_cast<float>(i) / nu, t = static_cast<float>(j) / nv;
            v.position = p + du * s + dv * t;
            v.normal = n;
            v.uv = glm::vec2(s * glm::length(du), -t * glm::length(dv)) / uvScale;
            part.vertices.push_back(v);
        }
    for (int j = 0; j < nv; ++j)
        for (int i = 0; i < nu; ++i) {
            const std::uint32_t a = first + j * (nu + 1) + i, b = a + 1, c = a + nu + 1, d = c + 1;
            part.indices.insert(part.indices.end(), {a, b, d, a, d, c});
        }
}

void MeshBuilder::box(int material, vec3 l, vec3 s) {
    const vec3 x(s.x, 0, 0), y(0, s.y, 0), z(0, 0, s.z);
    quad(material, l + z, x, y);
    quad(material, l + x, -x, y);
    quad(material, l + x + z, -z, y);
    quad(material, l, z, y);
    quad(material, l + y + z, x, -z);
    quad(material, l, x, z);
}

void MeshBuilder::bar(int material, vec3 a, vec3 b, float width) {
    const vec3 along = b - a, u = side_of(glm::normalize(along)) * width,
               v = glm::normalize(glm::cross(along, u)) * width;
    const vec3 p = a - 0.5f * (u + v);
    quad(material, p, along, v);
    quad(material, p + u + v, along, -v);
    quad(material, p + v, along, u);
    quad(material, p + u, along, -u);
    quad(material, p, v, u);
    quad(material, p + along, u, v);
}

void MeshBuilder::cylinder(int material, vec3 a, vec3 b, float ra, float rb, int sides, bool caps) {
    Part& part = parts_[material];
    const vec3 axis = glm::normalize(b - a), u = side_of(axis), w = glm::cross(axis, u);
    const float height = glm::length(b - a), slope = (ra - rb) / std::max(height, 1e-6f);
    const auto first = static_cast<std::uint32_t>(part.vertices.size());
    for (int i = 0; i <= sides; ++i) {
        const float t = 6.2831853f * i / sides;
        const vec3 out = u * std::cos(t) + w * std::sin(t);
        for (int end = 0; end < 2; ++end) {
            Vertex v;
            v.position = (end ? b : a) + out * (end ? rb : ra);
            v.normal = glm::normalize(out + axis * slope);
            v.uv = glm::vec2(t * std::max(ra, rb), end ? -height : 0.0f) / uvScale;
            part.vertices.push_back(v);
        }
    }
    for (std::uint32_t i = 0; i < static_cast<std::uint32_t>(sides); ++i) {
        const std::uint32_t p = first + 2 * i;
        part.indices.insert(part.indices.end(), {p, p + 2, p + 3, p, p + 3, p + 1});
    }
    if (!caps) return;
    for (int end = 0; end < 2; ++end) {
        const float r = end ? rb : ra;
        if (r <= 0) continue;
        const auto center = static_cast<std::uint32_t>(part.vertices.size());
        for (int i = -1; i <= sides; ++i) {
            const float t = 6.2831853f * std::max(i, 0) / sides;
            Vertex v;
            v.position = (end ? b : a) + (i < 0 ? vec3(0) : (u * std::cos(t) + w * std::sin(t)) * r);
            v.normal = end ? axis : -axis;
            v.uv = glm::vec2(v.position.x, v.position.z) / uvScale;
            part.vertices.push_back(v);
        }
        for (std::uint32_t i = 1; i <= static_cast<std::uint32_t>(sides); ++i) {
            if (end)
                part.indices.insert(part.indices.end(), {center, center + i, center + i + 1});
            else
                part.indices.insert(part.indices.end(), {center, center + i + 1, center + i});
        }
    }
}

void MeshBuilder::sphere(int material, vec3 c, float r, int around, int rings) {
    std::vector<std::vector<vec3>> sections;
    for (int j = 0; j <= rings; ++j) {
        const float p = 3.14159265f * (static_cast<float>(j) / rings - 0.5f);
        std::vector<vec3> ring;
        for (int i = 0; i <= around; ++i) {
            const float t = 6.2831853f * i / around;
            ring.push_back(c + r * vec3(std::cos(p) * std::cos(t), std::sin(p), std::cos(p) * std::sin(t)));
        }
        sections.push_back(ring);
    }
    const std::size_t before = parts_[material].vertices.size();
    loft(material, sections, true);
    auto& vertices = parts_[material].vertices;
    for (std::size_t i = before; i < vertices.size(); ++i)
        vertices[i].normal = glm::normalize(vertices[i].position - c);
}

void MeshBuilder::torus(int material, vec3 c, vec3 axis, float radius, float tube, int around, int sides) {
    const vec3 u = side_of(axis), w = glm::cross(axis, u);
    std::vector<std::vector<vec3>> sections;
    for (int i = 0; i <= around; ++i) {
        const float t = 6.2831853f * i / around;
        const vec3 out = u * std::cos(t) + w * std::sin(t);
        std::vector<vec3> ring;
        for (int j = 0; j <= sides; ++j) {
            const float p = 6.2831853f * j / sides;
            ring.push_back(c + out * (radius + tube * std::cos(p)) + axis * (tube * std::sin(p)));
        }
        sections.push_back(ring);
    }
    loft(material, sections, true);
}

void MeshBuilder::loft(int material, const std::vector<std::vector<vec3>>& s, bool flip) {
    Part& part = parts_[material];
    const auto first = static_cast<std::uint32_t>(part.vertices.size());
    const int n = static_cast<int>(s.size()), m = static_cast<int>(s[0].size());
    for (int j = 0; j < n; ++j) {
        float along = 0;
        for (int i = 0; i < m; ++i) {
            const vec3 across = s[std::min(j + 1, n - 1)][i] - s[std::max(j - 1, 0)][i];
            const bool closed = glm::length(s[j][0] - s[j][m - 1]) < 1e-5f;
            const vec3 before = i > 0    ? s[j][i - 1]
                                : closed ? s[j][m - 2]
                                         : s[j][0],
                       after = i < m - 1 ? s[j][i + 1]
                               : closed  ? s[j][1]
                                         : s[j][m - 1];
            vec3 normal = glm::cross(after - before, across) * (flip ? -1.0f : 1.0f);
            const float l = glm::length(normal);
            Vertex v;
            v.position = s[j][i];
            v.normal = l > 1e-9f ? normal / l : vec3(0, 1, 0);
            if (i > 0) along += glm::length(s[j][i] - s[j][i - 1]);
            v.uv = glm::vec2(along, glm::length(s[j][i] - s[0][i])) / uvScale;
            part.vertices.push_back(v);
        }
    }
    const auto add = [&part](std::uint32_t a, std::uint32_t b, std::uint32_t c) {
        const vec3 p = part.vertices[a].position;
        // Where sections close to a point, half of the triangles have no area.
        if (glm::length(glm::cross(part.vertices[b].position - p, part.vertices[c].position - p)) > 1e-9f)
            part.indices.insert(part.indices.end(), {a, b, c});
    };
    for (int j = 0; j + 1 < n; ++j)
        for (int i = 0; i + 1 < m; ++i) {
            const std::uint32_t a = first + j * m + i, b = a + 1, c = a + m, d = c + 1;
            add(a, flip ? d : b, flip ? b : d);
            add(a, flip ? c : d, flip ? d : c);
        }
}

std::size_t MeshBuilder::triangles() const {
    std::size_t n = 0;
    for (const auto& [m, part] : parts_)
        n += part.indices.size() / 3;
    return n;
}

} // namespace mirolux::demo
