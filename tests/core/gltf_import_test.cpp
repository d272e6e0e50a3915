#include "core/image/image_io.h"
#include "core/io/file.h"
#include "core/rays/ray_scene.h"
#include "core/scene/geometry.h"
#include "core/scene/gltf_import.h"
#include "core/scene/project.h"
#include "support/test_main.h"
#include <QtTest>
#include <random>
#include <tiny_gltf.h>

using namespace mirolux;

namespace {

/// One triangle, node, material, light and camera, as .gltf text with an embedded buffer.
nlohmann::json small_document() {
    const float data[] = {0, 0, 0, 1, 0, 0, 0, 1, 0};
    std::string bytes(reinterpret_cast<const char*>(data), sizeof data);
    const std::uint16_t order[] = {0, 1, 2};
    bytes.append(reinterpret_cast<const char*>(order), sizeof order);
    const QByteArray base64 = QByteArray::fromStdString(bytes).toBase64();
    return {
        {"asset", {{"version", "2.0"}}},
        {"extensionsUsed", {"KHR_lights_punctual"}},
        {"scene", 0},
        {"scenes", nlohmann::json::array({{{"nodes", {0, 1, 2}}}})},
        {"nodes", nlohmann::json::array({{{"mesh", 0}, {"translation", {1, 2, 3}}},
                                         {{"name", "lamp"},
                                          {"translation", {0, 4, 0}},
                                          {"rotation", {-0.70710678, 0, 0, 0.70710678}},
                                          {"extensions", {{"KHR_lights_punctual", {{"light", 0}}}}}},
                                         {{"camera", 0}, {"translation", {0, 1, 5}}}})},
        {"meshes",
         nlohmann::json::array(
             {{{"primitives",
                nlohmann::json::array({{{"attributes", {{"POSITION", 0}}}, {"indices", 1}, {"material", 0}}})}}})},
        {"materials", nlohmann::json::array({{{"pbrMetallicRoughness",
                                               {{"baseColorFactor", {0.5, 0.25, 0.125, 1}}, {"roughnessFactor", 0.5}}},
                                              {"emissiveFactor", {1, 0.5, 0}}}})},
        {"cameras",
         nlohmann::json::array(
             {{{"type", "perspective"}, {"name", "front"}, {"perspective", {{"yfov", 0.8}, {"znear", 0.05}}}}})},
        {"extensions",
         {{"KHR_lights_punctual",
           {{"lights",
             nlohmann::json::array(
                 {{{"type", "spot"}, {"intensity", 50}, {"range", 7}, {"spot", {{"outerConeAngle", 0.5}}}}})}}}}},
        {"buffers", nlohmann::json::array({{{"byteLength", bytes.size()},
                                            {"uri", "data:application/octet-stream;base64," + base64.toStdString()}}})},
        {"bufferViews", nlohmann::json::array({{{"buffer", 0}, {"byteLength", 36}},
                                               {{"buffer", 0}, {"byteOffset", 36}, {"byteLength", 6}}})},
        {"accessors",
         nlohmann::json::array({{{"bufferView", 0}, {"componentType", 5126}, {"count", 3}, {"type", "VEC3"}},
                                {{"bufferView", 1}, {"componentType", 5123}, {"count", 3}, {"type", "SCALAR"}}})}};
}

} // namespace

class gltf_import_test : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;

    Result<std::shared_ptr<const SceneAsset>> import_text(const std::string& text, const char* name = "scene.gltf") {
        const auto path = std::filesystem::path(folder_.path().toStdString()) / name;
        if (auto ok = write_file_atomically(path, text); !ok) return tl::unexpected(ok.error());
        return import_gltf(path, {.decodeImages = true, .memoryLimit = 256u << 20});
    }
    void refused_at(const nlohmann::json& document, const std::string& pointer) {
        const auto asset = import_text(document.dump());
        QVERIFY2(!asset.has_value(), pointer.c_str());
        QVERIFY2(asset.error().where.find("scene.gltf#" + pointer) != std::string::npos,
                 (to_text(asset.error()) + "   wanted " + pointer).c_str());
        QVERIFY(!asset.error().what.empty());
    }

