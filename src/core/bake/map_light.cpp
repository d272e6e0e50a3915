#include "core/bake/map_light.h"
#include "core/light/head_lamp.h"
#include "core/light/luminance.h"
#include "core/motion/scene_at.h"
#include <algorithm>
#include <limits>

namespace mirolux {

namespace {

constexpr int first_points = 5;
constexpr double same_light = 0.02; // share of the most

LayerLight layer_of(const Scene& lit, const Setup& setup, int bounces, int light, float intensity,
                    const std::vector<int>& darkDirect, const std::vector<int>& darkIndirect,
                    const std::shared_ptr<const RayScene>& rays) {
    LayerLight out;
    out.light = light;
    out.intensity = intensity;
    truth::Options o;
    o.bounces = bounces;
    o.lampsOnly = light >= 0;
    o.layer = truth::Layer::direct;
    o.dark = darkDirect;
    o.everyLamp = true;
    out.direct = std::make_unique<truth::PathTracer>(lit, setup, View(), o, rays);
    Scene shared = lit; // bounced light by shares
    for (Light& s : shared.lights)
        s.intensity *= s.indirectShare;
    o.dark = darkIndirect;
    out.bouncing = std::make_unique<truth::PathTracer>(shared, setup, View(), o, rays);
    o.layer = truth::Layer::indirect;
    o.everyLamp = false;
    out.indirect = std::make_unique<truth::PathTracer>(shared, setup, View(), o, rays);
    return out;
}

} // namespace

glm::dvec3 LayerLight::mean_straight(const truth::PathTracer& tracer, const std::vector<SurfacePoint>& points,
                                     std::uint32_t place, std::uint64_t& taken, glm::dmat3& toward) {
    glm::dvec3 sum(0.0);
    glm::dmat3 ways(0.0);
    double least = std::numeric_limits<double>::max(), most = 0;
    int asked = 0;
    for (; asked < points_of_texel; ++asked) {
        if (asked == first_points && most - least <= same_light * most) break; // no edge of a shadow lies there
        const glm::dvec3 here = tracer.falling(points[static_cast<std::size_t>(asked) % points.size()], place,
                                               static_cast<std::uint32_t>(asked), taken, &ways);
        sum += here;
        least = std::min(least, luminance(here));
        most = std::max(most, luminance(here));
    }
    toward += ways / double(asked);
    return sum / double(asked);
}

std::vector<LayerLight> layers_of_light(const Scene& scene, const Setup& setup, int bounces,
                                        const std::shared_ptr<const RayScene>& rays) {
    const auto mobilities = mobilities_of(scene);
    std::vector<int> notStill, notBounced, all;
    for (const Light& l : lights_of(scene, setup, View())) {
        const auto own =
            std::find_if(scene.lights.begin(), scene.lights.end(), [&](const Light& s) { return s.id == l.id; });
        const Mobility m = own != scene.lights.end()
                               ? (*mobilities)[static_cast<std::size_t>(own - scene.lights.begin())]
                           : l.id == head_lamp_id ? Mobility::moving
                                                  : Mobility::mixed;
        all.push_back(l.id);
        if (m != Mobility::still) notStill.push_back(l.id);
        if (m == Mobility::switched || m == Mobility::moving) notBounced.push_back(l.id);
    }
    std::vector<LayerLight> out;
    out.push_back(layer_of(scene, setup, bounces, -1, 1, notStill, notBounced, rays));
    for (std::size_t i = 0; i < scene.lights.size(); ++i) {
        if ((*mobilities)[i] != Mobility::switched) continue;
        Scene lit = scene;
        Light& l = lit.lights[i];
        l.enabled = true;
        l.color = glm::vec3(1.0f);
        l.kelvin = 0;
        if (!(l.intensity > 0)) l.intensity = 1;
        std::vector<int> others = all;
        std::erase(others, l.id);
        out.push_back(layer_of(lit, setup, bounces, l.id, l.intensity, others, others, rays));
    }
    return out;
}

} // namespace mirolux
