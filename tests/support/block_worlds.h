#pragma once
#include "core/blocks/flood.h"
#include "core/plan/view.h"
#include <random>

namespace mirolux::test {

/// Air, stone, water (light passes and loses 3), and lamps of white, red and blue.
inline std::vector<blocks::Material> block_palette() {
    using blocks::Material;
    return {Material{"air", glm::vec3(0.0f), 1, 0, 0, glm::ivec3(0), 0, 0},
            Material{.name = "stone"},
            Material{.name = "water", .opacity = 0.4f, .loss = 3},
            Material{.name = "lamp", .glow = 50, .light = glm::ivec3(63, 60, 40)},
            Material{.name = "red lamp", .light = glm::ivec3(48, 0, 0)},
            Material{.name = "blue lamp", .light = glm::ivec3(0, 20, 63), .opacity = 0.5f}};
}

/// Stone with hollows, water, a few lamps, and open sky over some of it.
inline blocks::Volume random_world(std::mt19937& r, const glm::ivec3& size, double solid) {
    std::uniform_real_distribution<double> u;
    blocks::Volume v(size);
    for (int y = 0; y < size.y; ++y)
        for (int z = 0; z < size.z; ++z)
            for (int x = 0; x < size.x; ++x) {
                const double p = u(r) * (y > size.y * 2 / 3 ? 3 : 1);
                v.set({x, y, z}, p < solid            ? 1
                                 : p < solid + 0.02   ? 2
                                 : p < solid + 0.0215 ? std::uint8_t(3 + (x + y + z) % 3)
                                                      : 0);
            }
    return v;
}

/// A hollow of stone with lamps of metal and colour about, open above, and a prop that turns in it; without water.
struct BlockStage {
    Scene scene;
    Setup setup;
    View view;
};
inline BlockStage block_stage(int width = 96, int height = 54, bool water = false) {
    auto world = std::make_shared<blocks::World>();
    world->palette = block_palette();
    world->palette.push_back({.name = "steel", .color = {0.7f, 0.7f, 0.75f}, .roughness = 0.3f, .metallic = 1});
    world->edge = 0.5f;
    world->still = blocks::Volume(glm::ivec3(70, 40, 50));
    world->still.fill({0, 0, 0}, {70, 12, 50}, 1);
    world->still.fill({8, 4, 8}, {60, 12, 40}, 0); // a hollow
    world->still.fill({20, 4, 10}, {24, 14, 30}, 6);
    world->still.fill({8, 11, 8}, {34, 13, 24}, 1); // a roof over part of it
    std::mt19937 r(3);
    for (int i = 0; i < 60; ++i) {
        const glm::ivec3 at(9 + int(r() % 50), 4, 9 + int(r() % 30));
        world->still.fill(at, at + glm::ivec3(1 + int(r() % 3), 1 + int(r() % 5), 1), i % 3 ? 1 : 6);
    }
    for (const auto& [x, y, z, m] : {std::tuple(12, 6, 14, 3), {40, 7, 20, 4}, {52, 5, 34, 3}, {30, 10, 12, 3}})
        world->still.set({x, y, z}, std::uint8_t(m));
    if (water) world->still.fill({36, 4, 30}, {58, 6, 39}, 2);
    blocks::Prop prop{.name = "crate", .cells = random_world(r, {6, 5, 8}, 0.9)};
    for (int y = 0; y < 5; ++y)
        for (int z = 0; z < 8; ++z)
            for (int x = 0; x < 6; ++x)
                if (prop.cells.at({x, y, z}) > 1) prop.cells.set({x, y, z}, 1);
    prop.place = {46, 5, 26};
    prop.pivot = {3, 0, 4};
    prop.turn = 0.4f;
    prop.rate = 0.5f;
    world->props.push_back(prop);
    BlockStage s;
    auto asset = std::make_shared<SceneAsset>();
    asset->materials.emplace_back();
    asset->bounds = {glm::vec3(0), glm::vec3(35, 20, 25)};
    asset->blocks = world;
    s.scene.asset = asset;
    s.scene.blocks = world;
    s.scene.sky = {{0.2f, 0.25f, 0.3f}, {0.05f, 0.1f, 0.2f}};
    Light sun{.id = 1, .name = "sun", .type = LightType::directional};
    sun.direction = glm::normalize(glm::vec3(0.4f, -0.8f, 0.3f));
    sun.intensity = 3;
    s.scene.lights = {sun};
    s.setup.stage = Stage::blocks;
    s.view.camera = {.name = "test", .eye = {24, 12, 26}, .aim = {17, 3, 10}};
    s.view.width = width;
    s.view.height = height;
    s.view.seconds = 0.7;
    return s;
}

} // namespace mirolux::test
