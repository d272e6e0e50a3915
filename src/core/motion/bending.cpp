#include "core/motion/body_bounds.h"
#include "core/scene/geometry.h"
#include <cmath>

namespace mirolux {

namespace {

glm::vec3 unit_or(const glm::vec3& v, const glm::vec3& before) {
    const float l = glm::dot(v, v);
    return l > 1e-24f && std::isfinite(l) ? v / std::sqrt(l) : before;
}

} // namespace

std::vector<Vertex> bent_vertices(const Primitive& primitive, const Bending& b, const std::vector<double>& weights,
                                  std::span<const glm::mat4> joints) {
    std::vector<Vertex> out = primitive.vertices;
    const std::size_t count = out.size();
    for (std::size_t s = 0; s < static_cast<std::size_t>(b.shapes) && s < weights.size(); ++s) {
        const auto w = static_cast<float>(weights[s]);
        if (w == 0) continue;
        for (std::size_t v = 0; v < count; ++v) {
            const ShapeChange& c = b.changes[s * count + v];
            out[v].position += w * c.position;
            out[v].normal += w * c.normal;
            out[v].tangent += glm::vec4(w * c.tangent, 0);
        }
    }
    for (std::size_t v = 0; v < count; ++v) {
        Vertex& x = out[v];
        const Vertex& rest = primitive.vertices[v];
        glm::vec3 normal = x.normal, tangent(x.tangent);
        if (b.sets > 0 && !joints.empty()) {
            glm::mat4 m(0.0f);
            for (int set = 0; set < b.sets; ++set) {
                const std::size_t at = v * static_cast<std::size_t>(b.sets) + static_cast<std::size_t>(set);
                for (int k = 0; k < 4; ++k)
                    if (b.shares[at][k] != 0) m += b.shares[at][k] * joints[b.joints[at][k]];
            }
            x.position = glm::vec3(m * glm::vec4(x.position, 1));
            normal = normal_matrix(m) * normal;
            tangent = glm::mat3(m) * tangent;
        }
        x.normal = unit_or(normal, rest.normal);
        x.tangent = glm::vec4(unit_or(tangent, glm::vec3(rest.tangent)), rest.tangent.w);
    }
    return out;
}

Box bent_bounds(const Primitive& primitive, const Bending& b, const std::vector<double>& weights,
                std::span<const glm::mat4> joints) {
    glm::vec3 low(0.0f), high(0.0f); // by how much shapes widen a box
    for (std::size_t s = 0; s < b.changeReach.size() && s < weights.size(); ++s) {
        if (b.changeReach[s].empty()) continue;
        const auto w = static_cast<float>(weights[s]);
        const glm::vec3 one = w * b.changeReach[s].low, other = w * b.changeReach[s].high;
        low += glm::min(one, other);
        high += glm::max(one, other);
    }
    const auto widened = [&](const Box& box) { return Box{box.low + low, box.high + high}; };
    if (b.sets == 0 || joints.empty()) return primitive.bounds.empty() ? primitive.bounds : widened(primitive.bounds);
    // A bent point is a mean of where its joints take it, so it lies in the hull of their boxes.
    Box out;
    for (std::size_t j = 0; j < b.reach.size() && j < joints.size(); ++j)
        if (!b.reach[j].empty()) out.add(transformed(widened(b.reach[j]), joints[j]));
    if (!out.empty()) { // single floats round
        const glm::vec3 slack = 1e-5f * (glm::abs(out.low) + glm::abs(out.high));
        out = {out.low - slack, out.high + slack};
    }
    return out;
}

Box bounds_in(const SceneAsset& asset, const Object& o, const Pose* pose) {
    const Primitive& p = asset.primitives[static_cast<std::size_t>(o.primitive)];
    if (o.body < 0 || !pose) return transformed(p.bounds, o.transform);
    const Body& b = asset.rig->bodies[static_cast<std::size_t>(o.body)];
    std::span<const glm::mat4> joints;
    if (b.skin >= 0) joints = pose->joints[static_cast<std::size_t>(b.skin)];
    return transformed(bent_bounds(p, *b.bending, pose->weights[static_cast<std::size_t>(b.node)], joints),
                       o.transform);
}

const std::vector<Vertex>& Pose::bent(const SceneAsset& asset, int body) const {
    Made& made = *bent_[static_cast<std::size_t>(body)];
    std::call_once(made.once, [&] {
        const Body& b = asset.rig->bodies[static_cast<std::size_t>(body)];
        made.vertices = bent_vertices(asset.primitives[static_cast<std::size_t>(b.primitive)], *b.bending,
                                      weights[static_cast<std::size_t>(b.node)],
                                      b.skin < 0 ? std::span<const glm::mat4>{}
                                                 : std::span(joints[static_cast<std::size_t>(b.skin)]));
    });
    return made.vertices;
}

} // namespace mirolux
