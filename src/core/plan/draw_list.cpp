#include "core/plan/draw_list.h"
#include "core/air/air.h"
#include "core/bake/baked_light.h"
#include "core/blocks/block_stage.h"
#include "core/flat/flat_light.h"
#include "core/light/cheap_lights.h"
#include "core/sky/sky_model.h"
#include "core/visibility/rooms.h"
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

namespace {

/// What build_draw_list gathers, step by step.
class Gatherer {
public:
    Gatherer(const Scene& scene, const Setup& setup, const View& view)
        : scene_(scene), asset_(*scene.asset), objects_(scene.objects()), setup_(setup), view_(view),
          eyes_(eye_views(view)), planes_(frustum_planes(enclosing_camera(view), aspect_of(view))),
          window_(setup.choice("light.window") == "squared" ? RangeWindow::squared : RangeWindow::unsquared) {}

    DrawList gather() {
        look_through();
        take_lights();
        take_objects();
        leave_out_baked();
        find_masked();
        const bool limited = setup_.choice("path.kind") == "forward";
        for (Draw& draw : list_.blended)
            list_lights(draw, limited);
        for (Draw& draw : list_.opaque)
            list_lights(draw, limited); // other paths do not shade opaque surfaces from these lists, but their layers
                                        // are drawn from them
        if (setup_.choice("path.kind") == "additive") draw_by_light();
        return std::move(list_);
    }

private:
    struct Bounded {
        Light light;
        float reach, fade;
    };

    void take_lights() {
        const auto threshold = static_cast<float>(setup_.number("light.threshold"));
        const auto inAir = [&, shows = air_shows_lamps(setup_)](const Light& l) {
            return shows && air_share(l, setup_) > 0;
        };
        const std::vector<int> replaced = replaced_lights(scene_, setup_);
        std::vector<Bounded> bounded;
        for (const Light& light : lights_of(scene_, setup_, view_)) {
            if (!light.enabled || light.intensity <= 0.0f ||
                std::find(replaced.begin(), replaced.end(), light.id) != replaced.end() ||
                (light.diffuseShare <= 0.0f && light.specularShare <= 0.0f && !inAir(light)) ||
                effective_color(light) == glm::vec3(0.0f))
                continue;
            ++list_.lightsInScene;
            if (light.type == LightType::directional) {
                list_.lights.push_back(light);
                list_.reach.push_back(0.0f);
                list_.fade.push_back(1.0f);
                continue;
            }
            take_bounded(light, derived_range(light, threshold), bounded);
        }
        list_.directional = static_cast<int>(list_.lights.size());
        for (const Bounded& b : bounded) {
            list_.lights.push_back(b.light);
            list_.reach.push_back(b.reach);
            list_.fade.push_back(b.fade);
        }
    }

    void take_bounded(const Light& light, float reach, std::vector<Bounded>& bounded) {
        const Sphere sphere = light_bounds(light, reach);
        if (!intersects(planes_, sphere.center, sphere.radius)) {
            ++list_.lightsOutside;
            return;
        }
        if (lies_behind_doors(light, reach)) {
            ++list_.lightsBehind;
            return;
        }
        const bool own = light.fadeOuter > 0.0f;
        const double fade = distance_fade(glm::length(light.position - view_.camera.eye),
                                          own ? light.fadeInner : setup_.number("light.fadeInner"),
                                          own ? light.fadeOuter : setup_.number("light.fadeOuter"));
        if (fade <= 0.0) {
            ++list_.lightsFaded;
            return;
        }
        bounded.push_back({light, reach, static_cast<float>(fade)});
        bounded.back().light.intensity *= static_cast<float>(fade);
    }

    /// By object, what is known beforehand to be hidden from here; empty: nothing is.
    std::vector<bool> hidden_from_here() {
        switch (visibility_kind(setup_)) {
        case VisibilityKind::cells:
            return hidden_from_cell();
        case VisibilityKind::portals:
            return hidden_behind_doors();
        default:
            return {};
        }
    }

    std::vector<bool> hidden_from_cell() {
        const auto sets = cells_of(scene_, setup_, &list_.visibilityNote);
        if (!sets) return {};
        std::vector<std::uint64_t> seen((objects_.size() + 63) / 64, 0);
        for (const View& eye : eyes_) {
            const auto bits = sets->seen_from(eye.camera.eye, setup_.whole("visibility.growth"));
            if (bits.empty()) {
                list_.visibilityNote =
                    "The eye is in no cell that was computed: all that the frustum touches is drawn.";
                return {};
            }
            for (std::size_t i = 0; i < seen.size() && i < bits.size(); ++i)
                seen[i] |= bits[i];
        }
        const Stillness stillness = stillness_of(scene_, setup_);
        std::vector<bool> hidden(objects_.size(), false);
        for (std::size_t o = 0; o < objects_.size(); ++o)
            hidden[o] = stillness.still[o] && o < sets->objects && !has_bit(seen, o);
        return hidden;
    }

