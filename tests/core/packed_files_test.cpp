#include "core/image/image_io.h"
#include "core/io/file.h"
#include "core/motion/scene_at.h"
#include "core/scene/project.h"
#include "support/rigs.h"
#include "support/test_main.h"
#include <QtTest>
#include <draco/compression/encode.h>
#include <draco/mesh/triangle_soup_mesh_builder.h>
#include <meshoptimizer.h>
#include <webp/encode.h>

using namespace mirolux;

namespace packed_files {

using J = nlohmann::json;

/// A ball of rings, as plain arrays.
struct Ball {
    std::vector<float> positions, normals, uvs;
    std::vector<std::uint32_t> order;
    Ball() {
        const int rings = 24, around = 36;
        for (int r = 0; r <= rings; ++r)
            for (int a = 0; a <= around; ++a) {
                const float u = float(a) / around, v = float(r) / rings, phi = 6.2831853f * u, theta = 3.1415927f * v;
                const glm::vec3 n(std::sin(theta) * std::cos(phi), std::cos(theta), std::sin(theta) * std::sin(phi));
                for (int c = 0; c < 3; ++c) {
                    normals.push_back(n[c]);
                    positions.push_back(1.5f * n[c] + 0.25f);
                }
                uvs.insert(uvs.end(), {u, v});
            }
        for (int r = 0; r < rings; ++r)
            for (int a = 0; a < around; ++a) {
                const auto at = [&](int i, int k) { return static_cast<std::uint32_t>(i * (around + 1) + k); };
                for (const auto i :
                     {at(r, a), at(r, a + 1), at(r + 1, a + 1), at(r, a), at(r + 1, a + 1), at(r + 1, a)})
                    order.push_back(i);
            }
    }
    std::size_t count() const { return positions.size() / 3; }
};

/// A file that shows the ball once; how it is packed is put in by each test.
class BallFile : public GltfText {
public:
    Ball ball;
    BallFile() {
        json["scenes"] = J::array({{{"nodes", {0}}}});
        json["nodes"] = J::array({{{"name", "ball"}, {"mesh", 0}}});
        json["materials"] = J::array({{{"name", "paint"}}});
        const J primitive = {
            {"attributes",
             {{"POSITION", floats(ball.positions, "VEC3", 3)},
              {"NORMAL", floats(ball.normals, "VEC3", 3)},
              {"TEXCOORD_0", floats(ball.uvs, "VEC2", 2)}}},
            {"indices", accessor(ball.order.data(), ball.order.size() * 4, 5125, ball.order.size(), "SCALAR")},
            {"material", 0}};
        json["meshes"] = J::array({{{"primitives", J::array({primitive})}}});
    }
    J& primitive() { return json["meshes"][0]["primitives"][0]; }
    /// A buffer view of bytes, without an accessor.
    int bytes(const void* data, std::size_t size) {
        (void)accessor(data, size, 5121, size, "SCALAR");
        json["accessors"].erase(json["accessors"].size() - 1);
        return static_cast<int>(json["bufferViews"].size()) - 1;
    }
    /// Takes an accessor's view out and puts one in that meshoptimizer packs.
    void pack(int accessor, const std::vector<std::uint8_t>& packed, std::size_t count, std::size_t stride,
              const char* mode, const char* filter = "NONE") {
        const int at = bytes(packed.data(), packed.size());
        J view = json["bufferViews"][at];
        view["count"] = count;
        view["byteStride"] = stride;
        view["mode"] = mode;
        view["filter"] = filter;
        json["bufferViews"][at] = {
            {"buffer", 0}, {"byteLength", count * stride}, {"extensions", {{"EXT_meshopt_compression", view}}}};
        if (std::string(mode) == "ATTRIBUTES") json["bufferViews"][at]["byteStride"] = stride;
        json["accessors"][accessor]["bufferView"] = at;
        json["extensionsUsed"] = json["extensionsRequired"] = {"EXT_meshopt_compression"};
    }
};

std::shared_ptr<const SceneAsset> opened(const GltfText& file) {
    auto asset = file.import();
    if (!asset) qFatal("%s", to_text(asset.error()).c_str());
    return *asset;
}

std::vector<std::uint8_t> packed_vertices(const void* data, std::size_t count, std::size_t stride) {
    std::vector<std::uint8_t> out(meshopt_encodeVertexBufferBound(count, stride));
    out.resize(meshopt_encodeVertexBuffer(out.data(), out.size(), data, count, stride));
    return out;
}

/// Corners of all triangles in order: what is drawn, however its vertices are numbered.
std::vector<Vertex> corners(const SceneAsset& a) {
    std::vector<Vertex> out;
    for (const std::uint32_t i : a.primitives[0].indices)
        out.push_back(a.primitives[0].vertices[i]);
    return out;
}

/// The two as sets of triangles: each of one has one of the other within so far.
double apart(const SceneAsset& a, const SceneAsset& b) {
    const auto middles = [](const SceneAsset& s) {
        std::vector<glm::vec3> out;
        const auto c = corners(s);
        for (std::size_t t = 0; t + 2 < c.size(); t += 3) {
            // Those of no area, at the poles, are left out by Draco.
            const glm::vec3 n = glm::cross(c[t + 1].position - c[t].position, c[t + 2].position - c[t].position);
            if (!(glm::length(n) > 1e-4f)) continue;
            out.push_back((c[t].position + c[t + 1].position + c[t + 2].position) / 3.0f);
        }
        return out;
    };
    const auto x = middles(a), y = middles(b);
    double worst = 0;
    for (const glm::vec3& p : x) {
        double nearest = 1e9;
        for (const glm::vec3& q : y)
            nearest = std::min(nearest, double(glm::length(p - q)));
        worst = std::max(worst, nearest);
    }
    return worst;
}

} // namespace packed_files

