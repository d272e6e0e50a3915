#include "demo/stress.h"
#include "demo/glb_writer.h"
#include "demo/mesh_builder.h"
#include <cmath>
#include <random>

namespace mirolux::demo {

static float random01(std::mt19937& r) {
    return static_cast<float>(r() >> 8) / 16777216.0f;
}

std::vector<Light> stress_lights(int count, std::uint32_t seed, const Box& where) {
    std::mt19937 r(seed);
    const float range = 9.0f * std::cbrt(64.0f / static_cast<float>(count)); // metres
    std::vector<Light> lights;
    for (int i = 0; i < count; ++i) {
        Light l;
        l.id = 1000000 + i;
        l.name = "stress " + std::to_string(i + 1);
        l.type = i % 3 == 2 ? LightType::spot : LightType::point;
        l.position = where.low + (where.high - where.low) * glm::vec3(random01(r), random01(r), random01(r));
        l.direction = glm::normalize(glm::vec3(random01(r) - 0.5f, -0.4f - random01(r), random01(r) - 0.5f));
        l.outerConeAngle = 0.35f + 0.8f * random01(r);
        l.innerConeAngle = 0.5f * l.outerConeAngle;
        l.range = range * (0.75f + 0.5f * random01(r));
        l.intensity = 1.5f * range * range;
        l.color = glm::vec3(0.35f) + 0.65f * glm::vec3(random01(r), random01(r), random01(r));
        lights.push_back(l);
    }
    return lights;
}

Result<void> write_hall(const std::filesystem::path& path, std::uint32_t seed) {
    std::mt19937 r(seed);
    GlbWriter glb;
    auto plain = [&](const char* name, glm::vec3 c, float roughness) {
        return glb.material(
            {{"name", name},
             {"pbrMetallicRoughness",
              {{"baseColorFactor", {c.r, c.g, c.b, 1.0}}, {"metallicFactor", 0.0}, {"roughnessFactor", roughness}}}});
    };
    const int floor = plain("floor", {0.42f, 0.42f, 0.43f}, 0.35f),
              pillar = plain("pillar", {0.55f, 0.53f, 0.50f}, 0.6f),
              block = plain("block", {0.35f, 0.38f, 0.44f}, 0.5f);
    auto at = [](glm::vec3 p) {
        glm::mat4 m(1.0f);
        m[3] = glm::vec4(p, 1);
        return m;
    };
    MeshBuilder cell, column;
    cell.quad(floor, {0, 0, 8}, {8, 0, 0}, {0, 0, -8}, 2, 2);
    column.cylinder(pillar, {0, 0, 0}, {0, 9, 0}, 0.6f, 0.5f, 24);
    const int cellMesh = glb.mesh("floor", cell), columnMesh = glb.mesh("pillar", column);
    for (int x = -4; x < 4; ++x)
        for (int z = -4; z < 4; ++z) {
            glb.node("floor", cellMesh, at({8.0f * x, 0, 8.0f * z}));
            glb.node("pillar", columnMesh, at({8.0f * x + 4, 0, 8.0f * z + 4}));
        }
    for (int i = 0; i < 60; ++i) {
        MeshBuilder b;
        const glm::vec3 size(0.5f + 2 * random01(r), 0.3f + 3 * random01(r), 0.5f + 2 * random01(r));
        b.box(block, -0.5f * glm::vec3(size.x, 0, size.z), size);
        glb.node("block", glb.mesh("block", b), at({(random01(r) - 0.5f) * 60, 0, (random01(r) - 0.5f) * 60}));
    }
    glb.camera({"hall", {-26, 5, 27}, {4, 1, -6}, 0.95f, 0.1f});
    return glb.write(path);
}

} // namespace mirolux::demo
