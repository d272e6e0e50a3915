#include "core/motion/scene_at.h"
#include "core/motion/body_bounds.h"
#include "core/motion/carried.h"
#include <algorithm>
#include <cmath>

namespace mirolux {

namespace {

bool plays(const std::vector<ClipPlay>& clips) {
    return std::any_of(clips.begin(), clips.end(), [](const ClipPlay& c) { return c.on && c.share > 0; });
}

std::shared_ptr<const PlacedObjects> placed_in(const SceneAsset& asset, std::shared_ptr<const PlacedObjects> base,
                                               std::shared_ptr<const Pose> pose) {
    const Rig& rig = *asset.rig;
    auto out = std::make_shared<PlacedObjects>();
    if (base)
        *out = *base;
    else {
        out->objects = asset.objects;
        out->bounds = asset.bounds;
    }
    out->base = std::move(base);
    for (std::size_t i = 0; i < asset.objects.size() && i < asset.objectNames.size(); ++i) {
        Object& o = out->objects[i];
        const auto node = static_cast<std::size_t>(asset.objectNames[i].node);
        const bool skinned = o.body >= 0 && rig.bodies[static_cast<std::size_t>(o.body)].skin >= 0;
        const bool went = !skinned && node < rig.nodes.size() && pose->world[node] != rig.rest->world[node];
        const std::uint64_t shape = o.body < 0 ? 0 : pose->states[static_cast<std::size_t>(o.body)];
        if (!went && shape == o.shape) continue;
        if (went) {
            const auto instance = rig.instances.find(static_cast<int>(i));
            const glm::dmat4 world =
                instance == rig.instances.end() ? pose->world[node] : pose->world[node] * instance->second;
            o.transform = out->edits.empty()
                              ? glm::mat4(world)
                              : matrix_of(edit_of(out->edits, asset, static_cast<int>(i))) * glm::mat4(world);
            o.mirrored = glm::determinant(glm::mat3(o.transform)) < 0.0f;
        }
        o.shape = shape;
        o.bounds = bounds_in(asset, o, pose.get());
        if (!o.hidden) out->bounds.add(o.bounds);
    }
    out->pose = std::move(pose);
    return out;
}

glm::vec3 unit_or(const glm::dvec3& v, const glm::vec3& before) {
    const double l = glm::length(v);
    return l > 1e-12 && std::isfinite(l) ? glm::vec3(v / l) : before;
}

/// A value of the user's as the file's own changes: in the same proportion, or by the difference where that was 0.
float carried(float value, double rest, double now) {
    if (rest == now) return value;
    return static_cast<float>(std::max(0.0, rest > 0 ? value * (now / rest) : value + now - rest));
}

/// True of a light of the file that stands on a node of its own.
bool is_carried(const Light& l, const Rig& rig) {
    const auto n = static_cast<std::size_t>(l.id);
    return l.id >= 0 && n < rig.nodes.size() && rig.nodes[n].light >= 0 && rig.nodes[n].placed;
}

/// A light on a node that has moved, or whose values a clip changes.
void carry(Light& l, const Rig& rig, const Pose& pose) {
    const auto n = static_cast<std::size_t>(l.id);
    const Node& node = rig.nodes[n];
    const glm::dmat4 &rest = rig.rest->world[n], &now = pose.world[n];
    if (now != rest) {
        const bool invertible = std::abs(glm::determinant(glm::dmat3(rest))) > 1e-12;
        const glm::dmat4 way = invertible ? now * glm::inverse(rest) : now;
        l.position = invertible ? glm::vec3(way * glm::dvec4(l.position, 1)) : glm::vec3(now[3]);
        l.direction = unit_or(glm::dmat3(way) * glm::dvec3(l.direction), l.direction);
    }
    const auto k = static_cast<std::size_t>(node.light);
    const LightValues &was = rig.lights[k], &is = pose.lights[k];
    for (int c = 0; c < 3; ++c)
        l.color[c] = carried(l.color[c], was.color[c], is.color[c]);
    if (was.color != is.color) l.kelvin = 0;
    l.intensity = carried(l.intensity, was.candela, is.candela);
    l.range = carried(l.range, was.range, is.range);
    const auto cone = [](float value, double from, double to) {
        return from == to ? value : static_cast<float>(std::clamp(value + to - from, 0.0, 1.5707963));
    };
    l.outerConeAngle = cone(l.outerConeAngle, was.outer, is.outer);
    l.innerConeAngle = std::min(cone(l.innerConeAngle, was.inner, is.inner), l.outerConeAngle);
}

std::shared_ptr<const Pose> pose_at(const Scene& scene, double seconds) {
    const Scene at = scene_at(scene, seconds);
    return at.placed && at.placed->pose ? at.placed->pose : at.asset->rig->rest;
}

} // namespace

Scene scene_at(Scene scene, double seconds) {
    if (!scene.asset || !scene.asset->rig || !scene.asset->rig->moves()) return scene;
    const std::vector<ClipPlay> clips = clips_of(scene);
    std::shared_ptr<const PlacedObjects> base = scene.placed && scene.placed->pose ? scene.placed->base : scene.placed;
    if (!plays(clips)) {
        scene.placed = std::move(base);
        return scene;
    }
    const SceneAsset& asset = scene.asset->unmapped ? *scene.asset->unmapped : *scene.asset; // whose rig keeps them
    scene.placed = *asset.rig->placed.of({base, clips, seconds}, [&](const Rig::Asked& a) {
        return placed_in(asset, a.base, make_pose(*asset.rig, a.clips, a.seconds));
    });
    return scene;
}

std::vector<Light> lights_at(const Scene& scene, double seconds) {
    if (!scene.asset || !scene.asset->rig || !scene.asset->rig->moves())
        return lights_at(scene.lights, scene.motions, seconds);
    const Rig& rig = *scene.asset->rig;
    const std::shared_ptr<const Pose> pose = pose_at(scene, seconds);
    std::vector<Light> carriedAlong = scene.lights;
    for (Light& l : carriedAlong)
        if (is_carried(l, rig)) carry(l, rig, *pose);
    return lights_at(carriedAlong, scene.motions, seconds);
}

Light carried(const Scene& scene, const Light& light, double seconds) {
    Light out = light;
    if (scene.asset && scene.asset->rig && scene.asset->rig->moves() && is_carried(light, *scene.asset->rig))
        carry(out, *scene.asset->rig, *pose_at(scene, seconds));
    return out;
}

Light put_back(const Scene& scene, const Light& light, const Light& from, const Light& to, double seconds) {
    if (from == light) return to;
    const Rig& rig = *scene.asset->rig;
    const auto n = static_cast<std::size_t>(light.id);
    const glm::dmat4 &rest = rig.rest->world[n], now = pose_at(scene, seconds)->world[n];
    Light out = light;
    if (std::abs(glm::determinant(glm::dmat3(now))) > 1e-12) {
        const glm::dmat4 back = rest * glm::inverse(now);
        out.position = glm::vec3(back * glm::dvec4(to.position, 1));
        out.direction = unit_or(glm::dmat3(back) * glm::dvec3(to.direction), light.direction);
    }
    out.range = from.range > 0 ? light.range * (to.range / from.range) : to.range;
    out.innerConeAngle = std::max(0.0f, light.innerConeAngle + to.innerConeAngle - from.innerConeAngle);
    out.outerConeAngle = std::max(out.innerConeAngle, light.outerConeAngle + to.outerConeAngle - from.outerConeAngle);
    out.fadeInner = to.fadeInner;
    out.fadeOuter = to.fadeOuter;
    return out;
}

Camera camera_at(const Scene& scene, std::size_t camera, double seconds) {
    Camera c = scene.asset->cameras[camera];
    if (!scene.asset->rig || !scene.asset->rig->moves()) return c;
    const Rig& rig = *scene.asset->rig;
    const auto node = std::find_if(rig.nodes.begin(), rig.nodes.end(),
                                   [&](const Node& n) { return n.placed && n.camera == static_cast<int>(camera); });
    if (node == rig.nodes.end()) return c;
    const auto n = static_cast<std::size_t>(node - rig.nodes.begin());
    const std::shared_ptr<const Pose> pose = pose_at(scene, seconds);
    const glm::dmat4& now = pose->world[n];
    if (now == rig.rest->world[n]) return c;
    c.eye = glm::vec3(now[3]);
    c.aim = c.eye + 5.0f * unit_or(-glm::dvec3(now[2]), {0, 0, -1});
    return c;
}

Camera followed(const Scene& scene, const Camera& camera, double from, double to) {
    for (std::size_t c = 0; scene.asset && c < scene.asset->cameras.size(); ++c)
        if (camera.name == scene.asset->cameras[c].name && camera == camera_at(scene, c, from))
            return camera_at(scene, c, to);
    return camera;
}

const Pose* pose_of(const SceneAsset& asset, const PlacedObjects* placed) {
    if (placed && placed->pose) return placed->pose.get();
    return asset.rig ? asset.rig->rest.get() : nullptr;
}

const std::vector<Vertex>& vertices_of(const SceneAsset& asset, const PlacedObjects* placed, std::size_t object) {
    const Object& o = placed ? placed->objects[object] : asset.objects[object];
    if (o.body < 0) return asset.primitives[static_cast<std::size_t>(o.primitive)].vertices;
    return pose_of(asset, placed)->bent(asset, o.body);
}

const char* word(Moves moves) {
    return moves == Moves::byClip ? "by clip" : moves == Moves::byHand ? "by hand" : "still";
}

std::vector<Moves> movers(const Scene& scene) {
    std::vector<Moves> out(scene.objects().size(), Moves::still);
    if (scene.placed)
        for (std::size_t i = 0; i < out.size() && i < scene.asset->objects.size(); ++i) {
            const ObjectEdit e = edit_of(scene.placed->edits, *scene.asset, static_cast<int>(i));
            const bool placed = matrix_of(e) != glm::mat4(1.0f);
            if (e.standing == Standing::moving || (placed && e.standing == Standing::found)) out[i] = Moves::byHand;
        }
    if (!scene.asset->rig) return out;
    const Rig& rig = *scene.asset->rig;
    std::vector<bool> moved(rig.nodes.size(), false), bends(rig.nodes.size(), false);
    for (const ClipPlay& play : clips_of(scene)) {
        if (!play.on || !(play.share > 0)) continue;
        for (const Clip& clip : rig.clips) {
            if (clip.name != play.clip) continue;
            for (const ClipChannel& c : clip.channels) {
                if (c.what <= Animated::scale) moved[static_cast<std::size_t>(c.target)] = true;
                if (c.what == Animated::weights) bends[static_cast<std::size_t>(c.target)] = true;
            }
        }
    }
    for (const int n : rig.order) {
        const int parent = rig.nodes[static_cast<std::size_t>(n)].parent;
        if (parent >= 0 && moved[static_cast<std::size_t>(parent)]) moved[static_cast<std::size_t>(n)] = true;
    }
    for (std::size_t i = 0; i < scene.asset->objects.size() && i < scene.asset->objectNames.size(); ++i) {
        const Object& o = scene.asset->objects[i];
        const auto node = static_cast<std::size_t>(scene.asset->objectNames[i].node);
        bool by = node < moved.size() && (moved[node] || (o.body >= 0 && bends[node]));
        if (o.body >= 0 && rig.bodies[static_cast<std::size_t>(o.body)].skin >= 0) {
            const Body& b = rig.bodies[static_cast<std::size_t>(o.body)];
            by = bends[static_cast<std::size_t>(b.node)];
            for (const int j : rig.skins[static_cast<std::size_t>(b.skin)].joints)
                by = by || moved[static_cast<std::size_t>(j)];
        }
        if (by) out[i] = Moves::byClip;
    }
    return out;
}

} // namespace mirolux