using namespace packed_files;

class packed_files_test : public QObject {
    Q_OBJECT
private slots:
    void vertices_and_indices_that_meshoptimizer_packs_come_back_to_the_bit() {
        const auto plain = opened(BallFile());
        BallFile file;
        const Ball& b = file.ball;
        file.pack(0, packed_vertices(b.positions.data(), b.count(), 12), b.count(), 12, "ATTRIBUTES");
        file.pack(1, packed_vertices(b.normals.data(), b.count(), 12), b.count(), 12, "ATTRIBUTES");
        file.pack(2, packed_vertices(b.uvs.data(), b.count(), 8), b.count(), 8, "ATTRIBUTES");
        std::vector<std::uint8_t> packed(meshopt_encodeIndexSequenceBound(b.order.size(), b.count()));
        packed.resize(meshopt_encodeIndexSequence(packed.data(), packed.size(), b.order.data(), b.order.size()));
        file.pack(3, packed, b.order.size(), 4, "INDICES");
        const auto asset = opened(file);
        QVERIFY(asset->warnings.empty());
        const auto x = corners(*plain), y = corners(*asset);
        QCOMPARE(x.size(), y.size());
        QVERIFY(std::memcmp(x.data(), y.data(), x.size() * sizeof(Vertex)) == 0);
        // Triangles may be turned and given in another order.
        BallFile other;
        packed.resize(meshopt_encodeIndexBufferBound(b.order.size(), b.count()));
        packed.resize(meshopt_encodeIndexBuffer(packed.data(), packed.size(), b.order.data(), b.order.size()));
        other.pack(3, packed, b.order.size(), 4, "TRIANGLES");
        const auto turned = opened(other);
        QVERIFY(apart(*plain, *turned) < 1e-6 && apart(*turned, *plain) < 1e-6);
        for (std::size_t t = 0; t + 2 < x.size(); t += 3) { // and stay wound as they were
            const auto c = corners(*turned);
            const glm::vec3 n = glm::cross(c[t + 1].position - c[t].position, c[t + 2].position - c[t].position);
            QVERIFY(glm::dot(n, c[t].position + c[t + 1].position + c[t + 2].position - 0.75f) > -1e-6f);
            if (t > 300) break;
        }
    }

