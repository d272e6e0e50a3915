#include "core/light/cheap_light.h"
#include "core/light/cheap_lights.h"
#include <algorithm>

namespace mirolux {

const char* word(CheapShape s) {
    static const char* words[] = {"view-locked", "ball", "cone"};
    return words[static_cast<int>(s)];
}
const char* word(CheapBlend b) {
    static const char* words[] = {"add", "multiply", "screen", "mix"};
    return words[static_cast<int>(b)];
}

const char* word(CheapStart s) {
    static const char* words[] = {"rim", "bounce", "sky", "ball", "cone"};
    return words[static_cast<int>(s)];
}

CheapLight starter(CheapStart start, double white, const glm::vec3& at) {
    CheapLight l;
    l.name = word(start);
    if (start < CheapStart::ball) l.luminance = static_cast<float>(0.35 * white);
    switch (start) {
    case CheapStart::rim:
        l.toward = glm::normalize(glm::vec3(0, 0.4f, 1)); // level ground is left alone
        l.ramp = {{0.45f, {0.75f, 0.88f, 1.0f}, 1}, {0.62f, {0.5f, 0.7f, 1.0f}, 0.25f}, {0.78f, glm::vec3(0), 0}};
        break;
    case CheapStart::bounce:
        l.toward = {0, -1, 0};
        l.ramp = {{0.5f, glm::vec3(0), 0}, {1, {1.0f, 0.62f, 0.3f}, 0.5f}};
        break;
    case CheapStart::sky:
        l.ramp = {{0.5f, {0.3f, 0.45f, 0.8f}, 0}, {1, {0.55f, 0.72f, 1.0f}, 0.35f}};
        l.blend = CheapBlend::screen;
        break;
    case CheapStart::ball:
        l.shape = CheapShape::ball;
        l.position = at;
        l.reach = 2;
        l.tint = {4.0f, 2.8f, 1.4f};
        break;
    case CheapStart::cone:
        l.shape = CheapShape::cone;
        l.position = at + glm::vec3(0, 4, 0);
        l.reach = 4.5f;
        l.tint = {4.0f, 2.8f, 1.4f};
        break;
    }
    return l;
}

Light as_light(const CheapLight& cheap) {
    Light l;
    l.name = cheap.name;
    l.type = cheap.shape == CheapShape::cone ? LightType::spot : LightType::point;
    l.enabled = cheap.enabled;
    l.color = cheap.tint / std::max({cheap.tint.x, cheap.tint.y, cheap.tint.z, 1e-6f});
    l.position = cheap.position;
    l.direction = cheap.direction;
    l.range = cheap.reach;
    l.outerConeAngle = cheap.angle;
    return l;
}

void take_place(CheapLight& cheap, const Light& from) {
    cheap.position = from.position;
    cheap.direction = from.direction;
    cheap.reach = from.range;
    cheap.angle = std::clamp(from.outerConeAngle, 0.01f, 1.5f);
}

glm::dvec4 ramp_at(const std::vector<RampStop>& ramp, double at) {
    if (ramp.empty()) return glm::dvec4(0.0);
    const auto value = [](const RampStop& s) { return glm::dvec4(s.color, s.amount); };
    glm::dvec4 c = value(ramp.front());
    for (std::size_t i = 1; i < ramp.size(); ++i)
        if (at > ramp[i - 1].at)
            c = glm::mix(
                value(ramp[i - 1]), value(ramp[i]),
                std::clamp((at - ramp[i - 1].at) / std::max<double>(ramp[i].at - ramp[i - 1].at, 1e-6), 0.0, 1.0));
    return c;
}

RadianceChange view_light_change(const CheapLight& light, const glm::dvec3& normal) {
    const glm::dvec4 c = ramp_at(light.ramp, 0.5 + 0.5 * glm::dot(normal, glm::dvec3(light.toward)));
    const glm::dvec3 color(c);
    const double luminance = light.luminance;
    switch (light.blend) {
    case CheapBlend::add:
        return {glm::dvec3(1.0), color * (c.w * luminance)};
    case CheapBlend::multiply:
        return {glm::mix(glm::dvec3(1.0), color, c.w), glm::dvec3(0.0)};
    case CheapBlend::screen: {
        const glm::dvec3 share = glm::min(color * c.w, glm::dvec3(1.0));
        return {1.0 - share, share * luminance};
    }
    case CheapBlend::mix:
        return {glm::dvec3(1.0 - c.w), color * (c.w * luminance)};
    }
    return {};
}

Proxy solid_proxy(const CheapLight& light) {
    if (light.shape == CheapShape::cone)
        return {ProxyShape::cone, cone_place(light.position, light.direction, light.reach, std::tan(light.angle))};
    return {ProxyShape::sphere, ball_place(light.position, light.reach)};
}

bool holds(const CheapLight& light, const glm::dvec3& point) {
    static const ProxyMesh ball = sphere_proxy(volume_sphere_steps), cone = cone_proxy(volume_cone_sides);
    const Proxy proxy = solid_proxy(light);
    const ProxyMesh& mesh = proxy.shape == ProxyShape::cone ? cone : ball;
    const glm::dmat4 place(proxy.transform);
    const auto corner = [&](std::size_t i) {
        return glm::dvec3(place * glm::dvec4(glm::dvec3(mesh.positions[mesh.indices[i]]), 1.0));
    };
    for (std::size_t i = 0; i < mesh.indices.size(); i += 3) {
        const glm::dvec3 a = corner(i);
        if (glm::dot(glm::cross(corner(i + 1) - a, corner(i + 2) - a), point - a) > 0) return false;
    }
    return true;
}

std::vector<CheapLight> cheap_lights_of(const Scene& scene, const Setup& setup, bool solid) {
    std::vector<CheapLight> all;
    if (setup.choice(solid ? "solidLights.kind" : "viewLights.kind") == "none") return all;
    for (const CheapLight& l : scene.cheapLights)
        if (l.enabled && l.solid() == solid && all.size() < most_cheap_lights) all.push_back(l);
    return all;
}

std::string cheap_lights_left_out(const Scene& scene, const Setup& setup, bool solid) {
    const auto wanted = std::count_if(scene.cheapLights.begin(), scene.cheapLights.end(),
                                      [solid](const CheapLight& l) { return l.enabled && l.solid() == solid; });
    const std::size_t drawn = cheap_lights_of(scene, setup, solid).size();
    if (drawn < most_cheap_lights || static_cast<std::size_t>(wanted) == drawn) return {};
    return "Of " + std::to_string(wanted) + (solid ? " solid-shape" : " view-locked") + " lights the first " +
           std::to_string(drawn) + " are drawn.";
}

std::vector<int> replaced_lights(const Scene& scene, const Setup& setup) {
    std::vector<int> ids;
    if (!setup.flag("cheapLights.instead")) return ids;
    for (const bool solid : {true, false})
        for (const CheapLight& l : cheap_lights_of(scene, setup, solid))
            ids.insert(ids.end(), l.standsFor.begin(), l.standsFor.end());
    return ids;
}

std::vector<std::uint32_t> view_lights_by_object(const Scene& scene, const std::vector<CheapLight>& lights) {
    std::vector<std::uint32_t> bits(scene.objects().size(), 0);
    for (std::size_t l = 0; l < lights.size(); ++l) {
        const std::vector<std::string>& chosen = lights[l].objects;
        for (std::size_t o = 0; o < bits.size(); ++o)
            if (chosen.empty() ||
                std::find(chosen.begin(), chosen.end(), object_name(scene, static_cast<int>(o)).id) != chosen.end())
                bits[o] |= 1u << l;
    }
    return bits;
}

} // namespace mirolux
