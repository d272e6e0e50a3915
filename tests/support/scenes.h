#pragma once
#include "core/scene/object_edit.h"
#include "core/scene/project.h"
#include "core/surface/optics.h"
#include <random>

namespace mirolux::test {

/// Adds a box or a quad as a primitive with one object.
inline void add_quad(SceneAsset& asset, int material, glm::vec3 p, glm::vec3 du, glm::vec3 dv) {
    Primitive q;
    q.material = material;
    const glm::vec3 n = glm::normalize(glm::cross(du, dv)), t = glm::normalize(du);
    for (int i = 0; i < 4; ++i) {
        Vertex v;
        v.position = p + (i & 1 ? du : glm::vec3(0)) + (i & 2 ? dv : glm::vec3(0));
        v.normal = n;
        v.tangent = glm::vec4(t, 1);
        v.uv = {i & 1 ? 1 : 0, i & 2 ? 1 : 0};
        q.vertices.push_back(v);
        q.bounds.add(v.position);
    }
    q.indices = {0, 1, 3, 0, 3, 2};
    Object o;
    o.primitive = static_cast<int>(asset.primitives.size());
    o.bounds = q.bounds;
    asset.primitives.push_back(q);
    asset.objects.push_back(o);
    asset.objectNames.push_back({"quad " + std::to_string(asset.objects.size() - 1), "quad", -1});
    asset.bounds.add(q.bounds);
}

inline void add_box(SceneAsset& asset, int material, glm::vec3 low, glm::vec3 size) {
    const glm::vec3 x(size.x, 0, 0), y(0, size.y, 0), z(0, 0, size.z);
    add_quad(asset, material, low + z, x, y);
    add_quad(asset, material, low + x, -x, y);
    add_quad(asset, material, low + x + z, -z, y);
    add_quad(asset, material, low, z, y);
    add_quad(asset, material, low + y + z, x, -z);
    add_quad(asset, material, low, x, z);
}

inline Material plain_material(glm::vec3 color, float metallic, float roughness) {
    Material m;
    m.baseColor = glm::vec4(color, 1);
    m.metallic = metallic;
    m.roughness = roughness;
    return m;
}

inline std::shared_ptr<const SceneAsset> finished(SceneAsset asset) {
    asset.materials.push_back(Material{});
    add_proxy_box(asset);
    (void)number_optics(asset);
    return std::make_shared<const SceneAsset>(std::move(asset));
}

/// A white plane of 20 x 20 m at y = 0.
inline std::shared_ptr<const SceneAsset> white_plane() {
    SceneAsset a;
    a.materials.push_back(plain_material(glm::vec3(1), 0, 1));
    add_quad(a, 0, {-10, 0, 10}, {20, 0, 0}, {0, 0, -20});
    return finished(std::move(a));
}

/// Of random_scene's materials the ground gets a coat, one kind of box becomes wax, another is of a dense glass.
inline void give_optics(Scene& scene) {
    auto asset = std::make_shared<SceneAsset>(*scene.asset);
    asset->materials[0].optics.coat = 0.7f;
    asset->materials[0].optics.coatRoughness = 0.2f;
    asset->materials[1].metallic = 0;
    asset->materials[1].optics.scatterDistance = {0.3f, 0.15f, 0.08f};
    asset->materials[1].optics.thickness = 0.4f;
    asset->materials[2].metallic = 0;
    asset->materials[2].optics.f0 = {0.12f, 0.1f, 0.05f};
    asset->materials[2].optics.f90 = 0.8f;
    (void)number_optics(*asset);
    scene.asset = asset;
}

inline float random01(std::mt19937& r) {
    return static_cast<float>(r() >> 8) / 16777216.0f;
}
inline float random_in(std::mt19937& r, float low, float high) {
    return low + (high - low) * random01(r);
}

/// Seeded: floor, boxes (some sharing faces, some blended, some masked), and `lights` lights of all types, some with
/// odd values.
inline Scene random_scene(std::uint32_t seed, int lights) {
    std::mt19937 r(seed);
    SceneAsset a;
    for (int i = 0; i < 5; ++i)
        a.materials.push_back(plain_material({random01(r), random01(r), random01(r)}, random01(r) < 0.3f ? 1.0f : 0.0f,
                                             random_in(r, 0.1f, 1.0f)));
    a.materials[3].alphaMode = AlphaMode::blend;
    a.materials[3].baseColor.a = 0.4f;
    a.materials[3].doubleSided = true;
    a.materials[4].alphaMode = AlphaMode::mask;
    a.materials[4].alphaCutoff = 0.2f;
    for (int x = -2; x < 2; ++x)
        for (int z = -2; z < 2; ++z)
            add_quad(a, 0, {6.0f * x, 0, 6.0f * z + 6}, {6, 0, 0}, {0, 0, -6});
    for (int i = 0; i < 12; ++i) {
        const glm::vec3 low(random_in(r, -9, 8), 0, random_in(r, -9, 8)),
            size(random_in(r, 0.5f, 3), random_in(r, 0.5f, 4), random_in(r, 0.5f, 3));
        add_box(a, static_cast<int>(r() % 5), low, size);
        if (i % 4 == 0) add_box(a, 1, low + glm::vec3(size.x * 0.5f, 0, 0), size); // coplanar faces, on purpose
    }
    Scene s;
    s.asset = finished(std::move(a));
    for (int i = 0; i < lights; ++i) {
        Light l;
        l.id = i;
        l.name = "light " + std::to_string(i);
        l.type = i == 0 ? LightType::directional : r() % 2 ? LightType::point : LightType::spot;
        l.position = {random_in(r, -11, 11), random_in(r, 0.2f, 6), random_in(r, -11, 11)};
        l.direction = glm::normalize(glm::vec3(random_in(r, -1, 1), random_in(r, -1.5f, 0.4f), random_in(r, -1, 1)) +
                                     glm::vec3(0, 0.01f, 0));
        l.color = {random01(r), random01(r), random01(r)};
        l.intensity = l.type == LightType::directional ? random_in(r, 0.1f, 1) : random_in(r, 1, 60);
        l.range = r() % 5 == 0 ? 0.0f : random_in(r, 0.8f, 9);
        l.outerConeAngle = glm::radians(random_in(r, 5, 89));
        l.innerConeAngle = l.outerConeAngle * random01(r);
        if (r() % 13 == 0) l.intensity = 0;
        l.diffuseShare = i % 5 == 4 ? 0.4f : 1.0f;
        l.specularShare = i % 4 == 3 ? 0.0f : 1.0f;
        s.lights.push_back(l);
    }
    s.sky = {{0.1f, 0.1f, 0.12f}, {0.02f, 0.03f, 0.05f}};
    return s;
}

/// Two view-locked lights on everything, one on every second object, a ball and a cone that cross.
inline void add_cheap_lights(Scene& s) {
    for (const CheapStart start : cheapStarts) {
        s.cheapLights.push_back(starter(start, 1, {1, 0.5f, 2}));
        CheapLight& l = s.cheapLights.back();
        l.id = static_cast<int>(s.cheapLights.size());
        l.reach = 6;
        l.tint = {1.8f, 1.3f, 0.7f};
        if (start == CheapStart::bounce)
            for (std::size_t o = 0; o < s.objects().size(); o += 2)
                l.objects.push_back(object_name(s, static_cast<int>(o)).id);
    }
}

inline View view_from(glm::vec3 eye, glm::vec3 aim, int width, int height) {
    View v;
    v.camera.eye = eye;
    v.camera.aim = aim;
    v.width = width;
    v.height = height;
    return v;
}

} // namespace mirolux::test