    void quantised_and_filtered_values_are_within_their_steps() {
        const auto plain = opened(BallFile());
        BallFile file;
        const Ball& b = file.ball;
        // Positions in 16 bits of a box, normals in octahedra of 8 bits, as KHR_mesh_quantization allows.
        struct Place {
            std::int16_t x, y, z, pad;
        };
        std::vector<Place> places;
        for (std::size_t v = 0; v < b.count(); ++v) {
            const auto q = [&](std::size_t c) {
                return static_cast<std::int16_t>(std::lround((b.positions[3 * v + c] - 0.25f) / 1.5f * 32767));
            };
            places.push_back({q(0), q(1), q(2), 0});
        }
        std::vector<float> four;
        for (std::size_t v = 0; v < b.count(); ++v)
            four.insert(four.end(), {b.normals[3 * v], b.normals[3 * v + 1], b.normals[3 * v + 2], 0});
        std::vector<std::uint8_t> folded(4 * b.count());
        meshopt_encodeFilterOct(folded.data(), b.count(), 4, 8, four.data());
        file.pack(0, packed_vertices(places.data(), b.count(), 8), b.count(), 8, "ATTRIBUTES");
        file.pack(1, packed_vertices(folded.data(), b.count(), 4), b.count(), 4, "ATTRIBUTES", "OCTAHEDRAL");
        for (const int a : {0, 1}) {
            file.json["accessors"][a]["componentType"] = a == 0 ? 5122 : 5120;
            file.json["accessors"][a]["normalized"] = true;
        }
        file.json["nodes"][0]["scale"] = {1.5, 1.5, 1.5};
        file.json["nodes"][0]["translation"] = {0.25, 0.25, 0.25};
        file.json["extensionsUsed"].push_back("KHR_mesh_quantization");
        const auto asset = opened(file);
        QVERIFY(asset->warnings.empty());
        const auto x = corners(*plain), y = corners(*asset);
        QCOMPARE(x.size(), y.size());
        for (std::size_t i = 0; i < x.size(); ++i) {
            const glm::vec3 world(asset->objects[0].transform * glm::vec4(y[i].position, 1));
            QVERIFY(glm::length(world - x[i].position) < 2 * 1.5f / 32767);
            QVERIFY(glm::dot(x[i].normal, y[i].normal) > 0.9995f); // 8 bits: within 1.8 degrees
            QCOMPARE(x[i].uv, y[i].uv);
        }
        // Turns and numbers with one exponent, which clips have.
        BallFile turns;
        std::vector<float> quaternions = {0, 0, 0, 1, 0.6f, 0, 0, 0.8f, -0.28f, 0.5f, 0.1f, 0.81f};
        for (int k = 0; k < 3; ++k) {
            float l = 0;
            for (int c = 0; c < 4; ++c)
                l += quaternions[std::size_t(4 * k + c)] * quaternions[std::size_t(4 * k + c)];
            for (int c = 0; c < 4; ++c)
                quaternions[std::size_t(4 * k + c)] /= std::sqrt(l);
        }
        const std::vector<float> moves = {0, 1.25f, -3, 0.01f, 7, 0.5f, 100, 0, -0.125f};
        const int times = turns.floats({0, 1, 2}, "SCALAR", 1), out = turns.floats(quaternions, "VEC4", 4),
                  shifted = turns.floats(moves, "VEC3", 3);
        turns.json["animations"] = J::array(
            {{{"samplers", J::array({{{"input", times}, {"output", out}}, {{"input", times}, {"output", shifted}}})},
              {"channels", J::array({{{"sampler", 0}, {"target", {{"node", 0}, {"path", "rotation"}}}},
                                     {{"sampler", 1}, {"target", {{"node", 0}, {"path", "translation"}}}}})}}});
        std::vector<std::uint8_t> q(3 * 8), e(3 * 12);
        meshopt_encodeFilterQuat(q.data(), 3, 8, 16, quaternions.data());
        meshopt_encodeFilterExp(e.data(), 3, 12, 15, moves.data());
        turns.pack(out, packed_vertices(q.data(), 3, 8), 3, 8, "ATTRIBUTES", "QUATERNION");
        turns.json["accessors"][out]["componentType"] = 5122;
        turns.json["accessors"][out]["normalized"] = true;
        turns.pack(shifted, packed_vertices(e.data(), 3, 12), 3, 12, "ATTRIBUTES", "EXPONENTIAL");
        const auto moving = opened(turns);
        QCOMPARE(moving->rig->clips.size(), std::size_t(1));
        for (int k = 0; k < 3; ++k) {
            double turn[4], place[3];
            value_at(moving->rig->clips[0].channels[0].track, k, true, turn);
            value_at(moving->rig->clips[0].channels[1].track, k, false, place);
            double dot = 0;
            for (int c = 0; c < 4; ++c)
                dot += turn[c] * double(quaternions[std::size_t(4 * k + c)]);
            QVERIFY(std::abs(std::abs(dot) - 1) < 1e-6);
            for (int c = 0; c < 3; ++c)
                QVERIFY(std::abs(place[c] - double(moves[std::size_t(3 * k + c)])) < 1e-2);
        }
    }

