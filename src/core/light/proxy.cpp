#include "core/light/proxy.h"
#include <array>
#include <glm/gtc/constants.hpp>
#include <map>

namespace mirolux {

ProxyMesh sphere_proxy(int subdivisions) {
    const float g = 0.5f * (1.0f + std::sqrt(5.0f)); // golden ratio: corners of the icosahedron
    ProxyMesh m;
    m.positions = {{-1, g, 0},  {1, g, 0},  {-1, -g, 0}, {1, -g, 0}, {0, -1, g},  {0, 1, g},
                   {0, -1, -g}, {0, 1, -g}, {g, 0, -1},  {g, 0, 1},  {-g, 0, -1}, {-g, 0, 1}};
    m.indices = {0, 11, 5, 0, 5, 1, 0, 1, 7, 0, 7, 10, 0, 10, 11, 1, 5, 9, 5, 11, 4,  11, 10, 2,  10, 7, 6, 7, 1, 8,
                 3, 9,  4, 3, 4, 2, 3, 2, 6, 3, 6, 8,  3, 8,  9,  4, 9, 5, 2, 4,  11, 6,  2,  10, 8,  6, 7, 9, 8, 1};
    for (glm::vec3& p : m.positions)
        p = glm::normalize(p);
    for (int step = 0; step < subdivisions; ++step) {
        std::map<std::pair<std::uint32_t, std::uint32_t>, std::uint32_t> middles;
        auto middle = [&](std::uint32_t a, std::uint32_t b) {
            const auto key = std::minmax(a, b);
            const auto [it, fresh] = middles.try_emplace(key, static_cast<std::uint32_t>(m.positions.size()));
            if (fresh) m.positions.push_back(glm::normalize(m.positions[a] + m.positions[b]));
            return it->second;
        };
        std::vector<std::uint32_t> finer;
        for (std::size_t i = 0; i < m.indices.size(); i += 3) {
            const std::uint32_t a = m.indices[i], b = m.indices[i + 1], c = m.indices[i + 2], ab = middle(a, b),
                                bc = middle(b, c), ca = middle(c, a);
            for (const std::uint32_t k : {a, ab, ca, ab, b, bc, ca, bc, c, ab, bc, ca})
                finer.push_back(k);
        }
        m.indices = std::move(finer);
    }
    float nearest = 1.0f;
    for (std::size_t i = 0; i < m.indices.size(); i += 3) {
        const glm::vec3 a = m.positions[m.indices[i]],
                        n = glm::cross(m.positions[m.indices[i + 1]] - a, m.positions[m.indices[i + 2]] - a);
        nearest = std::min(nearest, glm::dot(glm::normalize(n), a));
    }
    for (glm::vec3& p : m.positions)
        p /= nearest * 0.9999f; // a hair more, for float rounding in the vertex shader
    return m;
}

ProxyMesh cone_proxy(int sides) {
    ProxyMesh m;
    const float out = 1.0001f / std::cos(glm::pi<float>() / static_cast<float>(sides));
    m.positions.push_back({0, 0, -0.0001f});
    for (int i = 0; i < sides; ++i) {
        const float a = glm::two_pi<float>() * static_cast<float>(i) / static_cast<float>(sides);
        m.positions.push_back({std::cos(a) * out, std::sin(a) * out, 1.0001f});
    }
    m.positions.push_back({0, 0, 1.0001f});
    const auto base = static_cast<std::uint32_t>(sides + 1);
    for (std::uint32_t i = 0; i < static_cast<std::uint32_t>(sides); ++i) {
        const std::uint32_t a = 1 + i, b = 1 + (i + 1) % static_cast<std::uint32_t>(sides);
        for (const std::uint32_t k : {0u, b, a, base, a, b})
            m.indices.push_back(k);
    }
    return m;
}

glm::mat4 cone_place(const glm::vec3& tip, const glm::vec3& z, float length, float tangent) {
    const glm::vec3 x = glm::normalize(glm::cross(std::abs(z.y) < 0.9f ? glm::vec3(0, 1, 0) : glm::vec3(1, 0, 0), z)),
                    y = glm::cross(z, x);
    const float wide = length * tangent;
    return {glm::vec4(x * wide, 0), glm::vec4(y * wide, 0), glm::vec4(z * length, 0), glm::vec4(tip, 1)};
}

glm::mat4 ball_place(const glm::vec3& center, float radius) {
    return {glm::vec4(radius, 0, 0, 0), glm::vec4(0, radius, 0, 0), glm::vec4(0, 0, radius, 0), glm::vec4(center, 1)};
}

Proxy light_proxy(const Light& light, float reach) {
    if (light.type == LightType::spot && light.outerConeAngle <= glm::pi<float>() / 3.0f)
        return {ProxyShape::cone, cone_place(light.position, light.direction, reach, std::tan(light.outerConeAngle))};
    const Sphere s = light_bounds(light, reach);
    return {ProxyShape::sphere, ball_place(s.center, s.radius)};
}

} // namespace mirolux
