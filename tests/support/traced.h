#pragma once
#include "core/light/luminance.h"
#include "core/truth/truth_picture.h"
#include "support/scenes.h"
#include <QtGlobal>

// What tests of truth have in common: plain scenes, and pictures of them.
namespace mirolux::test {

inline Setup lambert() {
    Setup s;
    for (const auto& [key, value] : {std::pair("shading.model", "lambert"), {"ambient.kind", "none"}})
        if (!s.set_text(key, value)) qFatal("%s", key);
    return s;
}
inline Material diffuse(double albedo, double emission, bool bothSides) {
    Material m = plain_material(glm::vec3(static_cast<float>(albedo)), 0, 1);
    m.emissive = glm::vec3(static_cast<float>(emission));
    m.doubleSided = bothSides;
    return m;
}
inline Light lamp(glm::vec3 position, float candela) {
    Light l;
    l.id = 1;
    l.name = "lamp";
    l.position = position;
    l.intensity = candela;
    return l;
}
inline truth::Picture traced(const Scene& scene, const Setup& setup, const View& view, const truth::Options& options,
                             std::uint32_t samples) {
    truth::Picture p(view.width, view.height);
    truth::refine(truth::PathTracer(scene, setup, view, options, std::make_shared<RayScene>(scene)), p, {samples, 0},
                  [](double) { return true; });
    return p;
}
inline double mean(const truth::Picture& p) {
    double sum = 0;
    for (std::size_t i = 0; i < p.sum.size(); ++i)
        sum += luminance(p.sum[i]) / p.count[i];
    return sum / static_cast<double>(p.sum.size());
}
/// A lit corner with all kinds of surfaces.
inline Scene corner(std::uint32_t seed) {
    Scene s = random_scene(seed, 12);
    return s;
}
inline View small(int width, int height) {
    return view_from({7, 5, 9}, {0, 1, 0}, width, height);
}

} // namespace mirolux::test