private slots:
    /// An 8 x 8 picture whose data unpacks to 64 MB, and one whose chunk claims a gigabyte: refused, not unpacked.
    void a_picture_that_unpacks_beyond_its_size_is_refused() {
        const auto good = encode_png({8, 8, std::vector<std::uint8_t>(256, 90)});
        QVERIFY(decode_image(good).has_value());
        const QByteArray whole(reinterpret_cast<const char*>(good.data()), static_cast<qsizetype>(good.size()));
        const auto at = whole.indexOf("IDAT") - 4;
        QVERIFY(at > 0);
        const auto with_data = [&](const QByteArray& data, std::uint32_t claimed) {
            QByteArray png = whole.left(at);
            for (int shift = 24; shift >= 0; shift -= 8)
                png.append(static_cast<char>(claimed >> shift));
            png += "IDAT" + data + QByteArray(4, 0) + QByteArray("\0\0\0\0IEND\0\0\0\0", 12);
            return std::vector<std::uint8_t>(png.begin(), png.end());
        };
        const QByteArray bomb = qCompress(QByteArray(64 << 20, 0), 9).mid(4); // after Qt's own length: a zlib stream
        const auto unpacked = decode_image(with_data(bomb, static_cast<std::uint32_t>(bomb.size())));
        QVERIFY(!unpacked.has_value());
        QVERIFY2(unpacked.error().what.find("more than its size") != std::string::npos, unpacked.error().what.c_str());
        const auto claimed = decode_image(with_data(bomb, 1u << 30));
        QVERIFY(!claimed.has_value());
        QVERIFY2(claimed.error().what.find("beyond the end") != std::string::npos, claimed.error().what.c_str());
    }

    void small_file_gives_mesh_light_and_camera_in_world_space() {
        const auto asset = import_text(small_document().dump());
        QVERIFY2(asset.has_value(), asset ? "" : to_text(asset.error()).c_str());
        const SceneAsset& a = **asset;
        QCOMPARE(a.triangles(), std::size_t(1));
        QCOMPARE(a.objects[0].bounds.low.z, 3.0f);
        QCOMPARE(a.objects[0].bounds.high.x, 2.0f);
        const Light& l = a.lights.at(0);
        QCOMPARE(l.position.y, 4.0f);
        QVERIFY(glm::length(l.direction - glm::vec3(0, -1, 0)) < 1e-5f); // -z turned by -90 degrees about x
        QCOMPARE(l.range, 7.0f);
        QCOMPARE(l.outerConeAngle, 0.5f);
        QCOMPARE(a.cameras.at(0).name, std::string("front"));
        QCOMPARE(a.cameras.at(0).eye.z, 5.0f);
        QVERIFY(a.cameras.at(0).aim.z < 5.0f);
        QCOMPARE(a.materials[0].emissive.y, 0.5f);
    }

    void missing_normals_are_flat_and_tangents_orthogonal() {
        const auto asset = import_text(small_document().dump());
        QVERIFY(asset.has_value());
        for (const Vertex& v : (*asset)->primitives[0].vertices) {
            QVERIFY(glm::length(v.normal - glm::vec3(0, 0, 1)) < 1e-6f);
            QVERIFY(std::abs(glm::dot(glm::vec3(v.tangent), v.normal)) < 1e-6f);
            QVERIFY(std::abs(glm::length(glm::vec3(v.tangent)) - 1.0f) < 1e-5f);
        }
    }

    void external_buffer_is_read_and_its_absence_named() {
        auto d = small_document();
        const std::string uri = d["buffers"][0]["uri"];
        const QByteArray bytes = QByteArray::fromBase64(QByteArray::fromStdString(uri.substr(uri.find(',') + 1)));
        d["buffers"][0]["uri"] = "data%20file.bin";
        refused_at(d, "/buffers/0/uri");
        QVERIFY(write_file_atomically(std::filesystem::path(folder_.path().toStdString()) / "data file.bin",
                                      bytes.toStdString())
                    .has_value());
        QVERIFY(import_text(d.dump()).has_value());
    }

    void sparse_accessor_replaces_elements() {
        auto d = small_document();
        d["accessors"][0]["sparse"] = {{"count", 1},
                                       {"indices", {{"bufferView", 1}, {"byteOffset", 2}, {"componentType", 5123}}},
                                       {"values", {{"bufferView", 0}, {"byteOffset", 24}}}};
        const auto asset = import_text(d.dump());
        QVERIFY2(asset.has_value(), asset ? "" : to_text(asset.error()).c_str());
        QCOMPARE((*asset)->primitives[0].vertices[1].position.y, 1.0f); // element 1 became what was element 2
    }

    void coats_refraction_and_depths_are_read_and_the_rest_is_named() {
        auto d = small_document();
        d["extensionsUsed"] = {"KHR_materials_ior", "KHR_materials_specular", "KHR_materials_clearcoat",
                               "KHR_materials_sheen"};
        auto& m = d["materials"][0];
        m["pbrMetallicRoughness"] = {{"metallicFactor", 0.5}};
        m["extensions"] = {{"KHR_materials_ior", {{"ior", 1.33}}},
                           {"KHR_materials_specular", {{"specularFactor", 0.5}, {"specularColorFactor", {1, 0.5, 2}}}},
                           {"KHR_materials_clearcoat", {{"clearcoatFactor", 0.75}, {"clearcoatRoughnessFactor", 0.25}}},
                           {"KHR_materials_sheen", {{"sheenRoughnessFactor", 0.5}}}};
        m["extras"] = {{"scatterDistance", {0.006, 0.003, 0.001}}, {"thickness", 0.02}};
        const auto asset = import_text(d.dump());
        QVERIFY2(asset.has_value(), asset ? "" : to_text(asset.error()).c_str());
        const mirolux::Material& surface = (*asset)->materials[0];
        const double straight = 0.33 * 0.33 / (2.33 * 2.33);
        for (int c = 0; c < 3; ++c)
            QVERIFY(std::abs(surface.optics.f0[c] - 0.5 * straight * glm::vec3(1, 0.5f, 2)[c]) < 1e-7);
        QCOMPARE(surface.optics.f90, 0.5f);
        QCOMPARE(surface.optics.coat, 0.75f);
        QCOMPARE(surface.optics.coatRoughness, 0.25f);
        QCOMPARE(surface.optics.scatterDistance, glm::vec3(0.006f, 0.003f, 0.001f));
        QCOMPARE(surface.optics.thickness, 0.02f);
        QCOMPARE(surface.metallic, 0.0f); // no light goes beneath metal
        QCOMPARE(surface.opticsNumber, 1);
        QCOMPARE((*asset)->optics.size(), std::size_t(2));
        std::string all;
        for (const std::string& w : (*asset)->warnings)
            all += w + "\n";
        QVERIFY2(all.find("KHR_materials_sheen is not shaded") != std::string::npos, all.c_str());
        QVERIFY2(all.find("metallicFactor is taken as 0") != std::string::npos, all.c_str());
        QVERIFY2(all.find("clearcoat") == std::string::npos, all.c_str());
        m["extras"]["thicknessTexture"] = {{"index", 7}};
        refused_at(d, "/materials/0/extras/thicknessTexture/index");
        m["extras"].erase("thicknessTexture");
        m["extensions"]["KHR_materials_ior"]["ior"] = 0.5;
        refused_at(d, "/materials/0/extensions/KHR_materials_ior/ior");
        m["extensions"]["KHR_materials_ior"]["ior"] = 1.5;
        m["extras"]["scatterDistance"] = {-1, 0, 0};
        refused_at(d, "/materials/0/extras/scatterDistance");
    }

    void strips_and_fans_become_triangles() {
        for (const int mode : {5, 6}) {
            auto d = small_document();
            d["meshes"][0]["primitives"][0]["mode"] = mode;
            const auto asset = import_text(d.dump());
            QVERIFY(asset.has_value());
            QCOMPARE((*asset)->triangles(), std::size_t(1));
        }
    }

    void unknown_optional_extension_warns_and_required_one_is_an_error() {
        auto d = small_document();
        d["extensionsUsed"].push_back("EXT_made_up");
        const auto asset = import_text(d.dump());
        QVERIFY(asset.has_value());
        QCOMPARE((*asset)->warnings.size(), std::size_t(1));
        QVERIFY((*asset)->warnings[0].find("EXT_made_up") != std::string::npos);
        d["extensionsRequired"] = {"EXT_made_up"};
        refused_at(d, "/extensionsRequired/0");
    }

    void each_lie_is_refused_with_its_json_pointer() {
        auto with = [](const char* pointer, nlohmann::json value) {
            auto d = small_document();
            d[nlohmann::json::json_pointer(pointer)] = std::move(value);
            return d;
        };
        refused_at(with("/asset/version", "1.0"), "/asset/version");
        refused_at(with("/meshes/0/primitives/0/indices", 99), "/meshes/0/primitives/0/indices");
        refused_at(with("/accessors/0/count", 4000000), "/accessors/0");
        refused_at(with("/accessors/0/byteOffset", 20), "/accessors/0");
        refused_at(with("/accessors/0/componentType", 1), "/accessors/0/componentType");
        refused_at(with("/bufferViews/0/byteLength", 1000000), "/bufferViews/0");
        refused_at(with("/buffers/0/byteLength", 1000000), "/buffers/0/byteLength");
        refused_at(with("/nodes/0/mesh", 7), "/nodes/0/mesh");
        refused_at(with("/nodes/0/children", {0}), "/nodes/0");
        refused_at(with("/nodes/0/scale", {1, 2}), "/nodes/0/scale");
        refused_at(with("/nodes/0/scale", {3e38, 3e38, 3e38}), "/nodes/0");
        refused_at(with("/nodes/1/extensions/KHR_lights_punctual/light", 3),
                   "/nodes/1/extensions/KHR_lights_punctual/light");
        refused_at(with("/extensions/KHR_lights_punctual/lights/0/extras", {{"sourceSize", -1}}),
                   "/extensions/KHR_lights_punctual/lights/0/extras/sourceSize");
        refused_at(with("/extensions/KHR_lights_punctual/lights/0/type", "area"),
                   "/extensions/KHR_lights_punctual/lights/0/type");
        refused_at(with("/cameras/0/perspective/yfov", -1), "/cameras/0/perspective/yfov");
        refused_at(with("/materials/0/pbrMetallicRoughness/baseColorTexture", {{"index", 0}}),
                   "/materials/0/pbrMetallicRoughness/baseColorTexture/index");
        auto cyclic = small_document();
        cyclic["nodes"].push_back({{"children", {4}}});
        cyclic["nodes"].push_back({{"children", {3}}});
        refused_at(cyclic, "/nodes/");
        auto shared = small_document();
        shared["nodes"].push_back({{"children", {0}}});
        shared["nodes"].push_back({{"children", {0}}});
        refused_at(shared, "/nodes/4/children/0");
        auto index = small_document();
        index["bufferViews"][1]["byteOffset"] = 12; // float bits read as indices
        refused_at(index, "/meshes/0/primitives/0/indices");
    }

    void not_a_scene_at_all() {
        QVERIFY(!import_text("").has_value());
        QVERIFY(!import_text("hello").has_value());
        QVERIFY(!import_text("[1,2]").has_value());
        QVERIFY(!import_text(std::string("glTF\x02\0\0\0\xFF\xFF\xFF\x7F", 12), "scene.glb").has_value());
        QVERIFY(!import_gltf(folder_.path().toStdString() + "/absent.glb").has_value());
        QVERIFY(!import_gltf(folder_.path().toStdString()).has_value());
    }

    /// 400 seeded mutations of text and of the binary container: each ends in a scene or in one Error with a place,
    /// never in a crash.
    void mutated_files_never_crash() {
        std::mt19937 random(20240607);
        const std::string text = small_document().dump();
        auto glb_bytes = read_file(std::filesystem::path(MIROLUX_DEMO).replace_extension(".glb"));
        QVERIFY(glb_bytes.has_value());
        const auto flat = small_document().flatten();
        std::vector<std::string> pointers;
        for (const auto& [pointer, value] : flat.items())
            pointers.push_back(pointer);
        int refused = 0, accepted = 0;
        const nlohmann::json oddities = {nullptr,
                                         -1,
                                         0,
                                         1,
                                         65536,
                                         4294967295u,
                                         1e308,
                                         -1e308,
                                         0.5,
                                         "",
                                         "x",
                                         true,
                                         nlohmann::json::array(),
                                         nlohmann::json::object(),
                                         {1e39, 1, 1},
                                         9007199254740993};
        for (int i = 0; i < 300; ++i) {
            std::string mutated = text;
            if (i % 3 == 0) { // a value becomes something odd
                auto d = small_document();
                for (unsigned k = 0; k <= random() % 2; ++k)
                    try {
                        d[nlohmann::json::json_pointer(pointers[random() % pointers.size()])] =
                            oddities[random() % oddities.size()];
                    } catch (const nlohmann::json::exception&) {
                    }
                mutated = d.dump();
            } else if (i % 3 == 1)
                mutated.resize(random() % mutated.size()); // cut short
            else
                for (int k = 0; k < 4; ++k)
                    mutated[random() % mutated.size()] = static_cast<char>(random());
            const auto asset = import_text(mutated);
            if (asset)
                ++accepted;
            else {
                ++refused;
                QVERIFY(asset.error().where.find("scene.gltf") != std::string::npos);
                QVERIFY(!asset.error().what.empty());
            }
        }
        for (int i = 0; i < 100; ++i) {
            std::string bytes(glb_bytes->begin(),
                              glb_bytes->begin() + std::min<std::size_t>(glb_bytes->size(), 900000));
            if (i % 2) bytes.assign(glb_bytes->begin(), glb_bytes->end());
            const std::size_t head = i % 4 == 1 ? 24 : 200000;
            for (int k = 0; k < 6; ++k)
                bytes[random() % std::min(head, bytes.size())] = static_cast<char>(random());
            const auto asset = import_text(bytes, "scene.glb");
            if (asset)
                ++accepted;
            else
                ++refused;
        }
        qInfo("%d refused, %d accepted", refused, accepted);
        QVERIFY(refused > 200);
    }

    /// The demo as an independent reader sees it: counts and the sum of all positions.
    void demo_agrees_with_an_independent_reader() {
        const auto path = std::filesystem::path(MIROLUX_DEMO).replace_extension(".glb");
        const auto asset = import_gltf(path);
        QVERIFY2(asset.has_value(), asset ? "" : to_text(asset.error()).c_str());
        tinygltf::TinyGLTF reader;
        tinygltf::Model model;
        std::string error, warning;
        QVERIFY2(reader.LoadBinaryFromFile(&model, &error, &warning, path.string()), error.c_str());
        std::size_t primitives = 0, vertices = 0, indices = 0;
        double sum = 0, ours = 0;
        for (std::size_t m = 0; m < model.meshes.size(); ++m)
            for (const auto& p : model.meshes[m].primitives) {
                // What is bent is there once for each node that shows it.
                std::size_t shown = 1;
                if (!p.targets.empty()) {
                    shown = 0;
                    for (const auto& node : model.nodes)
                        shown += node.mesh == static_cast<int>(m);
                }
                primitives += shown;
                const auto& a = model.accessors[p.attributes.at("POSITION")];
                const auto& v = model.bufferViews[a.bufferView];
                const auto* f =
                    reinterpret_cast<const float*>(model.buffers[v.buffer].data.data() + v.byteOffset + a.byteOffset);
                vertices += shown * a.count;
                indices += shown * model.accessors[p.indices].count;
                for (std::size_t i = 0; i < 3 * a.count; ++i)
                    sum += static_cast<double>(shown) * f[i];
            }
        std::size_t ourVertices = 0, ourIndices = 0;
        for (const Primitive& p : (*asset)->primitives) {
            if (&p == &(*asset)->primitives.back()) continue; // the proxies' box, which no file has
            ourVertices += p.vertices.size();
            ourIndices += p.indices.size();
            for (const Vertex& v : p.vertices)
                ours += double(v.position.x) + v.position.y + v.position.z;
        }
        QCOMPARE((*asset)->primitives.size(), primitives + 1);
        QCOMPARE(ourVertices, vertices);
        QCOMPARE(ourIndices, indices);
        QVERIFY(std::abs(sum - ours) < 1e-3);
        QCOMPARE((*asset)->lights.size(), model.lights.size());
        QCOMPARE((*asset)->images.size(), model.images.size());
        for (std::size_t i = 0; i < model.images.size(); ++i)
            QVERIFY((*asset)->images[i].rgba == model.images[i].image);
    }

    void demo_is_what_the_product_promises() {
        const auto open = open_project(MIROLUX_DEMO, {.decodeImages = false});
        QVERIFY2(open.has_value(), open ? "" : to_text(open.error()).c_str());
        QVERIFY(open->asset->triangles() >= 60000 && open->asset->triangles() <= 200000);
        int types[3] = {};
        for (const Light& l : open->project.lights)
            ++types[static_cast<int>(l.type)];
        QVERIFY(types[0] >= 1 && types[1] >= 40 && types[2] >= 40);
        QVERIFY(open->project.lights.size() >= 180 && open->project.lights.size() <= 220);
        QVERIFY(open->project.motions.size() >= 18 && open->project.motions.size() <= 24);
        QVERIFY(open->project.cameras.size() >= 5);
        QCOMPARE(open->project.walks.size(), std::size_t(2)); // to the pier head, and through the workshop
        QCOMPARE(open->project.doors.size(), std::size_t(7));
        QVERIFY(open->warnings.empty());
    }

    void ray_hits_the_triangle_and_misses_beside_it() {
        const auto asset = import_text(small_document().dump());
        QVERIFY(asset.has_value());
        const RayScene rays(Scene{*asset, {}, {}, {}});
        const RayHit hit = rays.nearest({{1.25f, 2.25f, 10}, {0, 0, -1}});
        QCOMPARE(hit.object, 0);
        QVERIFY(std::abs(hit.distance - 7.0f) < 1e-4f);
        QCOMPARE(rays.nearest({{1.75f, 2.75f, 10}, {0, 0, -1}}).object, -1);
    }
};

MIROLUX_TEST(gltf_import_test)
#include "gltf_import_test.moc"
