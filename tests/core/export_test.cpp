#include "core/motion/scene_at.h"
#include "core/scene/gltf_export.h"
#include "support/rigs.h"
#include "support/test_main.h"
#include <QtTest>
#include <set>
#include <tiny_gltf.h>

using namespace mirolux;

namespace {

/// Written and read again.
std::shared_ptr<const SceneAsset> round_trip(const OpenProject& open, std::vector<std::string>* warnings = nullptr) {
    QTemporaryDir dir;
    const auto file = dir.filePath("out.glb").toStdString();
    auto done = export_gltf(open.project, open.asset, file);
    if (!done) qFatal("%s", to_text(done.error()).c_str());
    if (warnings) *warnings = *done;
    auto again = import_gltf(file);
    if (!again) qFatal("%s", to_text(again.error()).c_str());
    return *again;
}

OpenProject opened(const std::string& text) {
    QTemporaryDir dir;
    const auto file = dir.filePath("in.gltf").toStdString();
    if (!write_file_atomically(file, text)) qFatal("cannot write");
    auto open = open_project(file);
    if (!open) qFatal("%s", to_text(open.error()).c_str());
    return std::move(*open);
}

/// World positions of every triangle's corner of what is shown, sorted: the same surfaces in whatever order.
std::vector<std::array<float, 3>> surfaces(const Scene& s) {
    std::vector<std::array<float, 3>> out;
    for (std::size_t o = 0; o < s.objects().size(); ++o) {
        const Object& object = s.objects()[o];
        if (object.hidden || object.proxy) continue;
        const auto& v = vertices_of(s, o);
        for (const std::uint32_t i : s.asset->primitives[static_cast<std::size_t>(object.primitive)].indices) {
            const glm::vec3 p(object.transform * glm::vec4(v[i].position, 1));
            out.push_back({p.x, p.y, p.z});
        }
    }
    return out;
}

double farthest(const Scene& a, const Scene& b) {
    auto x = surfaces(a), y = surfaces(b);
    if (x.size() != y.size()) return 1e9;
    // Coordinate by coordinate in order: equal sets are equal lists.
    double worst = 0;
    for (int c = 0; c < 3; ++c) {
        const auto less = [c](const auto& p, const auto& q) {
            return p[static_cast<std::size_t>(c)] < q[static_cast<std::size_t>(c)];
        };
        std::sort(x.begin(), x.end(), less);
        std::sort(y.begin(), y.end(), less);
        for (std::size_t i = 0; i < x.size(); ++i)
            worst = std::max(worst,
                             std::abs(double(x[i][static_cast<std::size_t>(c)]) - y[i][static_cast<std::size_t>(c)]));
    }
    return worst;
}

Scene scene_at_of(const std::shared_ptr<const SceneAsset>& asset, double seconds) {
    return scene_at(Scene{asset, asset->lights, {}, {}}, seconds);
}

} // namespace

class export_test : public QObject {
    Q_OBJECT
private slots:
    void what_moves_moves_the_same_way() {
        for (unsigned seed = 1; seed <= 4; ++seed) {
            const OpenProject open = opened(MovingScene(seed).text());
            std::vector<std::string> warnings;
            const auto again = round_trip(open, &warnings);
            QVERIFY(warnings.empty() && again->warnings.empty());
            QCOMPARE(again->rig->clips.size(), open.asset->rig->clips.size());
            QCOMPARE(again->rig->bodies.size(), open.asset->rig->bodies.size());
            for (const double t : {0.0, 0.7, 1.9, 3.3}) {
                const Scene a = scene_at_of(open.asset, t), b = scene_at_of(again, t);
                QVERIFY2(farthest(a, b) < 1e-5, qPrintable(QString::number(farthest(a, b))));
                const Light la = lights_at(a, t).front(), lb = lights_at(b, t).front();
                QVERIFY(glm::length(la.position - lb.position) < 1e-5f &&
                        glm::length(la.direction - lb.direction) < 1e-5f);
                QVERIFY(std::abs(la.intensity - lb.intensity) < 1e-4f && std::abs(la.range - lb.range) < 1e-5f);
                QVERIFY(glm::length(camera_at(a, 0, t).eye - camera_at(b, 0, t).eye) < 1e-5f);
            }
        }
    }