    void meshes_that_draco_packs_are_within_its_steps() {
        const auto plain = opened(BallFile());
        BallFile file;
        const Ball& b = file.ball;
        draco::TriangleSoupMeshBuilder builder;
        builder.Start(static_cast<int>(b.order.size() / 3));
        const int p = builder.AddAttribute(draco::GeometryAttribute::POSITION, 3, draco::DT_FLOAT32),
                  n = builder.AddAttribute(draco::GeometryAttribute::NORMAL, 3, draco::DT_FLOAT32),
                  u = builder.AddAttribute(draco::GeometryAttribute::TEX_COORD, 2, draco::DT_FLOAT32);
        for (std::size_t t = 0; t < b.order.size() / 3; ++t) {
            const std::uint32_t* i = &b.order[3 * t];
            const draco::FaceIndex f(static_cast<std::uint32_t>(t));
            builder.SetAttributeValuesForFace(p, f, &b.positions[3 * i[0]], &b.positions[3 * i[1]],
                                              &b.positions[3 * i[2]]);
            builder.SetAttributeValuesForFace(n, f, &b.normals[3 * i[0]], &b.normals[3 * i[1]], &b.normals[3 * i[2]]);
            builder.SetAttributeValuesForFace(u, f, &b.uvs[2 * i[0]], &b.uvs[2 * i[1]], &b.uvs[2 * i[2]]);
        }
        const std::unique_ptr<draco::Mesh> mesh = builder.Finalize();
        draco::Encoder encoder;
        encoder.SetTrackEncodedProperties(true);
        encoder.SetAttributeQuantization(draco::GeometryAttribute::POSITION, 14);
        encoder.SetAttributeQuantization(draco::GeometryAttribute::NORMAL, 10);
        encoder.SetAttributeQuantization(draco::GeometryAttribute::TEX_COORD, 12);
        draco::EncoderBuffer packed;
        QVERIFY(encoder.EncodeMeshToBuffer(*mesh, &packed).ok());
        const auto points = static_cast<std::size_t>(encoder.num_encoded_points());
        const auto use = [&](BallFile& f, const char* data, std::size_t size) {
            const int view = f.bytes(data, size);
            f.primitive()["extensions"]["KHR_draco_mesh_compression"] = {
                {"bufferView", view},
                {"attributes",
                 {{"POSITION", mesh->attribute(p)->unique_id()},
                  {"NORMAL", mesh->attribute(n)->unique_id()},
                  {"TEXCOORD_0", mesh->attribute(u)->unique_id()}}}};
            for (const int a : {0, 1, 2, 3}) {
                f.json["accessors"][a].erase("bufferView");
                f.json["accessors"][a]["count"] = a == 3 ? 3 * std::size_t(encoder.num_encoded_faces()) : points;
            }
            f.json["extensionsUsed"] = f.json["extensionsRequired"] = {"KHR_draco_mesh_compression"};
        };
        use(file, packed.data(), packed.size());
        const auto asset = opened(file);
        QVERIFY(asset->warnings.empty());
        qInfo("%zu bytes in place of %zu", packed.size(),
              b.positions.size() * 4 * 2 + b.uvs.size() * 4 + b.order.size() * 4);
        QVERIFY(packed.size() < 40000);
        const double step = 3.0 / (1 << 14); // of a box of 3 m
        QVERIFY2(apart(*plain, *asset) < 2 * step, qPrintable(QString::number(apart(*plain, *asset))));
        QVERIFY(apart(*asset, *plain) < 2 * step);
        for (const Vertex& v : asset->primitives[0].vertices) {
            QVERIFY(std::abs(glm::length(v.position - 0.25f) - 1.5f) < 2 * step);
            QVERIFY(glm::dot(v.normal, glm::normalize(v.position - 0.25f)) > 0.9999f);
        }
        // Cut off, damaged, not of the counts that it claims: one message each, with its place.
        const auto message = [](const BallFile& f) {
            const auto a = f.import();
            return a ? QString() : QString::fromStdString(to_text(a.error()));
        };
        BallFile cut;
        use(cut, packed.data(), packed.size() / 2);
        QVERIFY2(message(cut).contains("KHR_draco_mesh_compression"), qPrintable(message(cut)));
        BallFile lying;
        use(lying, packed.data(), packed.size());
        lying.json["accessors"][0]["count"] = 7;
        QVERIFY2(message(lying).contains("is packed"), qPrintable(message(lying)));
        std::mt19937 random(3);
        int refused = 0;
        for (int i = 0; i < 200; ++i) {
            std::vector<char> bytes(packed.data(), packed.data() + packed.size());
            for (int k = 0; k < 4; ++k)
                bytes[random() % bytes.size()] = static_cast<char>(random());
            BallFile odd;
            use(odd, bytes.data(), bytes.size());
            refused += !odd.import().has_value();
        }
        QVERIFY(refused > 20);
    }

