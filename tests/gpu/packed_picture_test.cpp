#include "core/io/file.h"
#include "core/motion/scene_at.h"
#include "session_fixture.h"
#include <QTemporaryDir>
#include <cstring>
#include <draco/compression/encode.h>
#include <draco/mesh/triangle_soup_mesh_builder.h>
#include <meshoptimizer.h>
#include <nlohmann/json.hpp>
#include <set>

using namespace mirolux;
using namespace mirolux::test;

namespace mirolux::test_packed_picture {

using nlohmann::json;

/// A .glb taken apart, to be packed by the codecs' own encoders and put together again.
class Parts {
public:
    explicit Parts(const std::filesystem::path& file) {
        const auto bytes = read_file(file);
        if (!bytes) qFatal("%s", to_text(bytes.error()).c_str());
        std::uint32_t length = 0, rest = 0;
        std::memcpy(&length, bytes->data() + 12, 4);
        j = json::parse(bytes->data() + 20, bytes->data() + 20 + length);
        std::memcpy(&rest, bytes->data() + 20 + length, 4);
        bin.assign(bytes->data() + 28 + length, bytes->data() + 28 + length + rest);
    }
    int view(const void* data, std::size_t size) {
        while (bin.size() % 4)
            bin.push_back(0);
        j["bufferViews"].push_back({{"buffer", 0}, {"byteOffset", bin.size()}, {"byteLength", size}});
        bin.insert(bin.end(), static_cast<const std::uint8_t*>(data), static_cast<const std::uint8_t*>(data) + size);
        return static_cast<int>(j["bufferViews"].size()) - 1;
    }
    const std::uint8_t* data(const json& accessor) const {
        const json& v = j["bufferViews"][accessor["bufferView"].get<std::size_t>()];
        return bin.data() + v.value("byteOffset", 0) + accessor.value("byteOffset", 0);
    }
    std::vector<float> floats(int accessor) const {
        const json& a = j["accessors"][static_cast<std::size_t>(accessor)];
        const std::size_t n = a["count"].get<std::size_t>() * (a["type"] == "VEC3" ? 3 : a["type"] == "VEC2" ? 2 : 4);
        std::vector<float> out(n);
        std::memcpy(out.data(), data(a), n * 4);
        return out;
    }
    std::vector<std::uint32_t> indices(int accessor) const {
        const json& a = j["accessors"][static_cast<std::size_t>(accessor)];
        std::vector<std::uint32_t> out(a["count"].get<std::size_t>());
        for (std::size_t i = 0; i < out.size(); ++i)
            out[i] = a["componentType"] == 5125 ? reinterpret_cast<const std::uint32_t*>(data(a))[i]
                                                : reinterpret_cast<const std::uint16_t*>(data(a))[i];
        return out;
    }
    void needs(const char* extension) {
        j["extensionsUsed"].push_back(extension);
        j["extensionsRequired"].push_back(extension);
    }
    /// Primitives that nothing bends.
    std::vector<json*> rigid() {
        std::set<std::size_t> skinned;
        for (const json& n : j["nodes"])
            if (n.contains("skin")) skinned.insert(n["mesh"].get<std::size_t>());
        std::vector<json*> out;
        for (std::size_t m = 0; m < j["meshes"].size(); ++m)
            for (json& p : j["meshes"][m]["primitives"])
                if (!skinned.count(m) && !p.contains("targets") && p["attributes"].contains("TEXCOORD_0"))
                    out.push_back(&p);
        return out;
    }
    std::string written(const QTemporaryDir& dir, const char* name) {
        while (bin.size() % 4)
            bin.push_back(0);
        j["buffers"][0]["byteLength"] = bin.size();
        std::string text = j.dump();
        while (text.size() % 4)
            text += ' ';
        std::string out = "glTF";
        const auto number = [&](std::size_t v) {
            const auto n = static_cast<std::uint32_t>(v);
            out.append(reinterpret_cast<const char*>(&n), 4);
        };
        number(2);
        number(28 + text.size() + bin.size());
        number(text.size());
        out += "JSON" + text;
        number(bin.size());
        out.append("BIN\0", 4);
        out.append(reinterpret_cast<const char*>(bin.data()), bin.size());
        const auto path = dir.filePath(name).toStdString();
        if (!write_file_atomically(path, out)) qFatal("%s could not be written", name);
        return path;
    }
    json j;
    std::vector<std::uint8_t> bin;
};

/// Mean difference over the mean, and the share of values that are more than 5 % apart.
struct Apart {
    double mean = 0, share = 0;
};
Apart apart(const FloatImage& a, const FloatImage& b) {
    double off = 0, sum = 0;
    std::size_t odd = 0;
    for (std::size_t i = 0; i < a.data.size(); ++i) {
        const double d = std::abs(double(a.data[i]) - b.data[i]), v = std::abs(double(a.data[i]));
        off += d;
        sum += v;
        odd += d > 0.05 * std::max(0.05, v);
    }
    return {off / sum, double(odd) / double(a.data.size())};
}

} // namespace mirolux::test_packed_picture
using namespace mirolux::test_packed_picture;

