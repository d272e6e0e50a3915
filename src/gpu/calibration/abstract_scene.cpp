#include "gpu/calibration/abstract_scene.h"
#include "core/flat/flat_view.h"
#include <cmath>
#include <random>

namespace mirolux::gpu {

namespace {

float random01(std::mt19937& r) {
    return static_cast<float>(r() >> 8) / 16777216.0f;
}

/// Adds a primitive and one object of it, where it is.
void place(SceneAsset& asset, Primitive primitive) {
    Object o;
    o.primitive = static_cast<int>(asset.primitives.size());
    o.bounds = primitive.bounds;
    asset.bounds.add(primitive.bounds);
    asset.primitives.push_back(std::move(primitive));
    asset.objects.push_back(o);
    asset.objectNames.push_back({std::to_string(asset.objects.size() - 1), "", -1});
}

void add_quad(SceneAsset& asset, int material, glm::vec3 corner, glm::vec3 u, glm::vec3 v) {
    Primitive q;
    q.material = material;
    const glm::vec3 normal = glm::normalize(glm::cross(u, v)), tangent = glm::normalize(u);
    for (int i = 0; i < 4; ++i) {
        Vertex vertex;
        vertex.position = corner + (i & 1 ? u : glm::vec3(0)) + (i & 2 ? v : glm::vec3(0));
        vertex.normal = normal;
        vertex.tangent = glm::vec4(tangent, 1);
        vertex.uv = {(i & 1 ? 1.0f : 0.0f) * glm::length(u), (i & 2 ? 1.0f : 0.0f) * glm::length(v)};
        q.vertices.push_back(vertex);
        q.bounds.add(vertex.position);
    }
    q.indices = {0, 1, 3, 0, 3, 2};
    place(asset, std::move(q));
}

/// A box as one primitive.
void add_box(SceneAsset& asset, int material, glm::vec3 low, glm::vec3 size) {
    SceneAsset sides;
    const glm::vec3 x(size.x, 0, 0), y(0, size.y, 0), z(0, 0, size.z);
    for (const auto& [corner, u, v] :
         {std::tuple(low + z, x, y), std::tuple(low + x, -x, y), std::tuple(low + x + z, -z, y), std::tuple(low, z, y),
          std::tuple(low + y + z, x, -z), std::tuple(low, x, z)})
        add_quad(sides, material, corner, u, v);
    Primitive whole;
    whole.material = material;
    for (const Primitive& p : sides.primitives) {
        const auto base = static_cast<std::uint32_t>(whole.vertices.size());
        whole.vertices.insert(whole.vertices.end(), p.vertices.begin(), p.vertices.end());
        for (const std::uint32_t i : p.indices)
            whole.indices.push_back(base + i);
        whole.bounds.add(p.bounds);
    }
    place(asset, std::move(whole));
}

/// A material with noise in its first `textures` slots; normals stay near up.
int add_material(SceneAsset& asset, std::mt19937& random, int textures) {
    Material m;
    m.baseColor = {0.3f + 0.5f * random01(random), 0.3f + 0.5f * random01(random), 0.3f + 0.5f * random01(random), 1};
    m.metallic = random01(random);
    m.roughness = 0.3f + 0.6f * random01(random);
    for (int slot = 0; slot < textures; ++slot) {
        TextureImage image;
        image.name = "noise";
        image.width = image.height = 256;
        image.rgba.resize(4u * 256 * 256);
        for (std::uint8_t& byte : image.rgba)
            byte = static_cast<std::uint8_t>(96 + random() % 64);
        Texture texture;
        texture.image = static_cast<int>(asset.images.size());
        asset.images.push_back(std::move(image));
        m.textures[slot] = static_cast<int>(asset.textures.size());
        asset.textures.push_back(texture);
    }
    asset.materials.push_back(m);
    return static_cast<int>(asset.materials.size()) - 1;
}

AbstractScene finished(std::string name, SceneAsset asset, glm::vec3 eye, glm::vec3 aim) {
    asset.materials.push_back(Material{});
    AbstractScene s;
    s.name = std::move(name);
    s.scene.asset = std::make_shared<const SceneAsset>(std::move(asset));
    s.scene.sky = {{0.1f, 0.1f, 0.12f}, {0.02f, 0.03f, 0.05f}};
    s.camera.eye = eye;
    s.camera.aim = aim;
    return s;
}

} // namespace

AbstractScene wall(int textures) {
    std::mt19937 random(11);
    SceneAsset a;
    add_quad(a, add_material(a, random, textures), {-20, -12, 0}, {40, 0, 0}, {0, 24, 0});
    return finished("wall of " + std::to_string(textures) + " textures", std::move(a), {0, 0, 10}, {0, 0, 0});
}

AbstractScene crowd(int blocks) {
    std::mt19937 random(12);
    SceneAsset a;
    std::vector<int> materials;
    for (int i = 0; i < 8; ++i)
        materials.push_back(add_material(a, random, i % 2 ? 3 : 0));
    add_quad(a, materials[1], {-30, 0, 30}, {60, 0, 0}, {0, 0, -60});
    for (int i = 0; i < blocks; ++i) {
        const glm::vec3 size(0.5f + 1.5f * random01(random), 0.5f + 4 * random01(random),
                             0.5f + 1.5f * random01(random));
        add_box(a, materials[random() % materials.size()],
                {-28 + 56 * random01(random), 0, -28 + 56 * random01(random)}, size);
    }
    return finished("crowd of " + std::to_string(blocks), std::move(a), {0, 9, 26}, {0, 1, 0});
}

AbstractScene mesh(int triangles) {
    std::mt19937 random(13);
    SceneAsset a;
    Primitive p;
    p.material = add_material(a, random, 1);
    const int side = std::max(1, static_cast<int>(std::lround(std::sqrt(triangles / 2.0))));
    for (int y = 0; y <= side; ++y)
        for (int x = 0; x <= side; ++x) {
            Vertex v;
            v.position = {-16 + 32.0f * static_cast<float>(x) / static_cast<float>(side),
                          -9 + 18.0f * static_cast<float>(y) / static_cast<float>(side), 0.4f * random01(random)};
            v.normal = {0, 0, 1};
            v.uv = {v.position.x, v.position.y};
            p.vertices.push_back(v);
            p.bounds.add(v.position);
        }
    const auto row = static_cast<std::uint32_t>(side + 1);
    for (std::uint32_t y = 0; y + 1 < row; ++y)
        for (std::uint32_t x = 0; x + 1 < row; ++x) {
            const std::uint32_t i = y * row + x;
            p.indices.insert(p.indices.end(), {i, i + 1, i + row + 1, i, i + row + 1, i + row});
        }
    place(a, std::move(p));
    return finished("mesh of " + std::to_string(triangles), std::move(a), {0, 0, 14}, {0, 0, 0});
}

AbstractScene panes(int count) {
    std::mt19937 random(14);
    SceneAsset a;
    add_quad(a, add_material(a, random, 1), {-20, -12, 0}, {40, 0, 0}, {0, 24, 0});
    const int glass = add_material(a, random, 0);
    a.materials[static_cast<std::size_t>(glass)].alphaMode = AlphaMode::blend;
    a.materials[static_cast<std::size_t>(glass)].baseColor.a = 0.3f;
    for (int i = 0; i < count; ++i)
        add_quad(a, glass, {-6, -4, 0.5f + 0.5f * static_cast<float>(i)}, {12, 0, 0}, {0, 8, 0});
    return finished(std::to_string(count) + " panes", std::move(a), {0, 0, 12}, {0, 0, 0});
}

std::vector<Light> strewn_lights(int count, const Box& where, float range, std::uint32_t seed) {
    std::mt19937 random(seed);
    std::vector<Light> lights;
    const glm::vec3 size = where.size();
    for (int i = 0; i < count; ++i) {
        Light l;
        l.id = i;
        l.name = "light " + std::to_string(i);
        l.type = i % 3 == 2 ? LightType::spot : LightType::point;
        l.position = where.low + size * glm::vec3(random01(random), random01(random), random01(random)) +
                     glm::vec3(0, 0.5f, size.z < 1 ? 1.0f : 0.0f);
        l.direction = glm::normalize(glm::vec3(random01(random) - 0.5f, -1, random01(random) - 0.5f));
        l.outerConeAngle = 0.7f;
        l.intensity = 20;
        l.range = range;
        lights.push_back(l);
    }
    return lights;
}

AbstractScene board(int walls) {
    constexpr int width = 256, height = 144;
    std::mt19937 random(31);
    AbstractScene out{"a board of " + std::to_string(walls) + " walls", {}, {}};
    auto asset = std::make_shared<SceneAsset>();
    TextureImage noise{"noise", width, height, {}};
    for (int i = 0; i < width * height * 4; ++i)
        noise.rgba.push_back(i % 4 == 3 ? 255 : static_cast<std::uint8_t>(60 + (random() >> 8) % 180));
    asset->images = {noise};
    asset->materials = {Material{}};
    asset->digest = 3100 + static_cast<std::uint64_t>(walls);
    auto world = std::make_shared<flat::World>();
    flat::Sheet sheet;
    sheet.name = "noise";
    sheet.image = 0;
    sheet.cellWidth = width;
    sheet.cellHeight = height;
    world->sheets = {sheet};
    world->layers = {{"ground", 1, true, glm::vec4(1)}};
    flat::Sprite ground;
    ground.id = 1;
    ground.name = "ground";
    ground.place = {width / 2, height / 2};
    world->sprites = {ground};
    world->high = {width, height};
    for (int i = 0; i < walls; ++i) {
        flat::Wall wall;
        wall.id = i + 1;
        wall.name = std::to_string(wall.id);
        const glm::dvec2 at(width * random01(random), height * random01(random));
        const double turn = 6.28 * random01(random), size = 2 + 6 * random01(random);
        for (int k = 0; k < 4; ++k)
            wall.outline.points.push_back(at +
                                          size * glm::dvec2(std::cos(turn + 1.5708 * k), std::sin(turn + 1.5708 * k)));
        world->walls.push_back(wall);
    }
    asset->flat = world;
    out.scene.asset = asset;
    out.scene.flat = world;
    out.camera = flat::camera_at({width / 2, height / 2}, height);
    return out;
}

void strew_on_board(Scene& scene, int count, float range, std::uint32_t seed) {
    std::mt19937 random(seed);
    for (int i = 0; i < count; ++i) {
        Light l;
        l.id = i + 1;
        l.name = std::to_string(l.id);
        l.position = {scene.flat->high.x * random01(random), scene.flat->high.y * random01(random), 10};
        l.range = range;
        scene.lights.push_back(l);
    }
}

} // namespace mirolux::gpu
