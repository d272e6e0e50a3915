#include "core/scene/gltf_rig.h"
#include <algorithm>
#include <cmath>
#include <set>

namespace mirolux::gltf {

namespace {

constexpr int most_sets = 2; // of four joints

std::vector<float> attribute(File& file, const JsonCursor& a, int components, std::size_t vertices) {
    std::size_t n = 0;
    std::vector<float> out = file.floats(a, components, n);
    if (n != vertices)
        a.complain("has " + std::to_string(n) + " elements where POSITION has " + std::to_string(vertices));
    return out;
}

void read_sets(File& file, const JsonCursor& attributes, Bending& b, std::size_t vertices) {
    const auto key = [](const char* word, int set) { return word + std::to_string(set); };
    while (b.sets < most_sets && attributes.has(key("JOINTS_", b.sets).c_str()))
        ++b.sets;
    if (b.sets == 0) return;
    if (attributes.has(key("JOINTS_", b.sets).c_str()))
        file.warn(attributes.pointer(),
                  "a vertex follows eight joints at most: the ninth and further ones are not used");
    const auto sets = static_cast<std::size_t>(b.sets);
    file.spend(vertices * sets * (sizeof(glm::u16vec4) + sizeof(glm::vec4)), attributes);
    b.joints.resize(vertices * sets);
    b.shares.resize(vertices * sets);
    for (int set = 0; set < b.sets; ++set) {
        const std::string shareKey = key("WEIGHTS_", set);
        const auto joints = attribute(file, attributes[key("JOINTS_", set).c_str()], 4, vertices),
                   shares = attribute(file, attributes[shareKey.c_str()], 4, vertices);
        for (std::size_t v = 0; v < vertices; ++v)
            for (int k = 0; k < 4; ++k) {
                const std::size_t at = v * sets + static_cast<std::size_t>(set),
                                  from = 4 * v + static_cast<std::size_t>(k);
                b.joints[at][k] = static_cast<std::uint16_t>(std::clamp(joints[from], 0.0f, 65535.0f));
                b.shares[at][k] = std::max(0.0f, shares[from]);
            }
    }
}

/// Shares sum to 1; a vertex of none follows its first joint.
void make_whole(Bending& b) {
    const auto sets = static_cast<std::size_t>(b.sets);
    for (std::size_t v = 0; sets > 0 && v < b.shares.size() / sets; ++v) {
        float sum = 0;
        for (std::size_t s = 0; s < sets; ++s)
            for (int k = 0; k < 4; ++k)
                sum += b.shares[v * sets + s][k];
        if (sum > 1e-12f && std::isfinite(sum)) {
            if (sum != 1.0f)
                for (std::size_t s = 0; s < sets; ++s)
                    b.shares[v * sets + s] /= sum;
        } else {
            for (std::size_t s = 0; s < sets; ++s)
                b.shares[v * sets + s] = glm::vec4(0.0f);
            b.shares[v * sets][0] = 1;
        }
    }
}

void read_shapes(File& file, const JsonCursor& targets, Bending& b, std::size_t vertices) {
    b.shapes = static_cast<int>(targets.size());
    if (targets.size() > 1024) targets.complain("has more than 1024 shapes");
    file.spend(targets.size() * vertices * sizeof(ShapeChange), targets);
    b.changes.resize(targets.size() * vertices);
    for (std::size_t s = 0; s < targets.size(); ++s) {
        const JsonCursor target = targets.at(s);
        for (const auto& [word, part] : {std::pair("POSITION", &ShapeChange::position),
                                         {"NORMAL", &ShapeChange::normal},
                                         {"TANGENT", &ShapeChange::tangent}}) {
            if (!target.has(word)) continue;
            const auto values = attribute(file, target[word], 3, vertices);
            for (std::size_t v = 0; v < vertices; ++v)
                b.changes[s * vertices + v].*part = {values[3 * v], values[3 * v + 1], values[3 * v + 2]};
        }
        for (const char* word : {"TEXCOORD_0", "COLOR_0"})
            if (target.has(word)) file.warn(target.pointer() + "/" + word, "shapes do not change it");
    }
}

glm::dvec3 three(const JsonCursor& node, const char* key, const glm::dvec3& usual) {
    return node.has(key) ? glm::dvec3(node[key].vector<3>()) : usual;
}

/// A channel's values in time; empty, and warned of, if they cannot be played.
std::optional<Track> read_track(File& file, const JsonCursor& sampler, int components, int values, bool turns) {
    const auto no = [&](const std::string& why) -> std::optional<Track> {
        file.warn(sampler.pointer(), why + ": what it moves stays in its rest place");
        return std::nullopt;
    };
    Track t;
    t.components = components * values;
    const std::string way = sampler.text("interpolation", "LINEAR");
    if (way == "STEP")
        t.interpolation = Interpolation::step;
    else if (way == "CUBICSPLINE")
        t.interpolation = Interpolation::cubic;
    else if (way != "LINEAR")
        return no("interpolation \"" + way + "\" is not one of glTF's");
    std::size_t keys = 0, count = 0;
    t.times = file.floats(sampler["input"], 1, keys);
    for (std::size_t k = 1; k < keys; ++k)
        if (!(t.times[k] > t.times[k - 1]))
            return no("key " + std::to_string(k) + " at " + fmt::format("{:g}", t.times[k]) +
                      " s is not after the one at " + fmt::format("{:g}", t.times[k - 1]) + " s");
    if (file.components(sampler["output"]) != components)
        return no("its values have another number of components than what it moves");
    t.values = file.floats(sampler["output"], components, count);
    const std::size_t wanted =
        keys * static_cast<std::size_t>(values) * (t.interpolation == Interpolation::cubic ? 3 : 1);
    if (count != wanted)
        return no(std::to_string(count) + " values where " + std::to_string(keys) + " keys need " +
                  std::to_string(wanted));
    if (turns && t.interpolation != Interpolation::cubic)
        for (std::size_t k = 0; k < keys; ++k)
            if (!(glm::length(glm::vec4(t.values[4 * k], t.values[4 * k + 1], t.values[4 * k + 2],
                                        t.values[4 * k + 3])) > 1e-6f))
                return no("key " + std::to_string(k) + " is not a quaternion");
    return t;
}

struct Target {
    Animated what;
    int target;
    int components, values = 1;
};

std::optional<int> number_in(const std::string& text, std::size_t below) {
    if (text.empty() || text.size() > 9 || text.find_first_not_of("0123456789") != std::string::npos)
        return std::nullopt;
    const int n = std::stoi(text);
    return static_cast<std::size_t>(n) < below ? std::optional(n) : std::nullopt;
}

/// What a JSON pointer of KHR_animation_pointer names; empty: nothing that clips move here.
std::optional<Target> pointed_at(const std::string& pointer, const Rig& rig, const std::vector<int>& shapes) {
    const auto starts = [&](const char* word) { return pointer.rfind(word, 0) == 0; };
    const auto parts = [&](std::size_t from) {
        const std::size_t slash = pointer.find('/', from);
        return std::pair(pointer.substr(from, slash == std::string::npos ? slash : slash - from),
                         slash == std::string::npos ? std::string() : pointer.substr(slash + 1));
    };
    static const char *lights = "/extensions/KHR_lights_punctual/lights/", *nodes = "/nodes/";
    if (starts(lights)) {
        const auto [number, value] = parts(std::strlen(lights));
        const auto light = number_in(number, rig.lights.size());
        if (!light) return std::nullopt;
        static const std::pair<const char*, Animated> known[] = {{"color", Animated::lightColor},
                                                                 {"intensity", Animated::lightCandela},
                                                                 {"range", Animated::lightRange},
                                                                 {"spot/innerConeAngle", Animated::lightInner},
                                                                 {"spot/outerConeAngle", Animated::lightOuter}};
        for (const auto& [word, what] : known)
            if (value == word) return Target{what, *light, what == Animated::lightColor ? 3 : 1};
    } else if (starts(nodes)) {
        const auto [number, value] = parts(std::strlen(nodes));
        const auto node = number_in(number, rig.nodes.size());
        if (!node) return std::nullopt;
        if (value == "translation") return Target{Animated::translation, *node, 3};
        if (value == "rotation") return Target{Animated::rotation, *node, 4};
        if (value == "scale") return Target{Animated::scale, *node, 3};
        const int n = shapes[static_cast<std::size_t>(*node)];
        if (value == "weights" && n > 0) return Target{Animated::weights, *node, 1, n};
    }
    return std::nullopt;
}

/// What a channel moves; empty, and warned of, if that is nothing of this scene's.
std::optional<Target> read_target(File& file, const JsonCursor& target, const Rig& rig,
                                  const std::vector<int>& shapes) {
    const auto no = [&](const std::string& why) -> std::optional<Target> {
        file.warn(target.pointer(), why);
        return std::nullopt;
    };
    const std::string path = target["path"].text();
    if (path == "pointer") {
        const std::string pointer = target["extensions"]["KHR_animation_pointer"]["pointer"].text();
        auto out = pointed_at(pointer, rig, shapes);
        return out ? out : no("\"" + pointer + "\" is not played: nodes' places and weights, and lights' values are");
    }
    const int node = target.index("node", rig.nodes.size());
    if (node < 0) return no("names no node: it moves nothing");
    const auto& n = rig.nodes[static_cast<std::size_t>(node)];
    if (path == "weights") {
        const int count = shapes[static_cast<std::size_t>(node)];
        return count > 0 ? std::optional(Target{Animated::weights, node, 1, count})
                         : no("node " + std::to_string(node) + " has no shapes that weights could bend");
    }
    if (n.matrix) return no("node " + std::to_string(node) + " is placed by a matrix, which no clip can move");
    if (path == "translation") return Target{Animated::translation, node, 3};
    if (path == "rotation") return Target{Animated::rotation, node, 4};
    if (path == "scale") return Target{Animated::scale, node, 3};
    return no("path \"" + path + "\" is not one of glTF's");
}

} // namespace

std::shared_ptr<Bending> read_bending(File& file, const JsonCursor& p, std::size_t vertices) {
    const JsonCursor attributes = p["attributes"], targets = p.list("targets");
    if (!attributes.has("JOINTS_0") && targets.size() == 0) return nullptr;
    auto out = std::make_shared<Bending>();
    read_sets(file, attributes, *out, vertices);
    make_whole(*out);
    read_shapes(file, targets, *out, vertices);
    return out;
}

void take_vertices(Bending& b, const std::vector<std::uint32_t>& from) {
    const Bending was = b;
    const auto sets = static_cast<std::size_t>(b.sets), shapes = static_cast<std::size_t>(b.shapes);
    const std::size_t before = shapes > 0 ? was.changes.size() / shapes : 0;
    b.joints.resize(from.size() * sets);
    b.shares.resize(from.size() * sets);
    b.changes.resize(from.size() * shapes);
    for (std::size_t v = 0; v < from.size(); ++v) {
        for (std::size_t s = 0; s < sets; ++s) {
            b.joints[v * sets + s] = was.joints[from[v] * sets + s];
            b.shares[v * sets + s] = was.shares[from[v] * sets + s];
        }
        for (std::size_t s = 0; s < shapes; ++s)
            b.changes[s * from.size() + v] = was.changes[s * before + from[v]];
    }
}

void find_reach(Bending& b, const Primitive& p, std::size_t joints) {
    const std::size_t count = p.vertices.size();
    const auto sets = static_cast<std::size_t>(b.sets);
    b.reach.assign(joints, Box{});
    for (std::size_t v = 0; sets > 0 && v < count; ++v)
        for (std::size_t s = 0; s < sets; ++s)
            for (int k = 0; k < 4; ++k)
                if (b.shares[v * sets + s][k] > 0 && b.joints[v * sets + s][k] < joints)
                    b.reach[b.joints[v * sets + s][k]].add(p.vertices[v].position);
    b.followed = 0;
    for (const glm::vec4& shares : b.shares)
        for (int k = 0; k < 4; ++k)
            b.followed += shares[k] != 0;
    b.changeReach.assign(static_cast<std::size_t>(b.shapes), Box{});
    for (std::size_t s = 0; s < b.changeReach.size(); ++s)
        for (std::size_t v = 0; v < count; ++v)
            b.changeReach[s].add(b.changes[s * count + v].position);
}

std::shared_ptr<const Bending> fit_to_skin(const std::shared_ptr<const Bending>& bending, const Primitive& p,
                                           std::size_t joints, std::size_t& lost) {
    auto out = std::make_shared<Bending>(*bending);
    const auto sets = static_cast<std::size_t>(out->sets);
    for (std::size_t v = 0; sets > 0 && v < out->joints.size() / sets; ++v) {
        bool odd = false;
        for (std::size_t s = 0; s < sets; ++s)
            for (int k = 0; k < 4; ++k)
                if (out->joints[v * sets + s][k] >= joints) {
                    odd = odd || out->shares[v * sets + s][k] > 0;
                    out->joints[v * sets + s][k] = 0;
                    out->shares[v * sets + s][k] = 0;
                }
        lost += odd;
    }
    make_whole(*out);
    find_reach(*out, p, joints);
    return out;
}

Node read_node(const JsonCursor& node, std::size_t index) {
    Node n;
    n.name = node.text("name", "node " + std::to_string(index));
    if (node.has("matrix")) {
        const JsonCursor list = node["matrix"];
        if (!list.json().is_array() || list.size() != 16) list.complain("must be an array of 16 numbers");
        glm::dmat4 m;
        for (int i = 0; i < 16; ++i)
            m[i / 4][i % 4] = list.at(static_cast<std::size_t>(i)).number();
        n.matrix = m;
    }
    n.translation = three(node, "translation", n.translation);
    n.scale = three(node, "scale", n.scale);
    const glm::dvec4 r = node.has("rotation") ? glm::dvec4(node["rotation"].vector<4>()) : glm::dvec4(0, 0, 0, 1);
    const double length = glm::length(r);
    if (!(length > 1e-6)) node["rotation"].complain("is not a quaternion");
    n.rotation = glm::dquat(r.w / length, r.x / length, r.y / length, r.z / length);
    const JsonCursor weights = node.list("weights");
    for (std::size_t i = 0; i < weights.size() && i < 1024; ++i)
        n.weights.push_back(static_cast<float>(weights.at(i).number()));
    return n;
}

std::vector<Skin> read_skins(File& file, std::size_t nodes) {
    std::vector<Skin> out;
    const JsonCursor skins = file.root().list("skins");
    for (std::size_t i = 0; i < skins.size(); ++i) {
        const JsonCursor s = skins.at(i);
        Skin skin;
        skin.name = s.text("name", "skin " + std::to_string(i));
        const JsonCursor joints = s["joints"];
        if (!joints.json().is_array() || joints.size() == 0) joints.complain("must be an array with at least one node");
        if (joints.size() > 65536) joints.complain("has more than 65536 joints");
        for (std::size_t j = 0; j < joints.size(); ++j) {
            const auto n = joints.at(j).whole(0x7FFFFFFF);
            if (n >= nodes) joints.at(j).complain("node " + std::to_string(n) + " does not exist");
            skin.joints.push_back(static_cast<int>(n));
        }
        skin.toJoint.assign(skin.joints.size(), glm::dmat4(1.0));
        if (s.has("inverseBindMatrices")) {
            std::size_t count = 0;
            const auto m = file.floats(s["inverseBindMatrices"], 16, count);
            if (count < skin.joints.size())
                s["inverseBindMatrices"].complain("has " + std::to_string(count) + " matrices for " +
                                                  std::to_string(skin.joints.size()) + " joints");
            for (std::size_t j = 0; j < skin.joints.size(); ++j)
                for (int k = 0; k < 16; ++k)
                    skin.toJoint[j][k / 4][k % 4] = m[16 * j + static_cast<std::size_t>(k)];
        }
        out.push_back(std::move(skin));
    }
    return out;
}

std::vector<LightValues> read_light_values(const JsonCursor& root) {
    std::vector<LightValues> out;
    if (!root.has("extensions") || !root["extensions"].has("KHR_lights_punctual")) return out;
    const JsonCursor lights = root["extensions"]["KHR_lights_punctual"].list("lights");
    for (std::size_t i = 0; i < lights.size(); ++i) {
        const JsonCursor l = lights.at(i);
        LightValues v;
        v.color = three(l, "color", v.color);
        v.candela = l.number("intensity", 1.0);
        v.range = l.number("range", 0.0);
        if (l.has("spot")) {
            v.inner = l["spot"].number("innerConeAngle", v.inner);
            v.outer = l["spot"].number("outerConeAngle", v.outer);
        }
        out.push_back(v);
    }
    return out;
}

std::vector<Clip> read_clips(File& file, const Rig& rig, const std::vector<int>& shapes) {
    std::vector<Clip> out;
    std::set<std::string> names;
    const JsonCursor animations = file.root().list("animations");
    for (std::size_t i = 0; i < animations.size(); ++i) {
        const JsonCursor a = animations.at(i);
        Clip clip;
        const std::string name = a.text("name", "clip " + std::to_string(i));
        clip.name = name;
        for (int n = 2; !names.insert(clip.name).second; ++n)
            clip.name = name + "~" + std::to_string(n);
        const JsonCursor channels = a.list("channels"), samplers = a.list("samplers");
        std::set<std::pair<Animated, int>> moved;
        for (std::size_t c = 0; c < channels.size(); ++c) {
            const JsonCursor channel = channels.at(c);
            const auto target = read_target(file, channel["target"], rig, shapes);
            if (!target) continue;
            if (!moved.insert({target->what, target->target}).second) {
                file.warn(channel.pointer(), "moves what an earlier channel of the clip moves, and is not played");
                continue;
            }
            const int s = channel.index("sampler", samplers.size());
            if (s < 0) channel.complain("lacks \"sampler\"");
            auto track = read_track(file, samplers.at(static_cast<std::size_t>(s)), target->components, target->values,
                                    target->what == Animated::rotation);
            if (!track) continue;
            clip.seconds = std::max(clip.seconds, double(track->times.back()));
            clip.channels.push_back({target->target, target->what, std::move(*track)});
        }
        out.push_back(std::move(clip));
    }
    return out;
}

} // namespace mirolux::gltf
