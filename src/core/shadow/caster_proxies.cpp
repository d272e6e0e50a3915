#include "core/shadow/caster_proxies.h"
#include <algorithm>
#include <limits>
#include <unordered_map>

namespace mirolux {

namespace {

/// A box along three axes of the world: bounds in their frame.
struct Oriented {
    glm::dmat3 axes{1.0}; // columns, unit, right-handed
    glm::dvec3 low{0.0}, high{0.0};

    double volume() const {
        const glm::dvec3 s = glm::max(high - low, glm::dvec3(0.02)); // sheets are as good as two centimetres thick
        return s.x * s.y * s.z;
    }
};

/// The object's own box as it stands, or the world's box around it where it is sheared or bent.
Oriented oriented(const SceneAsset& asset, const Object& o) {
    if (o.body >= 0) return {glm::dmat3(1.0), glm::dvec3(o.bounds.low), glm::dvec3(o.bounds.high)}; // bones turn it
    const Box& b = asset.primitives[static_cast<std::size_t>(o.primitive)].bounds;
    const glm::dmat4 m(o.transform);
    Oriented out;
    glm::dvec3 length(0.0);
    for (int k = 0; k < 3; ++k) {
        length[k] = glm::length(glm::dvec3(m[k]));
        out.axes[k] = glm::dvec3(m[k]) / std::max(length[k], 1e-12);
    }
    const bool square = std::abs(glm::dot(out.axes[0], out.axes[1])) < 1e-4 &&
                        std::abs(glm::dot(out.axes[1], out.axes[2])) < 1e-4 &&
                        std::abs(glm::dot(out.axes[2], out.axes[0])) < 1e-4;
    if (!square) return {glm::dmat3(1.0), glm::dvec3(o.bounds.low), glm::dvec3(o.bounds.high)};
    out.axes[2] = glm::cross(out.axes[0], out.axes[1]); // right-handed, mirrored or not
    const glm::dvec3 middle = glm::transpose(out.axes) * glm::dvec3(m * glm::dvec4(glm::dvec3(b.center()), 1.0)),
                     half = 0.5 * glm::dvec3(b.size()) * length;
    out.low = middle - half;
    out.high = middle + half;
    return out;
}

/// The same box, or one around it, along other axes.
Oriented along(const Oriented& box, const glm::dmat3& axes) {
    const glm::dmat3 turn = glm::transpose(axes) * box.axes;
    const glm::dvec3 middle = turn * (0.5 * (box.low + box.high)), h = 0.5 * (box.high - box.low);
    glm::dvec3 half(0.0);
    for (int k = 0; k < 3; ++k)
        half += glm::abs(turn[k]) * h[k];
    return {axes, middle - half, middle + half};
}

/// True if each axis of one lies along some axis of the other.
bool parallel(const glm::dmat3& a, const glm::dmat3& b) {
    for (int i = 0; i < 3; ++i) {
        double best = 0;
        for (int j = 0; j < 3; ++j)
            best = std::max(best, std::abs(glm::dot(a[i], b[j])));
        if (best < 1 - 1e-5) return false;
    }
    return true;
}

Oriented joined(const Oriented& a, const Oriented& b) {
    return {a.axes, glm::min(a.low, b.low), glm::max(a.high, b.high)};
}

/// One box a thing.
std::vector<Oriented> boxes_of_things(const Scene& scene, const std::vector<int>& objects) {
    std::vector<std::vector<Oriented>> things;
    std::unordered_map<int, std::size_t> ofNode;
    for (const int o : objects) {
        const Object& object = scene.objects()[static_cast<std::size_t>(o)];
        if (object.hidden || object.proxy) continue;
        const int node = object_name(scene, o).node;
        const auto [it, fresh] = ofNode.try_emplace(node < 0 ? -2 - o : node, things.size());
        if (fresh) things.emplace_back();
        things[it->second].push_back(oriented(*scene.asset, object));
    }
    std::vector<Oriented> out;
    for (const std::vector<Oriented>& parts : things) {
        const Oriented& largest = *std::max_element(
            parts.begin(), parts.end(), [](const Oriented& a, const Oriented& b) { return a.volume() < b.volume(); });
        Oriented all = largest;
        for (const Oriented& p : parts)
            all = joined(all, along(p, largest.axes));
        out.push_back(all);
    }
    return out;
}

void join_what_fills(std::vector<Oriented>& boxes, double slack) {
    for (bool any = true; any;) {
        any = false;
        for (std::size_t i = 0; i < boxes.size(); ++i)
            for (std::size_t j = i + 1; j < boxes.size();) {
                if (!parallel(boxes[i].axes, boxes[j].axes)) {
                    ++j;
                    continue;
                }
                const Oriented other = along(boxes[j], boxes[i].axes), both = joined(boxes[i], other);
                const glm::dvec3 common =
                    glm::max(glm::min(boxes[i].high, other.high) - glm::max(boxes[i].low, other.low), glm::dvec3(0.0));
                const double filled = boxes[i].volume() + other.volume() - common.x * common.y * common.z;
                if (both.volume() > (1 + slack) * filled) {
                    ++j;
                    continue;
                }
                boxes[i] = both;
                boxes.erase(boxes.begin() + static_cast<std::ptrdiff_t>(j));
                any = true;
            }
    }
}

} // namespace

std::string free_proxy_name(const SceneAsset& asset, const std::vector<ObjectEdit>& edits) {
    for (int n = 1;; ++n) {
        std::string name = "proxy " + std::to_string(n);
        const auto has = [&](const auto& named) { return named.id == name; };
        if (std::none_of(edits.begin(), edits.end(), has) &&
            std::none_of(asset.objectNames.begin(), asset.objectNames.end(), has))
            return name;
    }
}

std::vector<ObjectEdit> fitted_proxies(const Scene& scene, const std::vector<int>& objects,
                                       const std::vector<ObjectEdit>& edits, const ProxyFit& fit) {
    std::vector<Oriented> boxes = boxes_of_things(scene, objects);
    join_what_fills(boxes, fit.slack);
    std::vector<ObjectEdit> all = edits;
    std::vector<ObjectEdit> out;
    for (const Oriented& b : boxes) {
        ObjectEdit e;
        e.id = e.name = free_proxy_name(*scene.asset, all);
        e.proxy = true;
        e.translation = glm::vec3(b.axes * (0.5 * (b.low + b.high)));
        e.rotation = glm::normalize(glm::quat(glm::quat_cast(b.axes)));
        const glm::dvec3 size = b.high - b.low;
        e.scale = glm::vec3(glm::max(size - 2.0 * double(fit.inset), glm::min(size, glm::dvec3(0.01))));
        e.scale = glm::clamp(e.scale, glm::vec3(1e-3f), glm::vec3(1e3f));
        all.push_back(e);
        out.push_back(std::move(e));
    }
    return out;
}

std::vector<ObjectEdit> with_proxies(const Scene& scene, const std::vector<int>& objects, std::vector<ObjectEdit> edits,
                                     const ProxyFit& fit) {
    std::vector<ObjectEdit> changed = fitted_proxies(scene, objects, edits, fit);
    if (changed.empty()) return edits;
    for (const int o : objects) {
        if (scene.objects()[static_cast<std::size_t>(o)].proxy) continue;
        changed.push_back(edit_of(edits, *scene.asset, o));
        changed.back().casts = Casting::proxied;
    }
    take_edits(edits, changed);
    return edits;
}

std::pair<int, float> nearest_proxy(const Scene& scene, const Ray& ray) {
    std::pair<int, float> nearest{-1, std::numeric_limits<float>::max()};
    const std::vector<Object>& objects = scene.objects();
    for (std::size_t o = scene.asset->objects.size(); o < objects.size(); ++o) {
        if (objects[o].hidden) continue;
        const glm::mat4 toBox = glm::inverse(objects[o].transform);
        const glm::vec3 from(toBox * glm::vec4(ray.origin, 1.0f)), way(toBox * glm::vec4(ray.direction, 0.0f));
        float enter = -std::numeric_limits<float>::max(), leave = std::numeric_limits<float>::max();
        for (int k = 0; k < 3; ++k) {
            const float a = (-0.5f - from[k]) / way[k], b = (0.5f - from[k]) / way[k];
            if (std::isnan(a) || std::isnan(b)) continue;
            enter = std::max(enter, std::min(a, b));
            leave = std::min(leave, std::max(a, b));
        }
        if (enter > 0 && enter <= leave && enter < nearest.second) nearest = {static_cast<int>(o), enter};
    }
    return nearest;
}

} // namespace mirolux
