#include "core/scene/geometry.h"
#include <cmath>

namespace mirolux {

static glm::vec3 unit_or(const glm::vec3& v, const glm::vec3& fallback) {
    const float l = glm::length(v);
    return l > 1e-20f && std::isfinite(l) ? v / l : fallback;
}

static glm::vec3 any_orthogonal(const glm::vec3& n) {
    return unit_or(std::abs(n.x) < 0.9f ? glm::cross(n, glm::vec3(1, 0, 0)) : glm::cross(n, glm::vec3(0, 1, 0)),
                   glm::vec3(1, 0, 0));
}

void make_flat_normals(Primitive& primitive) {
    std::vector<Vertex> split;
    split.reserve(primitive.indices.size());
    for (std::size_t t = 0; t + 2 < primitive.indices.size(); t += 3) {
        Vertex corner[3];
        for (int k = 0; k < 3; ++k)
            corner[k] = primitive.vertices[primitive.indices[t + k]];
        const glm::vec3 normal = unit_or(
            glm::cross(corner[1].position - corner[0].position, corner[2].position - corner[0].position), {0, 1, 0});
        for (Vertex& v : corner) {
            v.normal = normal;
            split.push_back(v);
        }
    }
    primitive.vertices = std::move(split);
    for (std::size_t i = 0; i < primitive.indices.size(); ++i)
        primitive.indices[i] = static_cast<std::uint32_t>(i);
}

void make_tangents(Primitive& primitive) {
    std::vector<glm::vec3> along(primitive.vertices.size(), glm::vec3(0.0f)), across(along);
    for (std::size_t t = 0; t + 2 < primitive.indices.size(); t += 3) {
        const std::uint32_t i[3] = {primitive.indices[t], primitive.indices[t + 1], primitive.indices[t + 2]};
        const Vertex &a = primitive.vertices[i[0]], &b = primitive.vertices[i[1]], &c = primitive.vertices[i[2]];
        const glm::vec3 e1 = b.position - a.position, e2 = c.position - a.position;
        const glm::vec2 u1 = b.uv - a.uv, u2 = c.uv - a.uv;
        const float area = u1.x * u2.y - u2.x * u1.y;
        if (std::abs(area) < 1e-20f) continue;
        const float sign = area > 0.0f ? 1.0f : -1.0f;
        const glm::vec3 s = (e1 * u2.y - e2 * u1.y) * sign, r = (e2 * u1.x - e1 * u2.x) * sign;
        for (const std::uint32_t k : i) {
            along[k] += s;
            across[k] += r;
        }
    }
    for (std::size_t k = 0; k < primitive.vertices.size(); ++k) {
        Vertex& v = primitive.vertices[k];
        const glm::vec3 t = unit_or(along[k] - v.normal * glm::dot(v.normal, along[k]), any_orthogonal(v.normal));
        v.tangent = glm::vec4(t, glm::dot(glm::cross(v.normal, t), across[k]) < 0.0f ? -1.0f : 1.0f);
    }
}

Box transformed(const Box& box, const glm::mat4& m) {
    if (box.empty()) return box;
    const glm::vec3 c = glm::vec3(m * glm::vec4(box.center(), 1.0f));
    const glm::vec3 h = 0.5f * box.size();
    glm::vec3 extent(0.0f);
    for (int k = 0; k < 3; ++k)
        extent += glm::abs(glm::vec3(m[k])) * h[k];
    return {c - extent, c + extent};
}

glm::mat3 normal_matrix(const glm::mat4& m) {
    const glm::vec3 x(m[0]), y(m[1]), z(m[2]);
    const glm::mat3 cofactor(glm::cross(y, z), glm::cross(z, x), glm::cross(x, y));
    return glm::dot(x, cofactor[0]) < 0.0f ? -1.0f * cofactor : cofactor;
}

} // namespace mirolux
