#include "core/truth/light_tree.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <glm/gtc/constants.hpp>
#include <glm/gtx/rotate_vector.hpp>

namespace mirolux::truth {

namespace {

constexpr float halfTurn = glm::pi<float>(); // radians

float sine(float cosine) {
    return std::sqrt(std::max(0.0f, 1.0f - cosine * cosine));
}
/// cos(max(0, a - b)) and its sine from those of both.
float cosine_less(float sinA, float cosA, float sinB, float cosB) {
    return cosA > cosB ? 1.0f : cosA * cosB + sinA * sinB;
}
float sine_less(float sinA, float cosA, float sinB, float cosB) {
    return cosA > cosB ? 0.0f : sinA * cosB - cosA * sinB;
}

EmitterBounds united(const EmitterBounds& a, const EmitterBounds& b) {
    if (a.power <= 0) return b;
    if (b.power <= 0) return a;
    EmitterBounds out = a;
    out.box.add(b.box);
    if (a.reached.empty() || b.reached.empty())
        out.reached = {};
    else
        out.reached.add(b.reached);
    out.cone = truth::united(a.cone, b.cone);
    out.cosineFalloff = std::min(a.cosineFalloff, b.cosineFalloff);
    out.power += b.power;
    out.range = a.range > 0 && b.range > 0 ? std::max(a.range, b.range) : 0;
    return out;
}

/// What a group costs to be chosen from: its power, the directions it shines into, its surface (Conty and Kulla,
/// equations 1 and 2).
float cost(const EmitterBounds& b) {
    const float o = std::acos(std::clamp(b.cone.cosine, -1.0f, 1.0f)),
                e = std::acos(std::clamp(b.cosineFalloff, -1.0f, 1.0f)), w = std::min(o + e, halfTurn);
    const float directions =
        2 * halfTurn * (1 - std::cos(o)) +
        halfTurn / 2 * (2 * w * std::sin(o) - std::cos(o - 2 * w) - 2 * o * std::sin(o) + std::cos(o));
    const glm::vec3 s = b.box.size();
    return b.power * directions * (s.x * s.y + s.y * s.z + s.z * s.x);
}

} // namespace

Cone united(const Cone& a, const Cone& b) {
    if (a.cosine > 1) return b;
    if (b.cosine > 1) return a;
    const float ta = std::acos(std::clamp(a.cosine, -1.0f, 1.0f)), tb = std::acos(std::clamp(b.cosine, -1.0f, 1.0f)),
                td = std::acos(std::clamp(glm::dot(a.axis, b.axis), -1.0f, 1.0f));
    if (std::min(td + tb, halfTurn) <= ta) return a;
    if (std::min(td + ta, halfTurn) <= tb) return b;
    const float half = 0.5f * (ta + td + tb);
    const glm::vec3 about = glm::cross(a.axis, b.axis);
    if (half >= halfTurn || glm::dot(about, about) < 1e-12f) return {a.axis, -1.0f};
    return {glm::rotate(a.axis, half - ta, glm::normalize(about)), std::cos(half)};
}

EmitterShape::EmitterShape(const EmitterBounds& b)
    : center(b.box.center()), axis(b.cone.axis), reachedCenter(b.reached.center()),
      reachedHalf(b.reached.empty() ? glm::vec3(-1.0f) : 0.5f * b.reached.size()),
      radius(0.5f * glm::length(b.box.size())), radius2(0.25f * glm::dot(b.box.size(), b.box.size())),
      least2(std::max(radius2, 1e-4f)), cosine(std::max(b.cone.cosine, -1.0f)), sine(truth::sine(cosine)),
      cosineFalloff(b.cosineFalloff), power(b.power), range(b.range) {}

double importance(const EmitterShape& e, const glm::vec3& p, const glm::vec3& n) {
    if (e.power <= 0) return 0;
    if (e.reachedHalf.x >= 0 && glm::any(glm::greaterThan(glm::abs(p - e.reachedCenter), e.reachedHalf))) return 0;
    const glm::vec3 away = p - e.center;
    const float d2 = glm::dot(away, away);
    const bool within = d2 <= e.radius2;
    const float sin2 = within ? 0.0f : e.radius2 / d2, cosBound = within ? -1.0f : std::sqrt(1.0f - sin2),
                sinBound = std::sqrt(sin2);
    const glm::vec3 w = d2 > 0 ? away / std::sqrt(d2) : glm::vec3(0, 1, 0);
    double out = double(e.power) / std::max(d2, e.least2);
    if (e.range > 0) { // no less than any of them has left of its range there
        const float q = std::max(0.0f, std::sqrt(d2) - e.radius) / e.range, left = 1 - q * q * q * q;
        if (left <= 0) return 0;
        out *= double(left) * left;
    }
    if (e.cosine > -1) { // the least angle between an emitter's axis and the way to the point
        const float cosAxis = glm::dot(e.axis, w), sinAxis = sine(cosAxis),
                    cosX = cosine_less(sinAxis, cosAxis, e.sine, e.cosine),
                    sinX = sine_less(sinAxis, cosAxis, e.sine, e.cosine),
                    cosOut = cosine_less(sinX, cosX, sinBound, cosBound);
        if (cosOut < e.cosineFalloff - 1e-4f) return 0;
        if (e.cosineFalloff < 0.5f) out *= std::max(cosOut, 1e-3f);
    }
    if (n != glm::vec3(0.0f)) {
        const float cosIn = -glm::dot(w, n), best = cosine_less(sine(cosIn), cosIn, sinBound, cosBound);
        if (best <= 0) return 0;
        out *= best;
    }
    return out;
}

LightTree::LightTree(const std::vector<EmitterBounds>& emitters) : leaves_(emitters.size(), -1) {
    std::vector<int> order;
    for (std::size_t i = 0; i < emitters.size(); ++i)
        if (emitters[i].power > 0) order.push_back(static_cast<int>(i));
    nodes_.reserve(2 * order.size());
    if (!order.empty()) build(order, 0, order.size(), emitters, -1);
}

EmitterBounds LightTree::build(std::vector<int>& order, std::size_t first, std::size_t last,
                               const std::vector<EmitterBounds>& emitters, int parent) {
    const int self = static_cast<int>(nodes_.size());
    nodes_.push_back({});
    nodes_.back().parent = parent;
    const auto of = [&](std::size_t i) -> const EmitterBounds& { return emitters[static_cast<std::size_t>(order[i])]; };
    if (last - first == 1) {
        nodes_[static_cast<std::size_t>(self)].shape = EmitterShape(of(first));
        nodes_[static_cast<std::size_t>(self)].emitter = order[first];
        leaves_[static_cast<std::size_t>(order[first])] = self;
        return of(first);
    }
    Box centers;
    for (std::size_t i = first; i < last; ++i)
        centers.add(of(i).box.center());
    constexpr int buckets = 12;
    const glm::vec3 size = centers.size();
    float least = std::numeric_limits<float>::max();
    int axis = -1, at = 0;
    const auto bucket = [&](const EmitterBounds& e, int k) {
        return std::min(buckets - 1, static_cast<int>(buckets * (e.box.center()[k] - centers.low[k]) / size[k]));
    };
    for (int k = 0; k < 3; ++k) {
        if (!(size[k] > 0)) continue;
        std::array<EmitterBounds, buckets> held;
        for (std::size_t i = first; i < last; ++i) {
            EmitterBounds& into = held[static_cast<std::size_t>(bucket(of(i), k))];
            into = united(into, of(i));
        }
        const float stretch = std::max({size.x, size.y, size.z}) / size[k]; // thin boxes are dear to split
        for (int s = 1; s < buckets; ++s) {
            EmitterBounds below, above;
            for (int b = 0; b < buckets; ++b) {
                EmitterBounds& side = b < s ? below : above;
                side = united(side, held[static_cast<std::size_t>(b)]);
            }
            if (below.power <= 0 || above.power <= 0) continue;
            if (const float c = stretch * (cost(below) + cost(above)); c < least) {
                least = c;
                axis = k;
                at = s;
            }
        }
    }
    const auto begin = order.begin() + static_cast<std::ptrdiff_t>(first),
               end = order.begin() + static_cast<std::ptrdiff_t>(last);
    auto middle = begin + (end - begin) / 2;
    if (axis >= 0)
        middle = std::stable_partition(begin, end,
                                       [&](int e) { return bucket(emitters[static_cast<std::size_t>(e)], axis) < at; });
    const auto split = static_cast<std::size_t>(middle - order.begin());
    const int left = static_cast<int>(nodes_.size());
    EmitterBounds whole = build(order, first, split, emitters, self);
    const int right = static_cast<int>(nodes_.size());
    whole = united(whole, build(order, split, last, emitters, self));
    Node& node = nodes_[static_cast<std::size_t>(self)];
    node.left = left;
    node.right = right;
    node.shape = EmitterShape(whole);
    return whole;
}

LightTree::Choice LightTree::choose(const glm::vec3& p, const glm::vec3& n, double u) const {
    if (nodes_.empty() || importance(nodes_[0].shape, p, n) <= 0) return {};
    double share = 1;
    for (const Node* node = &nodes_[0];;) {
        if (node->left < 0) return {node->emitter, share};
        const Node &left = nodes_[static_cast<std::size_t>(node->left)],
                   &right = nodes_[static_cast<std::size_t>(node->right)];
        const double a = importance(left.shape, p, n), b = importance(right.shape, p, n);
        if (a + b <= 0) return {};
        const double toLeft = a / (a + b);
        if (u < toLeft) {
            u = std::min(u / toLeft, 1 - 1e-12);
            share *= toLeft;
            node = &left;
        } else {
            u = std::min((u - toLeft) / (1 - toLeft), 1 - 1e-12);
            share *= 1 - toLeft;
            node = &right;
        }
    }
}

double LightTree::share_of(int emitter, const glm::vec3& p, const glm::vec3& n) const {
    int at = leaves_[static_cast<std::size_t>(emitter)];
    if (at < 0 || importance(nodes_[0].shape, p, n) <= 0) return 0;
    double share = 1;
    for (int parent = nodes_[static_cast<std::size_t>(at)].parent; parent >= 0;
         at = parent, parent = nodes_[static_cast<std::size_t>(at)].parent) {
        const Node& node = nodes_[static_cast<std::size_t>(parent)];
        const double a = importance(nodes_[static_cast<std::size_t>(node.left)].shape, p, n),
                     b = importance(nodes_[static_cast<std::size_t>(node.right)].shape, p, n);
        if (a + b <= 0) return 0;
        share *= (node.left == at ? a : b) / (a + b);
    }
    return share;
}

} // namespace mirolux::truth