    std::vector<bool> hidden_behind_doors() {
        if (!rooms_) return {};
        std::vector<bool> hidden(objects_.size(), true);
        const Stillness stillness = stillness_of(scene_, setup_);
        for (std::size_t e = 0; e < eyes_.size(); ++e) {
            const Camera& camera = eyes_[e].camera;
            const glm::mat4 matrix = projection_matrix(camera, aspect_of(eyes_[e])) * view_matrix(camera);
            for (std::size_t o = 0; o < objects_.size(); ++o) {
                if (!hidden[o] || !intersects(planes_, objects_[o].bounds)) continue;
                const bool known = stillness.still[o] && o < rooms_->ofObject.size();
                const Window part = window_of(matrix, objects_[o].bounds);
                for (const std::uint16_t room : known ? rooms_->ofObject[o] : rooms_->rooms_of(objects_[o].bounds))
                    if (sights_[e].sees(room, part)) hidden[o] = false;
            }
        }
        return hidden;
    }

    /// Rooms, and what of them shows: asked before lights and objects are taken.
    void look_through() {
        if (visibility_kind(setup_) != VisibilityKind::portals) return;
        rooms_ = rooms_of(scene_, setup_, &list_.visibilityNote);
        if (!rooms_) return;
        for (const View& eye : eyes_)
            sights_.push_back(look_through_doors(*rooms_, scene_, eye));
    }
    /// No light of it gets into a room that shows.
    bool lies_behind_doors(const Light& light, float reach) const {
        if (!rooms_) return false;
        const std::vector<bool> lit = lit_rooms(*rooms_, scene_, light.position, reach);
        for (const Sight& sight : sights_)
            for (std::size_t room = 0; room < lit.size(); ++room)
                if (lit[room] && sight.sees(static_cast<int>(room))) return false;
        return true;
    }

    void take_objects() {
        const std::vector<bool> hidden = hidden_from_here();
        for (std::size_t o = 0; o < objects_.size(); ++o) {
            const Object& object = objects_[o];
            if (object.hidden || object.proxy || object.casts == Casting::unseen || !intersects(planes_, object.bounds))
                continue;
            if (!hidden.empty() && hidden[o]) {
                list_.leftOut.push_back(static_cast<int>(o));
                continue;
            }
            Draw draw;
            draw.object = static_cast<int>(o);
            draw.depth = glm::length(object.bounds.center() - view_.camera.eye);
            (asset_.material_of(object).alphaMode == AlphaMode::blend ? list_.blended : list_.opaque).push_back(draw);
            list_.triangles += asset_.primitives[object.primitive].indices.size() / 3;
        }
        // By material, so that textures change seldom; nearest first within one, so that early depth tests pay.
        std::stable_sort(list_.opaque.begin(), list_.opaque.end(), [&](const Draw& a, const Draw& b) {
            const std::size_t ma = asset_.material_index(objects_[a.object]),
                              mb = asset_.material_index(objects_[b.object]);
            return ma != mb ? ma < mb : a.depth < b.depth;
        });
        std::stable_sort(list_.blended.begin(), list_.blended.end(),
                         [](const Draw& a, const Draw& b) { return a.depth > b.depth; });
    }

    /// True of a light whose straight light a surface of this object has from a map.
    bool has_baked(const Object& o, const Light& l) const { return o.map != 0 && scene_.baked->holds(l.id); }

    /// Lights that are in a map, where nothing drawn would take them up.
    void leave_out_baked() {
        if (!scene_.baked) return;
        const bool air = air_shows_lamps(setup_);
        std::size_t kept = 0;
        int directional = 0;
        for (std::size_t l = 0; l < list_.lights.size(); ++l) {
            const Light& light = list_.lights[l];
            bool taken = !scene_.baked->holds(light.id) || (air && air_share(light, setup_) > 0);
            for (const std::vector<Draw>* draws : {&list_.opaque, &list_.blended})
                for (const Draw& d : *draws) {
                    const Object& o = objects_[static_cast<std::size_t>(d.object)];
                    taken = taken || (o.map == 0 && reaches(light, list_.reach[l], o.bounds));
                }
            if (!taken) {
                ++list_.lightsBaked;
                continue;
            }
            directional += static_cast<int>(l) < list_.directional;
            list_.lights[kept] = list_.lights[l];
            list_.reach[kept] = list_.reach[l];
            list_.fade[kept] = list_.fade[l];
            ++kept;
        }
        list_.lights.resize(kept);
        list_.reach.resize(kept);
        list_.fade.resize(kept);
        list_.directional = directional;
    }

    /// Lights whose shadows nothing drawn asks a map for.
    void find_masked() {
        list_.masked.assign(list_.lights.size(), 0);
        if (!scene_.baked || !scene_.baked->masks) return;
        const bool air = air_shows_lamps(setup_);
        for (std::size_t l = 0; l < list_.lights.size(); ++l) {
            const Light& light = list_.lights[l];
            if (scene_.baked->channel_of(light.id) < 0 || (air && air_share(light, setup_) > 0)) continue;
            bool asked = false;
            for (const std::vector<Draw>* draws : {&list_.opaque, &list_.blended})
                for (const Draw& d : *draws) {
                    const Object& o = objects_[static_cast<std::size_t>(d.object)];
                    asked = asked || (o.map == 0 && reaches(light, list_.reach[l], o.bounds));
                }
            list_.masked[l] = !asked;
        }
    }