    void damaged_packed_views_are_refused() {
        const Ball b;
        const auto packed = packed_vertices(b.positions.data(), b.count(), 12);
        const auto refused = [&](const auto& change, const char* word) {
            BallFile file;
            auto bytes = packed;
            file.pack(0, bytes, b.count(), 12, "ATTRIBUTES");
            change(file.json["bufferViews"].back()["extensions"]["EXT_meshopt_compression"]);
            const auto a = file.import();
            if (a) return false;
            return QString::fromStdString(to_text(a.error())).contains(word);
        };
        QVERIFY(refused([](J& e) { e["byteLength"] = e["byteLength"].get<int>() / 2; }, "meshoptimizer"));
        QVERIFY(refused([](J& e) { e["mode"] = "WAVES"; }, "WAVES"));
        QVERIFY(refused([](J& e) { e["byteStride"] = 13; }, "multiple of 4"));
        QVERIFY(refused([](J& e) { e["filter"] = "OCTAHEDRAL"; }, "filter"));
        QVERIFY(refused([](J& e) { e["byteLength"] = 1u << 30; }, "reaches to byte"));
        QVERIFY(refused([](J& e) { e["buffer"] = 9; }, "out of range"));
        std::mt19937 random(5);
        int told = 0;
        for (int i = 0; i < 300; ++i) {
            BallFile file;
            auto bytes = packed;
            for (int k = 0; k < 3; ++k)
                bytes[random() % bytes.size()] = static_cast<std::uint8_t>(random());
            bytes.resize(bytes.size() - random() % 3);
            file.pack(0, bytes, b.count(), 12, "ATTRIBUTES");
            told += !file.import().has_value(); // a scene or one message, never a crash
        }
        QVERIFY(told > 50);
    }

    void a_picture_in_webp_is_the_picture() {
        ByteImage image{16, 8, {}};
        for (int i = 0; i < 16 * 8; ++i)
            for (const int v : {i, 255 - i, 3 * i % 256, 255})
                image.rgba.push_back(static_cast<std::uint8_t>(v));
        std::uint8_t* encoded = nullptr;
        const std::size_t size = WebPEncodeLosslessRGBA(image.rgba.data(), 16, 8, 64, &encoded);
        QVERIFY(size > 0);
        BallFile file;
        const int view = file.bytes(encoded, size);
        file.json["images"] = J::array({{{"bufferView", view}, {"mimeType", "image/webp"}}});
        file.json["textures"] = J::array({{{"extensions", {{"EXT_texture_webp", {{"source", 0}}}}}}});
        file.json["materials"][0]["pbrMetallicRoughness"]["baseColorTexture"]["index"] = 0;
        file.json["extensionsUsed"] = {"EXT_texture_webp"};
        const auto asset = opened(file);
        QVERIFY(asset->warnings.empty());
        QVERIFY(asset->images[0].rgba == image.rgba);
        QCOMPARE(asset->materials[0].textures[0], 0);
        const std::vector<std::uint8_t> half(encoded, encoded + size / 2);
        WebPFree(encoded);
        QVERIFY(!decode_image(half).has_value());
    }

