#include "core/plan/draw_list.h"
#include <algorithm>

namespace mirolux {

static glm::vec3 nearest_point(const Box& box, const glm::vec3& p) {
    return glm::clamp(p, box.low, box.high);
}

bool reaches(const Light& light, float reach, const Box& box) {
    if (light.type == LightType::directional) return true;
    const glm::vec3 to = nearest_point(box, light.position) - light.position;
    if (glm::dot(to, to) > reach * reach) return false;
    if (light.type != LightType::spot) return true;
    // Cone against sphere: the sphere's centre split along and across the axis (B. Wronski, Cull that cone, 2017).
    const glm::vec3 center = box.center() - light.position;
    const float radius = 0.5f * glm::length(box.size());
    const float along = glm::dot(center, light.direction);
    const float across = std::sqrt(std::max(0.0f, glm::dot(center, center) - along * along));
    const float outside = std::cos(light.outerConeAngle) * across - std::sin(light.outerConeAngle) * along;
    return outside <= radius * 1.0001f + 1e-4f && along >= -radius;
}

/// Irradiance in lux that the light could give at best inside the box: what "strongest" ranks by.
static float best_irradiance(const Light& light, float reach, const Box& box, RangeWindow window) {
    const glm::vec3 color = effective_color(light) * light.intensity;
    const float d = glm::length(nearest_point(box, light.position) - light.position);
    return std::max({color.r, color.g, color.b}) *
           static_cast<float>(distance_attenuation(std::max(d, 0.3f), light.range, reach, window));
}

DrawList build_draw_list(const Scene& scene, const Setup& setup, const View& view) {
    DrawList list;
    const SceneAsset& asset = *scene.asset;
    const double aspect = double(view.width) / view.height;
    const std::vector<View> eyes = eye_views(view);
    const auto planes = frustum_planes(enclosing_camera(view), aspect);
    const auto threshold = static_cast<float>(setup.number("light.threshold"));
    const RangeWindow window =
        setup.choice("light.window") == "squared" ? RangeWindow::squared : RangeWindow::unsquared;

    struct Bounded {
        Light light;
        float reach, fade;
    };
    std::vector<Bounded> bounded;
    for (const Light& light : lights_at(scene.lights, scene.motions, view.seconds)) {
        if (!light.enabled || light.intensity <= 0.0f || effective_color(light) == glm::vec3(0.0f)) continue;
        ++list.lightsInScene;
        if (light.type == LightType::directional) {
            list.lights.push_back(light);
            list.reach.push_back(0.0f);
            list.fade.push_back(1.0f);
            continue;
        }
        const float reach = derived_range(light, threshold);
        const Sphere sphere = light_bounds(light, reach);
        if (!intersects(planes, sphere.center, sphere.radius)) {
            ++list.lightsOutside;
            continue;
        }
        const bool own = light.fadeOuter > 0.0f;
        const double fade = distance_fade(glm::length(light.position - view.camera.eye),
                                          own ? light.fadeInner : setup.number("light.fadeInner"),
                                          own ? light.fadeOuter : setup.number("light.fadeOuter"));
        if (fade <= 0.0) {
            ++list.lightsFaded;
            continue;
        }
        bounded.push_back({light, reach, static_cast<float>(fade)});
        bounded.back().light.intensity *= static_cast<float>(fade);
    }
    list.directional = static_cast<int>(list.lights.size());
    for (const Bounded& b : bounded) {
        list.lights.push_back(b.light);
        list.reach.push_back(b.reach);
        list.fade.push_back(b.fade);
    }

    for (std::size_t o = 0; o < asset.objects.size(); ++o) {
        const Object& object = asset.objects[o];
        if (!intersects(planes, object.bounds)) continue;
        Draw draw;
        draw.object = static_cast<int>(o);
        draw.depth = glm::length(object.bounds.center() - view.camera.eye);
        (asset.material_of(object).alphaMode == AlphaMode::blend ? list.blended : list.opaque).push_back(draw);
        list.triangles += asset.primitives[object.primitive].indices.size() / 3;
    }
    // By material, so that textures change seldom; nearest first within one, so that early depth tests pay.
    std::stable_sort(list.opaque.begin(), list.opaque.end(), [&](const Draw& a, const Draw& b) {
        const std::size_t ma = asset.material_index(asset.objects[a.object]),
                          mb = asset.material_index(asset.objects[b.object]);
        return ma != mb ? ma < mb : a.depth < b.depth;
    });
    std::stable_sort(list.blended.begin(), list.blended.end(),
                     [](const Draw& a, const Draw& b) { return a.depth > b.depth; });

    const bool additive = setup.choice("path.kind") == "additive", limitless = setup.choice("path.kind") != "forward";
    const auto limit = static_cast<std::size_t>(setup.whole("path.maxLights"));
    const bool nearest = setup.choice("path.choose") == "nearest";
    auto fill = [&](Draw& draw, bool limited) {
        const Box& box = asset.objects[draw.object].bounds;
        draw.lightOffset = static_cast<std::uint32_t>(list.lightIndices.size());
        for (int l = 0; l < list.directional; ++l)
            list.lightIndices.push_back(static_cast<std::uint32_t>(l));
        std::vector<std::pair<float, std::uint32_t>> ranked;
        for (std::size_t l = static_cast<std::size_t>(list.directional); l < list.lights.size(); ++l) {
            if (!reaches(list.lights[l], list.reach[l], box)) continue;
            const float rank = !limited ? 0.0f
                               : nearest
                                   ? -glm::length(nearest_point(box, list.lights[l].position) - list.lights[l].position)
                                   : best_irradiance(list.lights[l], list.reach[l], box, window);
            ranked.emplace_back(rank, static_cast<std::uint32_t>(l));
        }
        if (limited && ranked.size() > limit) {
            std::stable_sort(ranked.begin(), ranked.end(),
                             [](const auto& a, const auto& b) { return a.first > b.first; });
            list.droppedLights += ranked.size() - limit;
            ++list.droppedObjects;
            ranked.resize(limit);
            std::sort(ranked.begin(), ranked.end(), [](const auto& a, const auto& b) { return a.second < b.second; });
        }
        for (const auto& [rank, l] : ranked)
            list.lightIndices.push_back(l);
        draw.lightCount = static_cast<std::uint32_t>(list.lightIndices.size()) - draw.lightOffset;
    };
    for (Draw& draw : list.blended)
        fill(draw, !limitless);
    for (Draw& draw : list.opaque)
        fill(draw, !limitless); // other paths do not shade opaque surfaces from these lists, but their layers are drawn
                                // from them
    if (!additive) return list;
    for (std::size_t l = 0; l < list.lights.size(); ++l) {
        LightDraws per;
        per.light = static_cast<int>(l);
        per.rect = {0, 0, view.width, view.height};
        if (list.lights[l].type != LightType::directional) {
            const Sphere sphere = light_bounds(list.lights[l], list.reach[l]);
            per.rect = {};
            for (const View& eye : eyes)
                per.rect = united(per.rect, sphere_rect(eye, sphere.center, sphere.radius));
        }
        if (per.rect.empty()) continue;
        for (std::size_t d = 0; d < list.opaque.size(); ++d)
            if (reaches(list.lights[l], list.reach[l], asset.objects[list.opaque[d].object].bounds))
                per.draws.push_back(static_cast<std::uint32_t>(d));
        if (!per.draws.empty()) list.perLight.push_back(std::move(per));
    }
    return list;
}

} // namespace mirolux
