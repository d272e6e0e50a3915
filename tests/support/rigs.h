#pragma once
#include "core/io/file.h"
#include "core/scene/gltf_import.h"
#include <QByteArray>
#include <QTemporaryDir>
#include <nlohmann/json.hpp>
#include <random>

// Generated glTF files that move: nodes, bones, shapes, lights, with clips of every kind.
namespace mirolux {

/// A glTF document with one embedded buffer, put together piece by piece.
class GltfText {
public:
    nlohmann::json json = {{"asset", {{"version", "2.0"}}}, {"scene", 0}};

    int accessor(const void* data, std::size_t bytes, int componentType, std::size_t count, const char* type) {
        while (bytes_.size() % 4)
            bytes_.push_back('\0');
        json["bufferViews"].push_back({{"buffer", 0}, {"byteOffset", bytes_.size()}, {"byteLength", bytes}});
        bytes_.append(static_cast<const char*>(data), bytes);
        json["accessors"].push_back({{"bufferView", json["bufferViews"].size() - 1},
                                     {"componentType", componentType},
                                     {"count", count},
                                     {"type", type}});
        return static_cast<int>(json["accessors"].size()) - 1;
    }
    int floats(const std::vector<float>& v, const char* type, int components) {
        return accessor(v.data(), v.size() * 4, 5126, v.size() / static_cast<std::size_t>(components), type);
    }
    std::string text() const {
        nlohmann::json whole = json;
        whole["buffers"] =
            nlohmann::json::array({{{"byteLength", bytes_.size()},
                                    {"uri", "data:application/octet-stream;base64," +
                                                QByteArray::fromStdString(bytes_).toBase64().toStdString()}}});
        return whole.dump();
    }
    Result<std::shared_ptr<const SceneAsset>> import() const {
        QTemporaryDir dir;
        const auto path = dir.filePath("scene.gltf").toStdString();
        if (auto ok = write_file_atomically(path, text()); !ok) return tl::unexpected(ok.error());
        return import_gltf(path);
    }

private:
    std::string bytes_;
};

/// A bar of rings along +Y that a chain of bones bends, on a root that moves; beside it a plate with shapes, a lamp
/// whose values clips change, and a camera. Clips "all" (every interpolation), "bones" and "drift", which change the
/// same.
class MovingScene : public GltfText {
public:
    static constexpr int bones = 6, rings = 13, sides = 8, shapes = 3;

    explicit MovingScene(unsigned seed, int sets = 2) : random_(seed) {
        json["extensionsUsed"] = {"KHR_lights_punctual", "KHR_animation_pointer"};
        add_nodes();
        add_bar(sets);
        add_plate();
        for (const char* name : {"all", "bones", "drift"})
            add_clip(name);
    }
    int rootNode = 0, firstBone = 1, barNode = 0, plateNode = 0, lampNode = 0, cameraNode = 0;
    float uniform(float low, float high) { return std::uniform_real_distribution<float>(low, high)(random_); }

private:
    using J = nlohmann::json;

    std::vector<float> turn() {
        float q[4], length = 0;
        for (float& v : q) {
            v = uniform(-1, 1);
            length += v * v;
        }
        length = std::sqrt(std::max(length, 1e-3f));
        return {q[0] / length, q[1] / length, q[2] / length, q[3] / length};
    }

    void add_nodes() {
        J nodes = J::array();
        nodes.push_back({{"name", "root"},
                         {"translation", {0.3, 0.1, -0.4}},
                         {"rotation", turn()},
                         {"scale", {1.2, 0.9, 1.1}},
                         {"children", {1}}});
        for (int b = 0; b < bones; ++b) {
            J bone = {{"name", "bone " + std::to_string(b)}, {"translation", {0, b == 0 ? 0.0 : 0.5, 0}}};
            if (b + 1 < bones) bone["children"] = {2 + b};
            nodes.push_back(bone);
        }
        barNode = static_cast<int>(nodes.size());
        nodes.push_back({{"name", "bar"}, {"mesh", 0}, {"skin", 0}, {"translation", {9, 9, 9}}});
        plateNode = static_cast<int>(nodes.size());
        nodes.push_back({{"name", "plate"}, {"mesh", 1}, {"translation", {2, 0, 0}}, {"rotation", turn()}});
        lampNode = static_cast<int>(nodes.size());
        nodes.push_back(
            {{"name", "lamp"}, {"translation", {0, 3, 0}}, {"extensions", {{"KHR_lights_punctual", {{"light", 0}}}}}});
        cameraNode = static_cast<int>(nodes.size());
        nodes.push_back({{"name", "eye"}, {"camera", 0}, {"translation", {0, 1, 6}}});
        json["nodes"] = nodes;
        json["scenes"] = J::array({{{"nodes", {0, barNode, plateNode, lampNode, cameraNode}}}});
        json["extensions"]["KHR_lights_punctual"]["lights"] =
            J::array({{{"type", "spot"},
                       {"color", {1, 0.5, 0.25}},
                       {"intensity", 50},
                       {"range", 7},
                       {"spot", {{"innerConeAngle", 0.1}, {"outerConeAngle", 0.5}}}}});
        json["cameras"] =
            J::array({{{"type", "perspective"}, {"name", "front"}, {"perspective", {{"yfov", 0.8}, {"znear", 0.05}}}}});
    }