    /// What "which K lights" ranks by: larger is kept.
    float rank(std::size_t l, const Box& box) const {
        if (setup_.choice("path.choose") == "nearest")
            return -glm::length(nearest_point(box, list_.lights[l].position) - list_.lights[l].position);
        return best_irradiance(list_.lights[l], list_.reach[l], box, window_);
    }

    void list_lights(Draw& draw, bool limited) {
        const auto limit = static_cast<std::size_t>(setup_.whole("path.maxLights"));
        const Object& object = objects_[static_cast<std::size_t>(draw.object)];
        const Box& box = object.bounds;
        draw.lightOffset = static_cast<std::uint32_t>(list_.lightIndices.size());
        for (int l = 0; l < list_.directional; ++l)
            if (!has_baked(object, list_.lights[static_cast<std::size_t>(l)]))
                list_.lightIndices.push_back(static_cast<std::uint32_t>(l));
        std::vector<std::pair<float, std::uint32_t>> ranked;
        for (std::size_t l = static_cast<std::size_t>(list_.directional); l < list_.lights.size(); ++l)
            if (!has_baked(object, list_.lights[l]) && reaches(list_.lights[l], list_.reach[l], box))
                ranked.emplace_back(limited ? rank(l, box) : 0.0f, static_cast<std::uint32_t>(l));
        if (limited && ranked.size() > limit) {
            std::stable_sort(ranked.begin(), ranked.end(),
                             [](const auto& a, const auto& b) { return a.first > b.first; });
            list_.droppedLights += ranked.size() - limit;
            ++list_.droppedObjects;
            ranked.resize(limit);
            std::sort(ranked.begin(), ranked.end(), [](const auto& a, const auto& b) { return a.second < b.second; });
        }
        for (const auto& [rank, l] : ranked)
            list_.lightIndices.push_back(l);
        draw.lightCount = static_cast<std::uint32_t>(list_.lightIndices.size()) - draw.lightOffset;
    }

    void draw_by_light() {
        for (std::size_t l = 0; l < list_.lights.size(); ++l) {
            LightDraws per;
            per.light = static_cast<int>(l);
            per.rect = {0, 0, view_.width, view_.height};
            if (list_.lights[l].type != LightType::directional) {
                const Sphere sphere = light_bounds(list_.lights[l], list_.reach[l]);
                per.rect = {};
                for (const View& eye : eyes_)
                    per.rect = united(per.rect, sphere_rect(eye, sphere.center, sphere.radius));
            }
            if (per.rect.empty()) continue;
            for (std::size_t d = 0; d < list_.opaque.size(); ++d)
                if (const Object& o = objects_[static_cast<std::size_t>(list_.opaque[d].object)];
                    !has_baked(o, list_.lights[l]) && reaches(list_.lights[l], list_.reach[l], o.bounds))
                    per.draws.push_back(static_cast<std::uint32_t>(d));
            if (!per.draws.empty()) list_.perLight.push_back(std::move(per));
        }
    }

    const Scene& scene_;
    const SceneAsset& asset_;
    const std::vector<Object>& objects_;
    const Setup& setup_;
    const View& view_;
    const std::vector<View> eyes_;
    const std::array<glm::vec4, 5> planes_;
    const RangeWindow window_;
    std::shared_ptr<const Rooms> rooms_; // with visibility.kind portals, where they are known
    std::vector<Sight> sights_;          // parallel to eyes_
    DrawList list_;
};

} // namespace

DrawList build_draw_list(const Scene& scene, const Setup& setup, const View& view) {
    if (scene.is_flat()) return flat::draw_list(scene, view);
    if (scene.is_blocks()) return blocks::draw_list(scene, setup, view);
    const Scene lit = with_baked_light(scene, setup);
    return Gatherer(lit, setup, view).gather();
}

DrawList with_only(const DrawList& list, const Scene& scene, const std::vector<bool>& objects) {
    DrawList out = list;
    const auto gone = [&](const Draw& d) { return !objects[static_cast<std::size_t>(d.object)]; };
    std::vector<int> place(list.opaque.size(), -1); // of opaque draws that stay
    int next = 0;
    for (std::size_t d = 0; d < list.opaque.size(); ++d)
        if (!gone(list.opaque[d])) place[d] = next++;
    for (LightDraws& per : out.perLight) {
        std::vector<std::uint32_t> kept;
        for (const std::uint32_t d : per.draws)
            if (place[d] >= 0) kept.push_back(static_cast<std::uint32_t>(place[d]));
        per.draws = std::move(kept);
    }
    std::erase_if(out.perLight, [](const LightDraws& per) { return per.draws.empty(); });
    std::erase_if(out.opaque, gone);
    std::erase_if(out.blended, gone);
    out.triangles = 0;
    for (const auto* part : {&out.opaque, &out.blended})
        for (const Draw& d : *part)
            out.triangles +=
                scene.asset->primitives[scene.objects()[static_cast<std::size_t>(d.object)].primitive].indices.size() /
                3;
    return out;
}

} // namespace mirolux
