#include "core/base/text.h"
#include "core/motion/rig.h"
#include <algorithm>
#include <cmath>
#include <set>

namespace mirolux {

namespace {

/// Spherical between two quaternions (xyzw), the shorter way round.
void turn_between(const double* a, const double* b, double t, std::span<double> out) {
    const glm::dquat from(a[3], a[0], a[1], a[2]), to(b[3], b[0], b[1], b[2]);
    const glm::dquat q = glm::slerp(from, to, t);
    out[0] = q.x, out[1] = q.y, out[2] = q.z, out[3] = q.w;
}

void make_unit(std::span<double> q) {
    double length = 0;
    for (const double v : q)
        length += v * v;
    length = std::sqrt(length);
    for (std::size_t c = 0; c < q.size(); ++c)
        q[c] = length > 1e-12 ? q[c] / length : (c == 3 ? 1.0 : 0.0);
}

/// Values of several clips for one thing, joined by their shares.
struct Mixed {
    std::vector<double> sum;
    double share = 0;

    void add(std::span<const double> value, double part, bool turns) {
        if (share == 0) {
            sum.assign(value.begin(), value.end());
            for (double& v : sum)
                v *= part;
        } else {
            double sign = 1;
            if (turns) { // the hemisphere of what is there: q and -q are one turn
                double dot = 0;
                for (std::size_t c = 0; c < sum.size(); ++c)
                    dot += sum[c] * value[c];
                sign = dot < 0 ? -1 : 1;
            }
            for (std::size_t c = 0; c < sum.size(); ++c)
                sum[c] += sign * part * value[c];
        }
        share += part;
    }
    std::vector<double> taken(bool turns) const {
        std::vector<double> out = sum;
        if (turns)
            make_unit(out);
        else
            for (double& v : out)
                v /= share;
        return out;
    }
};

glm::dmat4 local_matrix(const Node& n) {
    if (n.matrix) return *n.matrix;
    glm::dmat4 m = glm::mat4_cast(n.rotation);
    for (int k = 0; k < 3; ++k)
        m[k] *= n.scale[k];
    m[3] = glm::dvec4(n.translation, 1.0);
    return m;
}

using Key = std::pair<Animated, int>;

/// Puts a joined value where it belongs.
void take(const Key& key, const std::vector<double>& v, std::vector<Node>& nodes,
          std::vector<std::vector<double>>& weights, std::vector<LightValues>& lights) {
    const auto at = static_cast<std::size_t>(key.second);
    switch (key.first) {
    case Animated::translation:
        nodes[at].translation = {v[0], v[1], v[2]};
        break;
    case Animated::rotation:
        nodes[at].rotation = glm::dquat(v[3], v[0], v[1], v[2]);
        break;
    case Animated::scale:
        nodes[at].scale = {v[0], v[1], v[2]};
        break;
    case Animated::weights:
        weights[at] = v;
        break;
    case Animated::lightColor:
        lights[at].color = glm::max(glm::dvec3(v[0], v[1], v[2]), 0.0);
        break;
    case Animated::lightCandela:
        lights[at].candela = std::max(v[0], 0.0);
        break;
    case Animated::lightRange:
        lights[at].range = std::max(v[0], 0.0);
        break;
    case Animated::lightInner:
        lights[at].inner = v[0];
        break;
    case Animated::lightOuter:
        lights[at].outer = v[0];
        break;
    }
}

} // namespace

void value_at(const Track& track, double seconds, bool turns, std::span<double> out) {
    const auto n = static_cast<std::size_t>(track.components);
    const bool cubic = track.interpolation == Interpolation::cubic;
    const std::size_t keys = track.times.size(), stride = cubic ? 3 * n : n;
    const auto value = [&](std::size_t key, std::size_t part) { // part: of a cubic key 0 before, 1 value, 2 after
        return track.values.data() + key * stride + (cubic ? part * n : 0);
    };
    // The last key that is not after the time.
    const auto after = std::upper_bound(track.times.begin(), track.times.end(), seconds,
                                        [](double t, float key) { return t < double(key); });
    const std::size_t k = after == track.times.begin() ? 0 : static_cast<std::size_t>(after - track.times.begin()) - 1;
    const bool held = after == track.times.begin() || k + 1 == keys || track.interpolation == Interpolation::step;
    if (held)
        std::copy_n(value(k, 1), n, out.begin());
    else {
        const double t0 = track.times[k], span = double(track.times[k + 1]) - t0;
        const double t = span > 0 ? (seconds - t0) / span : 0;
        if (cubic) {
            const double t2 = t * t, t3 = t2 * t;
            for (std::size_t c = 0; c < n; ++c)
                out[c] = (2 * t3 - 3 * t2 + 1) * value(k, 1)[c] + span * (t3 - 2 * t2 + t) * value(k, 2)[c] +
                         (-2 * t3 + 3 * t2) * value(k + 1, 1)[c] + span * (t3 - t2) * value(k + 1, 0)[c];
        } else if (turns) {
            double a[4], b[4];
            std::copy_n(value(k, 0), 4, a);
            std::copy_n(value(k + 1, 0), 4, b);
            turn_between(a, b, t, out);
        } else
            for (std::size_t c = 0; c < n; ++c)
                out[c] = (1 - t) * value(k, 0)[c] + t * value(k + 1, 0)[c];
    }
    if (turns) make_unit(out);
}

double time_in(const Clip& clip, const ClipPlay& play, double seconds) {
    const double t = seconds * play.speed + play.offset;
    if (!(clip.seconds > 0)) return 0;
    if (!play.loop) return std::clamp(t, 0.0, clip.seconds);
    return t - clip.seconds * std::floor(t / clip.seconds);
}

std::vector<ClipPlay> usual_clips(const Rig& rig) {
    std::vector<ClipPlay> out;
    std::set<Key> taken;
    for (const Clip& clip : rig.clips) {
        ClipPlay play{clip.name};
        for (const ClipChannel& c : clip.channels)
            play.on = play.on && !taken.count({c.what, c.target});
        if (play.on)
            for (const ClipChannel& c : clip.channels)
                taken.insert({c.what, c.target});
        out.push_back(std::move(play));
    }
    return out;
}

std::vector<ClipPlay> clips_of(const Scene& scene) {
    if (!scene.asset || !scene.asset->rig) return {};
    return scene.clips.empty() ? usual_clips(*scene.asset->rig) : scene.clips;
}

std::shared_ptr<const Pose> make_pose(const Rig& rig, const std::vector<ClipPlay>& clips, double seconds) {
    auto pose = std::make_shared<Pose>();
    pose->seconds = seconds;
    std::vector<Node> nodes = rig.nodes;
    for (const Node& n : nodes)
        pose->weights.emplace_back(n.weights.begin(), n.weights.end());
    pose->lights = rig.lights;
    std::map<Key, Mixed> mixed;
    std::vector<double> value;
    for (const ClipPlay& play : clips) {
        if (!play.on || !(play.share > 0)) continue;
        const auto clip =
            std::find_if(rig.clips.begin(), rig.clips.end(), [&](const Clip& c) { return c.name == play.clip; });
        if (clip == rig.clips.end()) continue; // the file has lost it
        const double t = time_in(*clip, play, seconds);
        for (const ClipChannel& c : clip->channels) {
            value.resize(static_cast<std::size_t>(c.track.components));
            value_at(c.track, t, c.what == Animated::rotation, value);
            mixed[{c.what, c.target}].add(value, play.share, c.what == Animated::rotation);
        }
    }
    for (const auto& [key, m] : mixed)
        take(key, m.taken(key.first == Animated::rotation), nodes, pose->weights, pose->lights);
    pose->world.assign(nodes.size(), glm::dmat4(1.0));
    for (const int n : rig.order) {
        const Node& node = nodes[static_cast<std::size_t>(n)];
        const glm::dmat4 local = local_matrix(node);
        pose->world[static_cast<std::size_t>(n)] =
            node.parent < 0 ? local : pose->world[static_cast<std::size_t>(node.parent)] * local;
    }
    for (const Skin& skin : rig.skins) {
        std::vector<glm::mat4> joints;
        for (std::size_t j = 0; j < skin.joints.size(); ++j)
            joints.emplace_back(pose->world[static_cast<std::size_t>(skin.joints[j])] * skin.toJoint[j]);
        pose->joints.push_back(std::move(joints));
    }
    for (const Body& body : rig.bodies) {
        Digest d;
        const auto& w = pose->weights[static_cast<std::size_t>(body.node)];
        if (body.bending->shapes > 0) d.add(w.data(), w.size() * sizeof(double));
        if (body.skin >= 0) {
            const auto& j = pose->joints[static_cast<std::size_t>(body.skin)];
            d.add(j.data(), j.size() * sizeof(glm::mat4));
        }
        pose->states.push_back(d.value);
        pose->bent_.push_back(std::make_unique<Pose::Made>());
    }
    return pose;
}

} // namespace mirolux