    void add_bar(int sets) {
        std::vector<float> positions, normals, shares[2], toJoint;
        std::vector<std::uint16_t> joints[2], order;
        for (int r = 0; r < rings; ++r)
            for (int s = 0; s < sides; ++s) {
                const float a = 6.2831853f * static_cast<float>(s) / sides,
                            y = 3.0f * static_cast<float>(r) / (rings - 1);
                positions.insert(positions.end(), {0.2f * std::cos(a), y, 0.2f * std::sin(a)});
                normals.insert(normals.end(), {std::cos(a), 0, std::sin(a)});
                float sum = 0, share[8];
                for (int k = 0; k < 4 * sets; ++k)
                    sum += share[k] = std::max(0.0f, uniform(-0.3f, 1));
                for (int k = 0; k < 4 * sets; ++k) {
                    shares[k / 4].push_back(sum > 0 ? share[k] / sum : (k == 0 ? 1.0f : 0.0f));
                    joints[k / 4].push_back(static_cast<std::uint16_t>(uniform(0, bones - 0.01f)));
                }
            }
        for (int r = 0; r + 1 < rings; ++r)
            for (int s = 0; s < sides; ++s) {
                const int n = (s + 1) % sides;
                for (const int i : {r * sides + s, (r + 1) * sides + s, (r + 1) * sides + n, r * sides + s,
                                    (r + 1) * sides + n, r * sides + n})
                    order.push_back(static_cast<std::uint16_t>(i));
            }
        for (int b = 0; b < bones; ++b)
            toJoint.insert(toJoint.end(), {1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, -0.5f * static_cast<float>(b), 0, 1});
        J attributes = {{"POSITION", floats(positions, "VEC3", 3)}, {"NORMAL", floats(normals, "VEC3", 3)}};
        for (int s = 0; s < sets; ++s) {
            attributes["JOINTS_" + std::to_string(s)] =
                accessor(joints[s].data(), joints[s].size() * 2, 5123, joints[s].size() / 4, "VEC4");
            attributes["WEIGHTS_" + std::to_string(s)] = floats(shares[s], "VEC4", 4);
        }
        json["meshes"].push_back(
            {{"name", "bar"},
             {"primitives",
              J::array({{{"attributes", attributes},
                         {"indices", accessor(order.data(), order.size() * 2, 5123, order.size(), "SCALAR")}}})}});
        J list = J::array();
        for (int b = 0; b < bones; ++b)
            list.push_back(firstBone + b);
        json["skins"] = J::array({{{"joints", list}, {"inverseBindMatrices", floats(toJoint, "MAT4", 16)}}});
    }

    void add_plate() {
        const int n = 5;
        std::vector<float> positions, normals;
        std::vector<std::uint16_t> order;
        for (int y = 0; y < n; ++y)
            for (int x = 0; x < n; ++x) {
                positions.insert(positions.end(), {0.25f * static_cast<float>(x), 0, 0.25f * static_cast<float>(y)});
                normals.insert(normals.end(), {0, 1, 0});
            }
        for (int y = 0; y + 1 < n; ++y)
            for (int x = 0; x + 1 < n; ++x)
                for (const int i :
                     {y * n + x, (y + 1) * n + x, (y + 1) * n + x + 1, y * n + x, (y + 1) * n + x + 1, y * n + x + 1})
                    order.push_back(static_cast<std::uint16_t>(i));
        J targets = J::array();
        for (int s = 0; s < shapes; ++s) {
            std::vector<float> moved(positions.size()), turned(positions.size());
            for (std::size_t i = 0; i < moved.size(); ++i) {
                moved[i] = uniform(-0.4f, 0.4f);
                turned[i] = uniform(-0.5f, 0.5f);
            }
            targets.push_back({{"POSITION", floats(moved, "VEC3", 3)}, {"NORMAL", floats(turned, "VEC3", 3)}});
        }
        json["meshes"].push_back(
            {{"name", "plate"},
             {"weights", {0.25, 0, 0.5}},
             {"primitives",
              J::array({{{"attributes",
                          {{"POSITION", floats(positions, "VEC3", 3)}, {"NORMAL", floats(normals, "VEC3", 3)}}},
                         {"targets", targets},
                         {"indices", accessor(order.data(), order.size() * 2, 5123, order.size(), "SCALAR")}}})}});
    }

