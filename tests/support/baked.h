#pragma once
#include "core/bake/baked_light.h"
#include "support/traced.h"
#include "support/two_rooms.h"
#include <QTemporaryDir>

// Scenes with light that was computed beforehand.
namespace mirolux::test {

/// Bakes to the end and keeps it beside the scene.
inline LightMap bake_map(const Scene& scene, const Setup& setup, const LightMapOptions& options) {
    auto bake = LightMapBake::begin(scene, setup, options);
    if (!bake) qFatal("%s", to_text(bake.error()).c_str());
    while (!(*bake)->work(1000))
        ;
    if (auto ok = (*bake)->keep(); !ok) qFatal("%s", to_text(ok.error()).c_str());
    return (*bake)->map();
}

/// The same of anything else.
template <class Begun>
void bake_whole(Begun bake) {
    if (!bake) qFatal("%s", to_text(bake.error()).c_str());
    while (!(*bake)->work(1000))
        ;
    if (auto ok = (*bake)->keep(); !ok) qFatal("%s", to_text(ok.error()).c_str());
}

/// A setup that reads the map of these options.
inline Setup mapped_setup(const LightMapOptions& options, Setup setup = lambert(), const char* kind = "plain") {
    const std::pair<std::string, std::string> values[] = {{"indirect.kind", "lightmap"},
                                                          {"lightmap.density", std::to_string(options.density)},
                                                          {"lightmap.paths", std::to_string(options.samples)},
                                                          {"lightmap.bounces", std::to_string(options.bounces)},
                                                          {"lightmap.kind", kind}};
    for (const auto& [key, value] : values)
        if (auto ok = setup.set_text(key, value); !ok) qFatal("%s", to_text(ok.error()).c_str());
    return setup;
}

/// A closed box around the origin, seen from within, 4 x 3 x 5 m, of one albedo, that glows: irradiance over pi is
/// emission / (1 - albedo) everywhere in it.
inline SceneAsset glowing_box(double albedo, double emission) {
    SceneAsset a;
    a.materials.push_back(diffuse(albedo, emission, true));
    add_box(a, 0, {-2, -1, -3}, {4, 3, 5});
    for (std::size_t i = 0; i < 6; ++i) {
        std::vector<std::uint32_t> turned = a.primitives[i].indices;
        std::reverse(turned.begin(), turned.end());
        a.primitives[i].indices = turned;
        std::vector<Vertex> v = a.primitives[i].vertices;
        for (Vertex& n : v)
            n.normal = -n.normal;
        a.primitives[i].vertices = v;
    }
    return a;
}

/// A box that is drawn nowhere, as probes are placed by hand.
inline void add_hidden(SceneAsset& asset, const std::string& name, const glm::vec3& middle) {
    const int i = add_solid(asset, name, {middle - 0.1f, middle + 0.1f});
    asset.objects[static_cast<std::size_t>(i)].hidden = true;
}

/// An upright tube without ends around the origin, two metres across and high, smooth all around, seen from outside.
inline void add_tube(SceneAsset& a, int material, int sides = 24) {
    Primitive p;
    p.material = material;
    for (int i = 0; i < sides; ++i)
        for (int k = 0; k < 2; ++k) {
            const auto turn = static_cast<float>(2 * M_PI * i / sides);
            Vertex v;
            v.normal = {std::cos(turn), 0, std::sin(turn)};
            v.position = v.normal + glm::vec3(0, 2 * k, 0);
            v.tangent = {-std::sin(turn), 0, std::cos(turn), 1};
            p.vertices.push_back(v);
            p.bounds.add(v.position);
        }
    for (int i = 0; i < sides; ++i) {
        const auto at = [&](int side, int up) { return static_cast<std::uint32_t>(2 * (side % sides) + up); };
        for (const std::uint32_t v : {at(i, 0), at(i, 1), at(i + 1, 1), at(i, 0), at(i + 1, 1), at(i + 1, 0)})
            p.indices.push_back(v);
    }
    Object o;
    o.primitive = static_cast<int>(a.primitives.size());
    o.bounds = p.bounds;
    a.primitives.push_back(p);
    a.objects.push_back(o);
    a.objectNames.push_back({"tube", "tube", -1});
    a.bounds.add(p.bounds);
}

} // namespace mirolux::test