    void texture_coordinates_are_placed_by_the_material() {
        BallFile file;
        const ByteImage dot{1, 1, {255, 0, 0, 255}};
        const auto png = encode_png(dot);
        const int view = file.bytes(png.data(), png.size());
        file.json["images"] = J::array({{{"bufferView", view}, {"mimeType", "image/png"}}});
        file.json["textures"] = J::array({{{"source", 0}}});
        const J place = {{"offset", {0.25, -0.5}}, {"rotation", 0.7}, {"scale", {2, 3}}};
        auto& m = file.json["materials"][0];
        m["pbrMetallicRoughness"]["baseColorTexture"] = {{"index", 0},
                                                         {"extensions", {{"KHR_texture_transform", place}}}};
        file.json["extensionsUsed"] = {"KHR_texture_transform"};
        const auto plain = opened(BallFile()), asset = opened(file);
        QVERIFY(asset->warnings.empty());
        for (std::size_t v = 0; v < asset->primitives[0].vertices.size(); ++v) {
            // By hand: scaled, turned, moved (of a picture whose rows go down, positive turns are clockwise in it).
            const glm::dvec2 uv(plain->primitives[0].vertices[v].uv), s(2 * uv.x, 3 * uv.y);
            const double c = std::cos(0.7), w = std::sin(0.7);
            const glm::dvec2 wanted(c * s.x - w * s.y + 0.25, w * s.x + c * s.y - 0.5);
            QVERIFY(glm::length(wanted - glm::dvec2(asset->primitives[0].vertices[v].uv)) < 1e-5);
        }
        m["normalTexture"] = {{"index", 0}};
        const auto two = opened(file);
        QCOMPARE(two->warnings.size(), std::size_t(1));
        QVERIFY(QString::fromStdString(two->warnings[0]).contains("share one transform"));
    }

    void a_mesh_placed_many_times_by_one_node() {
        BallFile file;
        file.json["nodes"][0]["translation"] = {10, 0, 0};
        file.json["nodes"][0]["extensions"]["EXT_mesh_gpu_instancing"]["attributes"] = {
            {"TRANSLATION", file.floats({0, 0, 0, 5, 1, 0, 0, 0, -3}, "VEC3", 3)},
            {"ROTATION", file.floats({0, 0, 0, 1, 0, 0.70710678f, 0, 0.70710678f, 0, 0, 0, 1}, "VEC4", 4)},
            {"SCALE", file.floats({1, 1, 1, 2, 2, 2, 0.5f, 1, 1}, "VEC3", 3)}};
        file.json["extensionsUsed"] = {"EXT_mesh_gpu_instancing"};
        const int times = file.floats({0, 1}, "SCALAR", 1), out = file.floats({10, 0, 0, 10, 4, 0}, "VEC3", 3);
        file.json["animations"] = J::array(
            {{{"name", "lift"},
              {"samplers", J::array({{{"input", times}, {"output", out}}})},
              {"channels", J::array({{{"sampler", 0}, {"target", {{"node", 0}, {"path", "translation"}}}}})}}});
        const auto asset = opened(file);
        QVERIFY(asset->warnings.empty());
        QCOMPARE(asset->objects.size(), std::size_t(3));
        QCOMPARE(glm::vec3(asset->objects[1].transform[3]), glm::vec3(15, 1, 0));
        QVERIFY(std::abs(asset->objects[1].transform[0].z + 2) < 1e-5f); // turned by a quarter about y, twice as large
        QVERIFY(asset->objectNames[0].id != asset->objectNames[1].id && asset->objectNames[2].node == 0);
        Scene scene{asset, {}, {}, {}};
        ClipPlay play{"lift"};
        play.loop = false;
        scene.clips = {play};
        const Scene up = scene_at(scene, 1);
        for (std::size_t o = 0; o < 3; ++o)
            QVERIFY(glm::length(glm::vec3(up.objects()[o].transform[3] - asset->objects[o].transform[3]) -
                                glm::vec3(0, 4, 0)) < 1e-5f);
        file.json["nodes"][0]["extensions"]["EXT_mesh_gpu_instancing"]["attributes"]["SCALE"] =
            file.floats({1, 1, 1}, "VEC3", 3);
        const auto odd = file.import();
        QVERIFY(!odd && QString::fromStdString(to_text(odd.error())).contains("places where another"));
    }

