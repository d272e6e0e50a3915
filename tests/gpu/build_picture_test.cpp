#include "core/scene/built.h"
#include "core/scene/gltf_export.h"
#include "session_fixture.h"
#include <QElapsedTimer>
#include <QTemporaryDir>

using namespace mirolux;
using namespace mirolux::test;

namespace mirolux::test_build_picture {

BuiltPtr things(const SceneAsset& asset, const std::vector<ShapeKind>& kinds) {
    BuiltPtr built;
    float hue = 0.1f;
    for (const ShapeKind k : kinds) {
        Make m;
        m.shape = usual_shape(k);
        m.own = {{hue, 0.4f, 0.9f - hue}, 0, 0.3f + hue / 2, {}};
        hue += 0.1f;
        add_things(built, named_things(asset, built ? *built : Built{}, word(k), std::make_shared<const Make>(m), 1));
    }
    return built;
}

/// Things in a row before the demo's camera.
Scene standing(const Demo& d, const std::shared_ptr<const SceneAsset>& file, const std::vector<ShapeKind>& kinds) {
    Scene scene = d.scene;
    scene.asset = built_on(file, things(*file, kinds));
    std::vector<ObjectEdit> edits;
    const glm::vec3 way = glm::normalize(d.view.camera.aim - d.view.camera.eye),
                    right = glm::normalize(glm::cross(way, glm::vec3(0, 1, 0)));
    float at = -2;
    for (std::size_t o = file->objects.size(); o < scene.asset->objects.size(); ++o) {
        edits.push_back(edit_of({}, *scene.asset, static_cast<int>(o)));
        edits.back().translation = d.view.camera.eye + 6.0f * way + at * right - glm::vec3(0, 0.7f, 0);
        at += 1.2f;
    }
    std::vector<ObjectEdit> list;
    take_edits(list, edits);
    scene.placed = place_objects(*scene.asset, list);
    return scene;
}

} // namespace mirolux::test_build_picture
using namespace mirolux::test_build_picture;

/// What is built in a scene, on the device.
class build_picture_test : public QObject {
    Q_OBJECT
private slots:
    /// Vertices and textures that stay on the device from one build to the next are the right ones.
    void building_on_gives_the_picture_of_building_anew() {
        const Demo d = demo(256, 144);
        const Setup setup = setup_with({{"path.kind", "deferred"}, {"shadow.maps", "on"}});
        const auto file = d.scene.asset;
        const std::vector<ShapeKind> first = {ShapeKind::ball, ShapeKind::torus},
                                     then = {ShapeKind::ball, ShapeKind::box, ShapeKind::staircase};
        (void)hdr(d.scene, setup, d.view);
        (void)hdr(standing(d, file, first), setup, d.view);
        const Scene now = standing(d, file, then);
        const FloatImage on = hdr(now, setup, d.view);
        const Demo other = demo(64, 36); // another file's asset: everything is loaded anew
        (void)hdr(other.scene, setup, other.view);
        const FloatImage anew = hdr(now, setup, d.view);
        QCOMPARE(on.data, anew.data);
        QVERIFY(hdr(d.scene, setup, d.view).data != on.data); // and without it is another picture
    }

    /// Written as glTF and read again it is the same picture.
    void a_test_bed_comes_back_from_its_file() {
        auto open = open_project(MIROLUX_DEMO);
        QVERIFY(open.has_value());
        Demo d = demo(256, 144);
        const Scene scene =
            standing(d, open->asset, {ShapeKind::cylinder, ShapeKind::cone, ShapeKind::capsule, ShapeKind::plane});
        open->project.built = scene.asset->built;
        open->project.objects = scene.placed->edits;
        QTemporaryDir dir;
        const auto file = dir.filePath("bed.glb").toStdString();
        QVERIFY(export_gltf(open->project, scene.asset, file).has_value());
        const auto again = import_gltf(file);
        QVERIFY(again.has_value());
        const Setup setup = setup_with({{"path.kind", "deferred"}});
        const FloatImage a = hdr(Scene{scene.asset, scene.asset->lights, {}, d.scene.sky, scene.placed}, setup, d.view),
                         b = hdr(Scene{*again, (*again)->lights, {}, d.scene.sky}, setup, d.view);
        double off = 0, sum = 0;
        for (std::size_t i = 0; i < a.data.size(); ++i) {
            off += std::abs(double(a.data[i]) - b.data[i]);
            sum += std::abs(double(a.data[i]));
        }
        qInfo("mean difference %.2g of the mean", off / sum);
        QVERIFY(off / sum < 1e-3);
    }