/// The demo, packed by the codecs' own encoders, gives the plain one's picture within what they leave out.
class packed_picture_test : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    const std::string demo_ = std::filesystem::path(MIROLUX_DEMO).parent_path() / "kestrel-quay.glb";
    FloatImage plain_;

    FloatImage picture(const std::string& file) {
        const auto asset = import_gltf(file);
        if (!asset) qFatal("%s", to_text(asset.error()).c_str());
        View view = demo().view;
        view.width = 320;
        view.height = 180;
        view.seconds = 2;
        Scene scene{*asset, (*asset)->lights, {}, demo().scene.sky};
        return hdr(scene, setup_with({{"path.kind", "deferred"}}), view);
    }
    void held(const char* what, const std::string& file, double mean, double share) {
        const Apart d = apart(plain_, picture(file));
        qInfo("%s: mean difference %.2g of the mean, %.3f %% of values over 5 %%", what, d.mean, 100 * d.share);
        QVERIFY2(d.mean <= mean && d.share <= share, what);
    }

private slots:
    void initTestCase() { plain_ = picture(demo_); }

    /// Vertices and triangles by meshoptimizer, without loss: the same picture, but for triangles in another order.
    void meshoptimizer_leaves_nothing_out() {
        Parts p(demo_);
        std::set<int> done;
        const auto pack = [&](int accessor, const char* mode) {
            if (!done.insert(accessor).second) return;
            json& a = p.j["accessors"][static_cast<std::size_t>(accessor)];
            const auto count = a["count"].get<std::size_t>();
            std::vector<std::uint8_t> out;
            std::size_t stride = 4;
            if (mode == std::string("TRIANGLES")) {
                const auto order = p.indices(accessor);
                out.resize(meshopt_encodeIndexBufferBound(count, 1 << 20));
                out.resize(meshopt_encodeIndexBuffer(out.data(), out.size(), order.data(), count));
                a["componentType"] = 5125;
            } else {
                const std::vector<float> values = p.floats(accessor);
                stride = values.size() * 4 / count;
                out.resize(meshopt_encodeVertexBufferBound(count, stride));
                out.resize(meshopt_encodeVertexBuffer(out.data(), out.size(), values.data(), count, stride));
            }
            const int packed = p.view(out.data(), out.size());
            json view = p.j["bufferViews"][static_cast<std::size_t>(packed)];
            view.update({{"count", count}, {"byteStride", stride}, {"mode", mode}});
            json& fallback = p.j["bufferViews"][static_cast<std::size_t>(packed)];
            fallback = {{"buffer", 1},
                        {"byteOffset", spare_},
                        {"byteLength", count * stride},
                        {"extensions", {{"EXT_meshopt_compression", view}}}};
            spare_ += (count * stride + 3) / 4 * 4;
            a["bufferView"] = packed;
        };
        for (json* primitive : p.rigid()) {
            for (const char* name : {"POSITION", "NORMAL", "TEXCOORD_0"})
                pack((*primitive)["attributes"][name].get<int>(), "ATTRIBUTES");
            pack((*primitive)["indices"].get<int>(), "TRIANGLES");
        }
        p.j["buffers"].push_back(
            {{"byteLength", spare_}, {"extensions", {{"EXT_meshopt_compression", {{"fallback", true}}}}}});
        p.needs("EXT_meshopt_compression");
        held("meshoptimizer", p.written(dir_, "meshopt.glb"), 1e-5, 1e-4);
    }

    /// Positions in 16 bits, normals in 8, texture coordinates in 16 with the material's transform.
    void quantised_values_are_within_their_steps() {
        Parts p(demo_);
        std::map<std::size_t, std::pair<glm::vec3, float>> placed; // by mesh: what brings its positions back
        std::map<int, std::pair<glm::vec2, glm::vec2>> ranges;     // of texture coordinates, by material
        const auto rigid = p.rigid();
        const std::set<json*> these(rigid.begin(), rigid.end());
        std::map<int, bool> whole; // by material: all of its primitives are rigid
        for (json& mesh : p.j["meshes"])
            for (json& one : mesh["primitives"])
                whole.try_emplace(one.value("material", -1), true).first->second &= these.count(&one) > 0;
        for (json* one : rigid) {
            const std::vector<float> uv = p.floats((*one)["attributes"]["TEXCOORD_0"].get<int>());
            auto& [low, high] =
                ranges.try_emplace((*one).value("material", -1), glm::vec2(1e9f), glm::vec2(-1e9f)).first->second;
            for (std::size_t i = 0; i < uv.size(); i += 2) {
                low = glm::min(low, glm::vec2(uv[i], uv[i + 1]));
                high = glm::max(high, glm::vec2(uv[i], uv[i + 1]));
            }
        }
        const auto add = [&](const void* data, std::size_t bytes, int type, std::size_t count, const char* kind,
                             int stride) {
            const int view = p.view(data, bytes);
            p.j["bufferViews"][static_cast<std::size_t>(view)]["byteStride"] = stride;
            p.j["accessors"].push_back({{"bufferView", view},
                                        {"componentType", type},
                                        {"normalized", true},
                                        {"count", count},
                                        {"type", kind}});
            return static_cast<int>(p.j["accessors"].size()) - 1;
        };
        std::size_t number = 0;
        for (json& mesh : p.j["meshes"]) {
            const std::size_t index = number++;
            if (!std::all_of(mesh["primitives"].begin(), mesh["primitives"].end(),
                             [&](json& one) { return these.count(&one); }))
                continue;
            glm::vec3 low(1e9f), high(-1e9f);
            for (json& one : mesh["primitives"]) {
                const std::vector<float> at = p.floats(one["attributes"]["POSITION"].get<int>());
                for (std::size_t i = 0; i < at.size(); i += 3) {
                    low = glm::min(low, glm::vec3(at[i], at[i + 1], at[i + 2]));
                    high = glm::max(high, glm::vec3(at[i], at[i + 1], at[i + 2]));
                }
            }
            const glm::vec3 size = high - low;
            const float side = std::max({size.x, size.y, size.z});
            placed[index] = {low, side};
            for (json& one : mesh["primitives"]) {
                json& attributes = one["attributes"];
                const std::vector<float> at = p.floats(attributes["POSITION"].get<int>()),
                                         normal = p.floats(attributes["NORMAL"].get<int>()),
                                         uv = p.floats(attributes["TEXCOORD_0"].get<int>());
                const std::size_t n = at.size() / 3;
                std::vector<std::uint16_t> q(4 * n, 0), t(2 * n);
                std::vector<std::int8_t> m(4 * n, 0);
                const int material = one.value("material", -1);
                const auto& [from, to] = ranges[material];
                for (std::size_t i = 0; i < n; ++i) {
                    for (std::size_t k = 0; k < 3; ++k) {
                        q[4 * i + k] =
                            static_cast<std::uint16_t>(meshopt_quantizeUnorm((at[3 * i + k] - low[int(k)]) / side, 16));
                        m[4 * i + k] = static_cast<std::int8_t>(meshopt_quantizeSnorm(normal[3 * i + k], 8));
                    }
                    for (std::size_t k = 0; k < 2; ++k)
                        t[2 * i + k] = static_cast<std::uint16_t>(meshopt_quantizeUnorm(
                            (uv[2 * i + k] - from[int(k)]) / std::max(1e-6f, to[int(k)] - from[int(k)]), 16));
                }
                attributes["POSITION"] = add(q.data(), q.size() * 2, 5123, n, "VEC3", 8);
                attributes["NORMAL"] = add(m.data(), m.size(), 5120, n, "VEC3", 4);
                if (whole[material] && material >= 0)
                    attributes["TEXCOORD_0"] = add(t.data(), t.size() * 2, 5123, n, "VEC2", 4);
            }
        }
        for (const auto& [material, range] : ranges) {
            if (material < 0 || !whole[material]) continue;
            const json transform = {
                {"offset", {range.first.x, range.first.y}},
                {"scale",
                 {std::max(1e-6f, range.second.x - range.first.x), std::max(1e-6f, range.second.y - range.first.y)}}};
            json& m = p.j["materials"][static_cast<std::size_t>(material)];
            const auto give = [&](json& owner, const char* key) {
                if (owner.contains(key)) owner[key]["extensions"]["KHR_texture_transform"] = transform;
            };
            if (m.contains("pbrMetallicRoughness"))
                for (const char* key : {"baseColorTexture", "metallicRoughnessTexture"})
                    give(m["pbrMetallicRoughness"], key);
            for (const char* key : {"normalTexture", "occlusionTexture", "emissiveTexture"})
                give(m, key);
        }
        // What shows a mesh gets a child that brings its positions back.
        const std::size_t nodes = p.j["nodes"].size();
        for (std::size_t n = 0; n < nodes; ++n) {
            if (!p.j["nodes"][n].contains("mesh")) continue;
            const auto mesh = p.j["nodes"][n]["mesh"].get<std::size_t>();
            const auto back = placed.find(mesh);
            if (back == placed.end()) continue;
            const auto& [low, side] = back->second;
            p.j["nodes"].push_back(
                {{"mesh", mesh}, {"translation", {low.x, low.y, low.z}}, {"scale", {side, side, side}}});
            p.j["nodes"][n]["children"].push_back(p.j["nodes"].size() - 1);
            p.j["nodes"][n].erase("mesh");
        }
        p.needs("KHR_mesh_quantization");
        p.needs("KHR_texture_transform");
        QVERIFY(placed.size() > 30);
        held("quantised", p.written(dir_, "quantised.glb"), 0.002, 0.005);
    }

    /// Draco with 16 bits of position, 12 of normals and of texture coordinates.
    void draco_is_within_its_steps() {
        Parts p(demo_);
        std::size_t packedMeshes = 0;
        for (json* one : p.rigid()) {
            json& attributes = (*one)["attributes"];
            const std::vector<float> at = p.floats(attributes["POSITION"].get<int>()),
                                     normal = p.floats(attributes["NORMAL"].get<int>()),
                                     uv = p.floats(attributes["TEXCOORD_0"].get<int>());
            const std::vector<std::uint32_t> order = p.indices((*one)["indices"].get<int>());
            draco::TriangleSoupMeshBuilder builder;
            builder.Start(static_cast<int>(order.size() / 3));
            const int a = builder.AddAttribute(draco::GeometryAttribute::POSITION, 3, draco::DT_FLOAT32),
                      b = builder.AddAttribute(draco::GeometryAttribute::NORMAL, 3, draco::DT_FLOAT32),
                      c = builder.AddAttribute(draco::GeometryAttribute::TEX_COORD, 2, draco::DT_FLOAT32);
            for (std::size_t t = 0; t < order.size() / 3; ++t) {
                const std::uint32_t* i = &order[3 * t];
                const draco::FaceIndex f(static_cast<std::uint32_t>(t));
                builder.SetAttributeValuesForFace(a, f, &at[3 * i[0]], &at[3 * i[1]], &at[3 * i[2]]);
                builder.SetAttributeValuesForFace(b, f, &normal[3 * i[0]], &normal[3 * i[1]], &normal[3 * i[2]]);
                builder.SetAttributeValuesForFace(c, f, &uv[2 * i[0]], &uv[2 * i[1]], &uv[2 * i[2]]);
            }
            const std::unique_ptr<draco::Mesh> mesh = builder.Finalize();
            QVERIFY(mesh);
            draco::Encoder encoder;
            encoder.SetTrackEncodedProperties(true);
            encoder.SetAttributeQuantization(draco::GeometryAttribute::POSITION, 16);
            encoder.SetAttributeQuantization(draco::GeometryAttribute::NORMAL, 12);
            encoder.SetAttributeQuantization(draco::GeometryAttribute::TEX_COORD, 16);
            draco::EncoderBuffer packed;
            if (!encoder.EncodeMeshToBuffer(*mesh, &packed).ok()) continue;
            const auto points = static_cast<std::size_t>(encoder.num_encoded_points());
            (*one)["extensions"]["KHR_draco_mesh_compression"] = {{"bufferView", p.view(packed.data(), packed.size())},
                                                                  {"attributes",
                                                                   {{"POSITION", mesh->attribute(a)->unique_id()},
                                                                    {"NORMAL", mesh->attribute(b)->unique_id()},
                                                                    {"TEXCOORD_0", mesh->attribute(c)->unique_id()}}}};
            // Accessors of its own, as another primitive may share the old ones.
            const auto own = [&](int old, std::size_t count) {
                json copy = p.j["accessors"][static_cast<std::size_t>(old)];
                copy.erase("bufferView");
                copy["count"] = count;
                p.j["accessors"].push_back(copy);
                return p.j["accessors"].size() - 1;
            };
            for (const char* name : {"POSITION", "NORMAL", "TEXCOORD_0"})
                attributes[name] = own(attributes[name].get<int>(), points);
            (*one)["indices"] = own((*one)["indices"].get<int>(), 3 * std::size_t(encoder.num_encoded_faces()));
            ++packedMeshes;
        }
        QVERIFY(packedMeshes > 30);
        p.needs("KHR_draco_mesh_compression");
        held("draco", p.written(dir_, "draco.glb"), 0.002, 0.005);
    }

private:
    std::size_t spare_ = 0; // bytes of the buffer that meshoptimizer's views stand for
};

MIROLUX_TEST(packed_picture_test)
#include "packed_picture_test.moc"