    void scenes_and_variants_are_chosen_by_name() {
        BallFile file;
        file.json["materials"].push_back({{"name", "rust"}});
        file.json["nodes"].push_back({{"name", "other ball"}, {"mesh", 0}, {"translation", {3, 0, 0}}});
        file.json["scenes"] = J::array({{{"name", "one"}, {"nodes", {0}}}, {{"name", "both"}, {"nodes", {0, 1}}}});
        file.json["extensionsUsed"] = {"KHR_materials_variants"};
        file.json["extensions"]["KHR_materials_variants"]["variants"] =
            J::array({{{"name", "new"}}, {{"name", "old"}}});
        file.primitive()["extensions"]["KHR_materials_variants"]["mappings"] =
            J::array({{{"material", 1}, {"variants", {1}}}});
        QTemporaryDir dir;
        const auto path = dir.filePath("offers.gltf").toStdString();
        QVERIFY(write_file_atomically(path, file.text()).has_value());
        const auto plain = import_gltf(path);
        QVERIFY(plain.has_value() && (*plain)->warnings.empty());
        QCOMPARE((*plain)->objects.size(), std::size_t(1));
        QVERIFY((*plain)->sceneNames == (std::vector<std::string>{"one", "both"}));
        QVERIFY((*plain)->variantNames == (std::vector<std::string>{"new", "old"}));
        QCOMPARE((*plain)->material_of((*plain)->objects[0]).name, std::string("paint"));
        const auto chosen = import_gltf(path, {.choice = {"both", "old"}});
        QVERIFY(chosen.has_value() && (*chosen)->warnings.empty());
        QCOMPARE((*chosen)->objects.size(), std::size_t(2));
        QCOMPARE((*chosen)->sceneShown, 1);
        QCOMPARE((*chosen)->material_of((*chosen)->objects[0]).name, std::string("rust"));
        QVERIFY((*chosen)->digest != (*plain)->digest && (*chosen)->fileDigest == (*plain)->fileDigest);
        const auto same = import_gltf(path, {.choice = {"", "new"}}); // which maps nothing
        QCOMPARE((*same)->material_of((*same)->objects[0]).name, std::string("paint"));
        const auto lost = import_gltf(path, {.choice = {"three", ""}});
        QCOMPARE((*lost)->objects.size(), std::size_t(1));
        QVERIFY((*lost)->warnings[0].find("three") != std::string::npos);
        // A project keeps the choice.
        auto open = open_project(path, {.choice = {"both", "old"}});
        QVERIFY(open.has_value());
        const auto saved = dir.filePath("kept.mirolux").toStdString();
        QVERIFY(save_project(open->project, *open->asset, saved).has_value());
        const auto again = open_project(saved);
        QVERIFY(again.has_value() && again->project.choice == (SceneChoice{"both", "old"}));
        QCOMPARE(again->asset->objects.size(), std::size_t(2));
        file.primitive()["extensions"]["KHR_materials_variants"]["mappings"][0]["variants"][0] = 7;
        QVERIFY(write_file_atomically(path, file.text()).has_value());
        const auto odd = import_gltf(path, {.choice = {"", "old"}});
        QVERIFY(!odd && to_text(odd.error()).find("variant 7 does not exist") != std::string::npos);
    }
};

MIROLUX_TEST(packed_files_test)
#include "packed_files_test.moc"