    /// What a drag of one among ten thousand asks of the device.
    /// One command for neighbours of one mesh draws what a command for each of them draws, to the bit: held against the
    /// same boxes with a mesh each.
    void instances_draw_what_single_commands_draw() {
        const Demo d = demo(160, 90);
        Scene shared = d.scene;
        Make m;
        m.shape = usual_shape(ShapeKind::box);
        BuiltPtr built;
        const auto file = d.scene.asset;
        add_things(built, named_things(*file, {}, "box", std::make_shared<const Make>(m), 60));
        shared.asset = built_on(file, built);
        std::vector<ObjectEdit> edits;
        for (int i = 0; i < 60; ++i) {
            edits.push_back(edit_of({}, *shared.asset, static_cast<int>(file->objects.size()) + i));
            edits.back().scale = glm::vec3(i % 7 == 3 ? -0.4f : 0.4f, 0.4f, 0.4f); // some are mirrored
            edits.back().translation =
                d.view.camera.aim + glm::vec3(0.6f * (i % 10 - 5), 0.1f * i, 0.6f * (i / 10 - 3));
        }
        std::vector<ObjectEdit> list;
        take_edits(list, edits);
        auto apart = std::make_shared<SceneAsset>(*shared.asset);
        for (Object& o : apart->objects) {
            apart->primitives.push_back(Primitive(apart->primitives[static_cast<std::size_t>(o.primitive)]));
            o.primitive = static_cast<int>(apart->primitives.size()) - 1;
        }
        apart->rig = nullptr; // bodies name their meshes
        auto still = std::make_shared<SceneAsset>(*shared.asset);
        still->rig = nullptr;
        for (auto* asset : {apart.get(), still.get()})
            for (Object& o : asset->objects)
                o.body = -1;
        Scene single = shared;
        shared.asset = still;
        single.asset = apart;
        shared.placed = place_objects(*shared.asset, list);
        single.placed = place_objects(*single.asset, list);
        for (const char* path : {"forward", "additive", "deferred", "clustered-forward"})
            for (const Stereo stereo : {Stereo::off, Stereo::onePass}) {
                const Setup setup = setup_with({{"path.kind", path}, {"shadow.maps", "on"}});
                View view = d.view;
                view.stereo = stereo;
                RenderOptions o;
                o.count = true;
                const auto one = session().render(shared, setup, view, o),
                           each = session().render(single, setup, view, o);
                QVERIFY2(one.has_value(), one ? "" : one.error().what.c_str());
                QVERIFY(each.has_value());
                QVERIFY2(one->picture.rgba == each->picture.rgba, path);
                std::uint64_t merged = 0, alone = 0;
                for (std::size_t p = 0; p < one->passes.size(); ++p) {
                    merged += one->passes[p].work.at("draws");
                    alone += each->passes[p].work.at("draws");
                    QCOMPARE(one->passes[p].work.at("triangles"), each->passes[p].work.at("triangles"));
                    QCOMPARE(one->passes[p].work.at("fragments"), each->passes[p].work.at("fragments"));
                }
                QVERIFY2(merged < alone, path);
            }
    }

    void ten_thousand_boxes_are_drawn() {
        const Demo d = demo(480, 270);
        const auto file = d.scene.asset;
        Scene scene = d.scene;
        Make m;
        m.shape = usual_shape(ShapeKind::box);
        BuiltPtr built;
        add_things(built, named_things(*file, {}, "box", std::make_shared<const Make>(m), 10000));
        QElapsedTimer clock;
        clock.start();
        scene.asset = built_on(file, built);
        std::vector<ObjectEdit> edits;
        for (int i = 0; i < 10000; ++i) {
            edits.push_back(edit_of({}, *scene.asset, static_cast<int>(file->objects.size()) + i));
            edits.back().scale = glm::vec3(0.2f);
            edits.back().translation = d.view.camera.aim + glm::vec3(0.3f * (i % 100 - 50), 0, 0.3f * (i / 100 - 50));
        }
        std::vector<ObjectEdit> list;
        take_edits(list, edits);
        scene.placed = place_objects(*scene.asset, list);
        const auto building = clock.elapsed();
        const Setup setup = setup_with({{"path.kind", "deferred"}, {"shadow.maps", "off"}, {"occlusion.kind", "none"}});
        const FrameRecord first = answer_to(scene, setup, d.view);
        std::uint64_t draws = 0, triangles = 0;
        for (const PassRecord& p : first.passes) {
            draws = std::max(draws, p.work.at("draws"));
            triangles = std::max(triangles, p.work.at("triangles"));
        }
        QVERIFY(draws > 10 && draws < 1000 && triangles > 100000); // the boxes are instances of one command
        std::vector<double> answers;
        for (int i = 0; i < 9; ++i) {
            clock.restart();
            ObjectEdit e = list[500];
            e.translation.y += 0.1f;
            take_edits(list, {e});
            scene.placed = place_objects(*scene.asset, list);
            (void)answer_to(scene, setup, d.view);
            answers.push_back(double(clock.nsecsElapsed()) * 1e-6);
        }
        std::sort(answers.begin(), answers.end());
        qInfo("10,000 boxes: built in %lld ms, %llu draws of %llu triangles in a pass, %zu bytes of meshes more; "
              "placed and "
              "drawn anew at 480x270 in %.0f ms (median of 9)",
              static_cast<long long>(building), static_cast<unsigned long long>(draws),
              static_cast<unsigned long long>(triangles),
              scene.asset->primitives.back().vertices.size() * sizeof(Vertex) +
                  scene.asset->primitives.back().indices.size() * 4,
              answers[4]);
    }
};

MIROLUX_TEST(build_picture_test)
#include "build_picture_test.moc"