    void edits_are_written_and_what_cannot_be_is_told() {
        OpenProject open = opened(MovingScene(2).text());
        open.asset = [&] { // one that stands still beside it
            MovingScene file(2);
            file.json["nodes"].push_back({{"name", "slab"}, {"mesh", 1}, {"translation", {0, -2, 0}}});
            file.json["scenes"][0]["nodes"].push_back(file.json["nodes"].size() - 1);
            file.json["meshes"].push_back(file.json["meshes"][1]);
            file.json["meshes"].back()["primitives"][0].erase("targets");
            file.json["meshes"].back().erase("weights");
            file.json["nodes"].back()["mesh"] = 2;
            const OpenProject other = opened(file.text());
            open.project = other.project;
            return other.asset;
        }();
        std::size_t slab = 0;
        while (open.asset->objectNames[slab].name != "slab")
            ++slab;
        ObjectEdit edit = edit_of({}, *open.asset, static_cast<int>(slab));
        edit.translation = {1, 2, 3};
        edit.scale = {2, 1, 0.5f};
        open.project.objects = {edit};
        open.project.lights[0].intensity = 77;
        open.project.lights[0].shadow.mode = ShadowMode::none;
        Light added;
        added.id = 1000000;
        added.name = "added";
        added.position = {4, 5, 6};
        added.kelvin = 3000;
        added.intensity = 12;
        added.sourceSize = 0.25f;
        open.project.lights.push_back(added);
        Light off = added;
        off.id = 1000001;
        off.enabled = false;
        open.project.lights.push_back(off);
        std::vector<std::string> warnings;
        const auto again = round_trip(open, &warnings);
        QCOMPARE(warnings.size(), std::size_t(2));
        QVERIFY(warnings[0].find("off") != std::string::npos && warnings[1].find("no words") != std::string::npos);
        QCOMPARE(again->lights.size(), std::size_t(2));
        for (const Light& l : again->lights) {
            if (l.name == "added") {
                QCOMPARE(l.kelvin, 3000.0f);
                QCOMPARE(l.sourceSize, 0.25f);
                QVERIFY(glm::length(l.position - added.position) < 1e-5f);
            } else
                QCOMPARE(l.intensity, 77.0f);
        }
        OpenProject plain = open;
        plain.project.clips = {{"none of them", false}};
        QVERIFY(farthest(scene_of(plain), Scene{again, {}, {}, {}}) < 1e-5);
        // Hidden: not there.
        open.project.objects.change([](std::vector<ObjectEdit>& edits) { edits[0].hidden = true; });
        const auto without = round_trip(open, &warnings);
        QCOMPARE(without->objects.size(), again->objects.size() - 1);
        QVERIFY(warnings[0].find("hidden") != std::string::npos);
    }

    /// The demo: an independent reader opens it, and we find all of it in it.
    void the_demo_comes_back() {
        auto open = open_project(MIROLUX_DEMO);
        QVERIFY(open.has_value());
        QTemporaryDir dir;
        const auto file = dir.filePath("out.glb").toStdString();
        const auto done = export_gltf(open->project, open->asset, file);
        QVERIFY2(done.has_value(), done ? "" : to_text(done.error()).c_str());
        tinygltf::TinyGLTF reader;
        tinygltf::Model model;
        std::string error, warning;
        QVERIFY2(reader.LoadBinaryFromFile(&model, &error, &warning, file), error.c_str());
        QVERIFY2(error.empty() && warning.empty(), (error + warning).c_str());
        QCOMPARE(model.cameras.size(), open->project.cameras.size());
        QCOMPARE(model.animations.size(), open->asset->rig->clips.size());
        std::size_t on = 0;
        for (const Light& l : open->project.lights)
            on += l.enabled;
        QCOMPARE(model.lights.size(), on);
        const auto again = import_gltf(file);
        QVERIFY(again.has_value());
        QVERIFY2((*again)->warnings.empty(), (*again)->warnings.empty() ? "" : (*again)->warnings[0].c_str());
        QCOMPARE((*again)->objects.size(), open->asset->objects.size());
        QCOMPARE((*again)->triangles(), open->asset->triangles());
        QCOMPARE((*again)->images.size(), open->asset->images.size());
        for (std::size_t i = 0; i < (*again)->images.size(); ++i)
            QVERIFY((*again)->images[i].rgba == open->asset->images[i].rgba);
        for (std::size_t m = 0; m < open->asset->materials.size(); ++m) {
            const Material &a = open->asset->materials[m], &b = (*again)->materials[m];
            QCOMPARE(a.name, b.name);
            QVERIFY(a.baseColor == b.baseColor && a.metallic == b.metallic && a.roughness == b.roughness);
            QVERIFY(glm::length(a.emissive - b.emissive) < 1e-5f * (1 + glm::length(a.emissive)));
            QVERIFY(glm::length(a.optics.f0 - b.optics.f0) < 1e-6f && a.optics.coat == b.optics.coat);
            QVERIFY(a.optics.scatterDistance == b.optics.scatterDistance && a.doubleSided == b.doubleSided);
            QVERIFY(a.alphaMode == b.alphaMode);
        }
        QVERIFY(farthest(scene_at_of(open->asset, 0), scene_at_of(*again, 0)) < 1e-4);
        QVERIFY(farthest(scene_at_of(open->asset, 5.5), scene_at_of(*again, 5.5)) < 1e-4);
        // Objects keep their ids, so that edits of a project hold for it too.
        std::set<std::string> ids, theirs;
        for (const ObjectName& n : open->asset->objectNames)
            ids.insert(n.id);
        for (const ObjectName& n : (*again)->objectNames)
            theirs.insert(n.id);
        QVERIFY(ids == theirs);
    }

    void what_cannot_be_written_is_said() {
        const auto demo = std::filesystem::path(MIROLUX_DEMO);
        const auto islet = open_project(demo.parent_path() / "light-islet.mirolux");
        QVERIFY(islet.has_value());
        const auto refused = export_gltf(islet->project, islet->asset);
        QVERIFY(!refused && refused.error().what.find("of Blocks") != std::string::npos);
        const auto blind = open_project(MIROLUX_DEMO, {.decodeImages = false});
        const auto unread = export_gltf(blind->project, blind->asset);
        QVERIFY(!unread && unread.error().what.find("pictures were not read") != std::string::npos);
        const OpenProject open = opened(MovingScene(1).text());
        const auto nowhere = export_gltf(open.project, open.asset, "/no/such/folder/x.glb");
        QVERIFY(!nowhere && !nowhere.error().where.empty());
    }
};

MIROLUX_TEST(export_test)
#include "export_test.moc"
