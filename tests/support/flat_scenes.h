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

/// A white stage of 128 by 72 units for light that travels: "open" (two lamps and a wall), "room" (closed but for a
/// door), "slit" (a sun through a narrow gap), "pillars" (a row of them before a lamp), "mixed" (a spot, a tube and a
/// sun), "spared" (no shadow falls on its ground), "lamps" (sixty small ones).
inline FlatStage plane_scene(const std::string& name) {
    FlatStage out = flat_stage(1, 0, 0);
    auto asset = std::make_shared<SceneAsset>(*out.scene.asset);
    std::fill(asset->images[0].rgba.begin(), asset->images[0].rgba.end(), std::uint8_t(255));
    asset->digest = 1000 + std::hash<std::string>()(name) % 1000;
    auto world = std::make_shared<flat::World>(*out.scene.flat);
    const auto wall = [&](std::vector<glm::dvec2> points, float emits = 0, float reflects = 0.5f) {
        flat::Wall w;
        w.id = static_cast<int>(world->walls.size()) + 1;
        w.name = "wall " + std::to_string(w.id);
        w.outline.points = std::move(points);
        w.emits = glm::vec3(emits);
        w.reflects = glm::vec3(reflects);
        world->walls.push_back(std::move(w));
    };
    const auto box = [&](double x, double y, double width, double height, float emits = 0, float reflects = 0.5f) {
        wall({{x, y}, {x + width, y}, {x + width, y + height}, {x, y + height}}, emits, reflects);
    };
    const auto lamp = [&](float x, float y, float range, float intensity, float size) {
        Light l;
        l.id = static_cast<int>(out.scene.lights.size()) + 1;
        l.name = "lamp " + std::to_string(l.id);
        l.position = {x, y, 5};
        l.range = range;
        l.intensity = intensity;
        l.sourceSize = size;
        out.scene.lights.push_back(l);
    };
    glm::vec3 ambient(0.1f);
    if (name == "open") {
        lamp(30, 40, 70, 0.9f, 6);
        lamp(100, 20, 60, 0.6f, 10);
        box(60, 10, 8, 30);
    } else if (name == "room") {
        box(16, 8, 96, 5);
        box(16, 60, 96, 5);
        box(16, 8, 5, 57);
        box(107, 8, 5, 22);
        box(107, 44, 5, 21);
        box(60, 13, 6, 26, 0, 0.8f);
        lamp(36, 36, 80, 0.8f, 6);
        ambient = glm::vec3(0.3f);
    } else if (name == "slit") {
        box(44, -10, 6, 42);
        box(44, 40, 6, 42);
        lamp(18, 36, 110, 1.2f, 8);
        ambient = glm::vec3(0.05f);
    } else if (name == "pillars") {
        for (int i = 0; i < 5; ++i)
            wall({{44.0, 6.0 + 13 * i}, {49.0, 11.0 + 13 * i}, {44.0, 16.0 + 13 * i}, {39.0, 11.0 + 13 * i}});
        box(110, 20, 6, 32, 0.6f, 0.2f);
        lamp(16, 34, 110, 1.0f, 8);
    } else if (name == "mixed") {
        lamp(30, 50, 80, 0.9f, 6);
        Light& spot = out.scene.lights.back();
        spot.type = LightType::spot;
        spot.direction = {0.8f, -0.6f, 0};
        spot.innerConeAngle = 0.4f;
        spot.outerConeAngle = 0.7f;
        lamp(96, 52, 50, 0.5f, 4);
        Light& tube = out.scene.lights.back();
        tube.flat.shape = FlatShape::line;
        tube.flat.length = 24;
        tube.flat.turn = 0.5f;
        lamp(0, 0, 0, 0.25f, 0.5f); // radians across
        Light& sun = out.scene.lights.back();
        sun.type = LightType::directional;
        sun.direction = {0.6f, -0.8f, 0};
        box(60, 20, 8, 24);
        box(20, 12, 24, 6, 0.3f);
    } else if (name == "spared") {
        lamp(40, 36, 70, 0.7f, 6);
        box(70, 10, 24, 50);
        world->sprites[0].receives = false;
    } else {
        for (int i = 0; i < 60; ++i)
            lamp(static_cast<float>(6 + 12 * (i % 10)), static_cast<float>(6 + 12 * (i / 10)), 16, 0.35f, 2);
        box(30, 24, 40, 4);
        box(84, 10, 4, 44);
    }
    if (!out.setup.set("flat.ambient", ambient)) std::abort();
    asset->flat = world;
    out.scene.asset = asset;
    out.scene.flat = world;
    return out;
}

} // namespace mirolux::test
