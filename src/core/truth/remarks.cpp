#include "core/truth/remarks.h"
#include "core/ambient/ambient_light.h"
#include "core/base/text.h"
#include "core/light/cheap_lights.h"
#include "core/scene/object_edit.h"
#include "core/surface/optics.h"
#include "core/truth/sampler.h"
#include "core/truth/scattering.h"
#include <cmath>
#include <fmt/format.h>

namespace mirolux::truth {

namespace {

bool is_within_something(const Light& light, const RayScene& rays, double housing) {
    constexpr std::uint32_t directions = 48;
    for (std::uint32_t n = 0; n < directions; ++n) {
        const glm::vec3 to(even_direction(Sampler(0, n, 1, Sequence::sobol).two()));
        const RayHit hit = rays.any_surface({light.position, to}, static_cast<float>(housing), false);
        if (hit.object < 0 || hit.front) return false;
    }
    return true;
}

bool gives_light(const Scene& scene, const Setup& setup, const RayScene& rays) {
    for (const Light& l : scene.lights)
        if (l.enabled && l.intensity > 0) return true;
    for (std::size_t o = 0; o < scene.objects().size(); ++o) {
        const Material& m = scene.asset->material_of(scene.objects()[o]);
        if (rays.shown(o) && (m.unlit || m.emissive != glm::vec3(0.0f))) return true;
    }
    if (setup.choice("ambient.kind") == "environment") return true;
    const AmbientLight ambient = ambient_light(setup);
    return ambient.top + ambient.side + ambient.bottom != glm::vec3(0.0f);
}

} // namespace

std::vector<std::string> remarks(const Scene& scene, const Setup& setup, const RayScene& rays, double housing) {
    std::vector<std::string> out, within;
    for (const Light& l : scene.lights)
        if (l.enabled && l.intensity > 0 && l.type != LightType::directional && is_within_something(l, rays, housing))
            within.push_back(l.name);
    if (!within.empty()) {
        const std::size_t told = std::min<std::size_t>(within.size(), 3);
        out.push_back(joined({within.begin(), within.begin() + static_cast<std::ptrdiff_t>(told)}) +
                      (within.size() > told ? fmt::format(" and {} more", within.size() - told) : std::string()) +
                      (within.size() > 1 ? " stand" : " stands") + " within something: no light comes out");
    }
    if (!gives_light(scene, setup, rays)) out.emplace_back("nothing in this scene gives light: all is black");
    if (!cheap_lights_of(scene, setup, false).empty() || !cheap_lights_of(scene, setup, true).empty())
        out.emplace_back("cheap lights are not traced: nothing in the scene sends their light");
    if (scatters(*scene.asset) && setup.choice("subsurface.kind") != "none")
        out.emplace_back("light beneath surfaces is not traced: wax and skin are as dull as paint");
    std::size_t flat = 0, odd = 0;
    for (const Primitive& p : scene.asset->primitives) {
        for (const Vertex& v : p.vertices)
            odd += !std::isfinite(glm::dot(v.normal, v.normal)) || glm::dot(v.normal, v.normal) < 1e-12f;
        for (std::size_t t = 0; t + 2 < p.indices.size(); t += 3) {
            const glm::vec3 &a = p.vertices[p.indices[t]].position, &b = p.vertices[p.indices[t + 1]].position,
                            &c = p.vertices[p.indices[t + 2]].position;
            flat += !(glm::length(glm::cross(b - a, c - a)) > 0.0f);
        }
    }
    if (flat > 0) out.push_back(fmt::format("{} triangles have no area: no ray meets them", flat));
    if (odd > 0) out.push_back(fmt::format("{} normals are none: the triangle's own stands in", odd));
    return out;
}

} // namespace mirolux::truth
