#pragma once
#include "core/flat/flat_view.h"
#include "core/plan/settings.h"
#include "core/scene/scene.h"
#include <random>

namespace mirolux::test {

/// A seeded flat stage of 128 by 72 units: a sheet of random colours over all of it, lights of every round kind, walls.
struct FlatStage {
    Scene scene;
    View view;
    Setup setup;
    const TextureImage& sheet() const { return scene.asset->images.front(); }
};

inline FlatStage flat_stage(unsigned seed, int lights, int walls) {
    std::mt19937 random(seed);
    const auto share = [&] { return static_cast<float>(random() % 100000) / 100000.0f; };
    auto asset = std::make_shared<SceneAsset>();
    auto world = std::make_shared<flat::World>();
    TextureImage image{"sheet", 128, 72, {}};
    for (int i = 0; i < 128 * 72; ++i) {
        for (int c = 0; c < 3; ++c)
            image.rgba.push_back(static_cast<std::uint8_t>(40 + random() % 216));
        image.rgba.push_back(255);
    }
    asset->images = {image};
    asset->materials = {Material{}};
    asset->digest = seed;
    flat::Sheet sheet;
    sheet.name = "sheet";
    sheet.image = 0;
    sheet.cellWidth = 128;
    sheet.cellHeight = 72;
    world->sheets = {sheet};
    world->layers = {{"ground", 1, true, glm::vec4(1)}};
    flat::Sprite ground;
    ground.id = 1;
    ground.name = "ground";
    ground.place = {64, 36};
    world->sprites = {ground};
    world->high = {128, 72};
    for (int i = 0; i < walls; ++i) {
        flat::Wall wall;
        wall.id = i + 1;
        wall.name = "wall " + std::to_string(i + 1);
        const glm::dvec2 at(10 + 108 * share(), 8 + 56 * share());
        const double turn = 6 * share(), size = 2 + 4 * share();
        for (int k = 0; k < 4; ++k)
            wall.outline.points.push_back(at +
                                          size * glm::dvec2(std::cos(turn + 1.5708 * k), std::sin(turn + 1.5708 * k)));
        world->walls.push_back(wall);
    }
    asset->flat = world;
    FlatStage out;
    for (int i = 0; i < lights; ++i) {
        Light l;
        l.id = i + 1;
        l.name = "light " + std::to_string(l.id);
        l.color = {0.2f + 0.8f * share(), 0.2f + 0.8f * share(), 0.2f + 0.8f * share()};
        l.intensity = 0.2f + 1.1f * share();
        l.position = {128 * share(), 72 * share(), 4 + 20 * share()};
        l.range = 12 + 40 * share();
        if (i % 5 == 3) {
            l.type = LightType::spot;
            const float a = 6.28f * share();
            l.direction = {std::cos(a), std::sin(a), 0};
            l.innerConeAngle = 0.2f;
            l.outerConeAngle = 0.5f + 0.5f * share();
        }
        out.scene.lights.push_back(l);
    }
    out.scene.asset = asset;
    out.scene.flat = world;
    out.view.camera = flat::camera_at({64, 36}, 72);
    out.view.width = 128;
    out.view.height = 72;
    out.setup.stage = Stage::flat;
    for (const auto& [key, value] : {std::pair<const char*, Value>{"tone.curve", std::string("clamp")},
                                     {"output.dither", false},
                                     {"path.targetFormat", std::string("rgba32f")}})
        if (!out.setup.set(key, value)) std::abort();
    return out;
}

} // namespace mirolux::test