    /// A sampler of random keys; low and high of each value, or quaternions.
    int sampler(J& samplers, const char* way, int components, int values, float low, float high, bool turns) {
        const int keys = 3 + static_cast<int>(uniform(0, 5));
        const bool cubic = std::string(way) == "CUBICSPLINE";
        std::vector<float> times, out;
        float t = uniform(0, 0.4f);
        for (int k = 0; k < keys; ++k) {
            times.push_back(t);
            t += uniform(0.05f, 1);
            for (int part = cubic ? 0 : 1; part < (cubic ? 3 : 2); ++part)
                for (int v = 0; v < values; ++v) {
                    const std::vector<float> q = turn();
                    for (int c = 0; c < components; ++c)
                        out.push_back(part != 1 ? uniform(-0.5f, 0.5f)
                                      : turns   ? q[static_cast<std::size_t>(c)]
                                                : uniform(low, high));
                }
        }
        const char* type = components == 1 ? "SCALAR" : components == 3 ? "VEC3" : "VEC4";
        samplers.push_back(
            {{"input", floats(times, "SCALAR", 1)}, {"output", floats(out, type, components)}, {"interpolation", way}});
        return static_cast<int>(samplers.size()) - 1;
    }

    void add_clip(const std::string& name) {
        J samplers = J::array(), channels = J::array();
        const auto node = [&](int n, const char* path, const char* way, float low, float high) {
            const bool turns = std::string(path) == "rotation", weights = std::string(path) == "weights";
            const int s = sampler(samplers, way, turns ? 4 : weights ? 1 : 3, weights ? shapes : 1, low, high, turns);
            channels.push_back({{"sampler", s}, {"target", {{"node", n}, {"path", path}}}});
        };
        const auto pointer = [&](const std::string& where, const char* way, int components, float low, float high) {
            const int s = sampler(samplers, way, components, 1, low, high, components == 4);
            channels.push_back(
                {{"sampler", s},
                 {"target", {{"path", "pointer"}, {"extensions", {{"KHR_animation_pointer", {{"pointer", where}}}}}}}});
        };
        static const char* ways[] = {"LINEAR", "STEP", "CUBICSPLINE"};
        const auto way = [&] { return ways[static_cast<int>(uniform(0, 2.99f))]; };
        for (int b = 0; b < bones; ++b)
            node(firstBone + b, "rotation", name == "all" ? ways[b % 3] : way(), -1, 1);
        if (name != "bones") {
            node(rootNode, "translation", "CUBICSPLINE", -1, 1);
            node(rootNode, "rotation", way(), -1, 1);
            node(rootNode, "scale", "LINEAR", 0.5f, 1.5f);
            node(plateNode, "weights", way(), -0.5f, 1);
            node(plateNode, "translation", "STEP", -2, 2);
            node(lampNode, "translation", "LINEAR", -2, 2);
            node(lampNode, "rotation", "LINEAR", -1, 1);
            node(cameraNode, "translation", "LINEAR", -3, 3);
            pointer("/extensions/KHR_lights_punctual/lights/0/intensity", "LINEAR", 1, 10, 90);
            pointer("/extensions/KHR_lights_punctual/lights/0/color", way(), 3, 0.1f, 1);
            pointer("/extensions/KHR_lights_punctual/lights/0/range", "STEP", 1, 2, 9);
            pointer("/extensions/KHR_lights_punctual/lights/0/spot/outerConeAngle", "LINEAR", 1, 0.3f, 1);
            pointer("/nodes/" + std::to_string(plateNode) + "/rotation", "LINEAR", 4, -1, 1);
        }
        json["animations"].push_back({{"name", name}, {"samplers", samplers}, {"channels", channels}});
    }
    std::mt19937 random_;
};

} // namespace mirolux
