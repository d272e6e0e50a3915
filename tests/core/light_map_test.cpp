#include "core/bake/light_map.h"
#include "core/image/image_io.h"
#include "core/io/file.h"
#include "core/io/wire.h"
#include "core/scene/project.h"
#include "core/visibility/visibility.h"
#include "support/baked.h"
#include "support/test_main.h"
#include <QtTest>
#include <filesystem>

using namespace mirolux;
using namespace mirolux::test;

namespace {

LightMap baked(const Scene& scene, const LightMapOptions& options) {
    auto bake = LightMapBake::begin(scene, lambert(), options);
    if (!bake) qFatal("%s", to_text(bake.error()).c_str());
    while (!(*bake)->work(1000))
        ;
    return (*bake)->map();
}

/// The place in the world of each texel that a surface of an object lies on.
template <class Each>
void each_texel(const Scene& scene, const LightMapLayout& layout, int object, const Each& each) {
    for (const LightMapLayout::Place& p : layout.places) {
        if (p.object != object) continue;
        const MappedMesh& m = layout.meshes[std::size_t(p.mesh)];
        for (const Texel& t : covered_texels(m)) {
            glm::vec3 at(0.0f);
            for (std::uint32_t k = 0; k < 3; ++k)
                at += t.weights[int(k)] * m.mesh.vertices[m.mesh.indices[3 * t.triangle + k]].position;
            each(glm::vec3(scene.objects()[std::size_t(object)].transform * glm::vec4(at, 1)), p.x + t.x, p.y + t.y);
        }
    }
}

} // namespace

/// Light maps: where surfaces lie in them, and the light that is computed for them.
class light_map_test : public QObject {
    Q_OBJECT
private slots:
    /// The demo: every still surface has its place, none lie on each other, and texels are as dense as asked for, to a
    /// step.
    void the_demo_is_laid_out() {
        const auto open = open_project(MIROLUX_DEMO);
        QVERIFY(open.has_value());
        const Scene scene = scene_of(*open);
        const auto layout = lay_out_light_map(scene, open->project.setup, 2);
        QVERIFY2(layout.has_value(), layout ? "" : to_text(layout.error()).c_str());
        qInfo("the demo at 2 a metre: %zu objects, %zu layouts, %d x %d texels, %.0f %% filled, %.0f square metres, "
              "stretch %.2f",
              layout->places.size(), layout->meshes.size(), layout->width, layout->height, 100 * layout->filled(),
              layout->area, double(layout->stretch()));
        QVERIFY(layout->places.size() > 400);
        std::vector<bool> taken(std::size_t(layout->width) * std::size_t(layout->height), false);
        int lower = 0;
        for (const LightMapLayout::Place& p : layout->places) {
            const MappedMesh& m = layout->meshes[std::size_t(p.mesh)];
            QVERIFY(p.x >= 0 && p.y >= 0 && p.x + m.width <= layout->width && p.y + m.height <= layout->height);
            for (int y = p.y; y < p.y + m.height; ++y)
                for (int x = p.x; x < p.x + m.width; ++x) {
                    const std::size_t i = std::size_t(y) * std::size_t(layout->width) + std::size_t(x);
                    QVERIFY(!taken[i]);
                    taken[i] = true;
                }
            QVERIFY2(p.density <= 2.001f, qPrintable(QString::number(double(p.density))));
            lower += p.density < 1.41f;
        }
        QVERIFY(lower == 0 || !layout->remarks.empty());
        // A map that no device holds is refused with its size.
        const auto large = lay_out_light_map(scene, open->project.setup, 400, 1 << 20);
        QVERIFY(!large.has_value() && large.error().what.find("16384") != std::string::npos);
    }

    /// Each object has its own share of the texels a metre, or no place; the others stay as they are.
    void objects_have_a_detail_of_their_own() {
        TwoRooms t;
        const auto place_of = [](const LightMapLayout& layout, int object) {
            const auto it = std::find_if(layout.places.begin(), layout.places.end(),
                                         [&](const LightMapLayout::Place& p) { return p.object == object; });
            return it == layout.places.end() ? nullptr : &*it;
        };
        const auto plain = lay_out_light_map(t.scene, lambert(), 4);
        const std::string before = light_map_scene_digest(t.scene, lambert());
        QVERIFY(plain.has_value());
        Scene other = t.scene;
        const auto edit = [&](int object, float detail) {
            ObjectEdit e{t.scene.asset->objectNames[std::size_t(object)].id, "", {}, glm::quat(1, 0, 0, 0)};
            e.mapDetail = detail;
            return e;
        };
        std::vector<ObjectEdit> edits;
        take_edits(edits, {edit(t.ahead, 2), edit(0, 0.25f), edit(t.inFirst, 0)});
        other.placed = place_objects(*other.asset, edits);
        const auto layout = lay_out_light_map(other, lambert(), 4);
        QVERIFY(layout.has_value());
        QVERIFY(!place_of(*layout, t.inFirst) && place_of(*plain, t.inFirst));
        for (int o = 0; o < int(t.scene.objects().size()); ++o) {
            if (o == t.inFirst) continue;
            const float share = o == t.ahead ? 2 : o == 0 ? 0.25f : 1;
            QVERIFY(std::abs(place_of(*layout, o)->density / (share * place_of(*plain, o)->density) - 1) < 1e-4f);
        }
        // Another layout is another map; what is hidden is none of it.
        QVERIFY(light_map_scene_digest(other, lambert()) != before);
        QCOMPARE(still_light_digest(other, lambert(), false), still_light_digest(t.scene, lambert(), false));
        SceneAsset with = *t.scene.asset;
        add_hidden(with, "light probe", {2, 1, 2});
        other = t.scene;
        other.asset = std::make_shared<const SceneAsset>(std::move(with));
        QCOMPARE(light_map_scene_digest(other, lambert()), before);
        // It is kept with the project, and what cannot be is told.
        const ObjectEdit e = edit(t.ahead, 2);
        QVERIFY(object_edit_from_json(JsonCursor(to_json(e), "x")) == e);
        for (const double bad : {-1.0, 0.01, 17.0}) {
            Json j = to_json(e);
            j["mapDetail"] = bad;
            QVERIFY_THROWS_EXCEPTION(ReadFailure, object_edit_from_json(JsonCursor(j, "x")));
        }
    }

    /// Lamps in the open: intensity times cosine over the square of the distance, on the mean over every texel.
    void direct_light_is_that_of_closed_form() {
        const QTemporaryDir folder;
        Scene scene;
        scene.asset = white_plane();
        scene.lights = {lamp({1, 2, 0}, 300)};
        scene.bakes = folder.path().toStdString();
        const LightMap map = baked(scene, {2, 4, 0});
        int texels = 0;
        double worst = 0;
        each_texel(scene, map.layout, 0, [&](const glm::vec3& at, int x, int y) {
            double wanted = 0;
            constexpr int steps = 32; // of its half metre
            for (int i = 0; i < steps * steps; ++i) {
                const glm::dvec3 within(0.5 * ((i % steps + 0.5) / steps - 0.5), 0,
                                        0.5 * ((i / steps + 0.5) / steps - 0.5)),
                    to = glm::dvec3(scene.lights[0].position) - glm::dvec3(at) - within;
                const double d = glm::length(to);
                wanted += 300 * to.y / (d * d * d * steps * steps);
            }
            worst = std::max(worst, std::abs(double(map.layers[0].direct.pixel(x, y)[1]) / wanted - 1));
            ++texels;
            if (map.layers[0].direct.pixel(x, y)[3] != 1.0f) worst = 1e9;
        });
        QVERIFY2(worst < 0.006, qPrintable(QString::number(worst)));
        QVERIFY(texels >= 1600 && texels < 1800); // 20 x 20 m, 2 a metre, and the rim
    }

    /// A closed glowing box whose walls reflect: pi / (1 - albedo) everywhere.
    void indirect_light_is_that_of_closed_form() {
        const QTemporaryDir folder;
        Scene scene;
        scene.asset = finished(glowing_box(0.5, 1));
        scene.bakes = folder.path().toStdString();
        const LightMap map = baked(scene, {1, 200, -1});
        double sum = 0;
        int texels = 0;
        for (int o = 0; o < 6; ++o)
            each_texel(scene, map.layout, o, [&](const glm::vec3&, int x, int y) {
                sum += double(map.layers[0].indirect.pixel(x, y)[1]);
                ++texels;
            });
        QVERIFY2(std::abs(sum / texels / (2 * M_PI) - 1) < 0.01,
                 qPrintable(QString::number(sum / texels / (2 * M_PI))));
    }

    /// Texels beneath a thing take the light beside it, and so do those that lookups beyond a border reach.
    void what_is_covered_takes_the_light_beside_it() {
        TwoRooms t;
        const QTemporaryDir folder;
        t.scene.bakes = folder.path().toStdString();
        t.scene.lights = {lamp({2, 2.5f, 2}, 200)};
        const LightMap map = baked(t.scene, {8, 4, 1});
        int beneath = 0, beside = 0;
        each_texel(t.scene, map.layout, 0, [&](const glm::vec3& at, int x, int y) { // the floor
            if (at.y < -0.01f) return;
            const float* p = map.layers[0].direct.pixel(x, y);
            const Box& stool = t.solids[std::size_t(t.inFirst)];
            const bool in = at.x > stool.low.x + 0.01f && at.x < stool.high.x - 0.01f && at.z > stool.low.z + 0.01f &&
                            at.z < stool.high.z - 0.01f;
            if (in) {
                ++beneath;
                if (p[3] != 0.5f) beneath = -1000;
            } else if (at.x > 0.2f && at.x < 0.9f && at.z > 1 && at.z < 3) {
                ++beside;
                if (p[3] != 1.0f || !(p[1] > 1)) beside = -1000;
            }
        });
        QVERIFY2(beneath > 2, qPrintable(QString::number(beneath)));
        QVERIFY2(beside > 5, qPrintable(QString::number(beside)));
        for (const LightMapLayout::Place& p : map.layout.places)
            for (const MappedMesh::Area& a : map.layout.meshes[std::size_t(p.mesh)].areas) {
                bool any = false, empty = false;
                for (int y = a.y; y < a.y + a.height; ++y)
                    for (int x = a.x; x < a.x + a.width; ++x) {
                        any = any || map.layers[0].direct.pixel(p.x + x, p.y + y)[3] == 1.0f;
                        empty = empty || map.layers[0].direct.pixel(p.x + x, p.y + y)[3] == 0.0f;
                    }
                QVERIFY(!any || !empty);
            }
    }

    void a_stopped_bake_goes_on_to_the_same_bits() {
        TwoRooms t;
        const QTemporaryDir folder, other;
        t.scene.bakes = folder.path().toStdString();
        t.scene.lights = {lamp({2, 2.5f, 2}, 200)};
        const LightMapOptions options{2, 6, 2};
        std::size_t done = 0;
        int runs = 0;
        for (bool over = false; !over; ++runs) {
            auto bake = LightMapBake::begin(t.scene, lambert(), options);
            QVERIFY2(bake.has_value(), bake ? "" : to_text(bake.error()).c_str());
            QCOMPARE((*bake)->progress().done, done);
            over = (*bake)->work(1);
            QVERIFY((*bake)->progress().done > done);
            done = (*bake)->progress().done;
            QVERIFY((*bake)->keep().has_value());
        }
        QVERIFY2(runs > 2, qPrintable(QString::number(runs)));
        auto again = LightMapBake::begin(t.scene, lambert(), options);
        QVERIFY((*again)->work(0));
        Scene elsewhere = t.scene;
        elsewhere.bakes = other.path().toStdString();
        const LightMap whole = baked(elsewhere, options), parts = (*again)->map();
        QVERIFY(whole.layers[0].direct.data == parts.layers[0].direct.data);
        QVERIFY(whole.layers[0].indirect.data == parts.layers[0].indirect.data);
        // Another lamp, another density: another map.
        const std::string digest = light_map_digest(t.scene, lambert(), options);
        QVERIFY(light_map_digest(t.scene, lambert(), {3, 6, 2}) != digest);
        t.scene.lights[0].intensity = 201;
        QVERIFY(light_map_digest(t.scene, lambert(), options) != digest);
    }

    void damaged_files_are_set_aside() {
        TwoRooms t;
        const QTemporaryDir folder;
        t.scene.bakes = folder.path().toStdString();
        const LightMapOptions options{1, 1, 0};
        const auto files = light_map_files(t.scene.bakes, light_map_digest(t.scene, lambert(), options));
        for (const auto& file : {files.direct, files.indirect, files.index}) {
            {
                auto bake = LightMapBake::begin(t.scene, lambert(), options);
                QVERIFY(bake.has_value());
                while (!(*bake)->work(500))
                    ;
                QVERIFY((*bake)->keep().has_value());
            }
            const auto bytes = *read_file(file);
            QVERIFY(write_file_atomically(file, bytes.data(), bytes.size() / 3).has_value());
            auto bake = LightMapBake::begin(t.scene, lambert(), options);
            QVERIFY(bake.has_value());
            QVERIFY2((*bake)->remark().find("set aside") != std::string::npos, file.c_str());
            QCOMPARE((*bake)->progress().done, std::size_t(0));
            QVERIFY(std::filesystem::exists(file.string() + ".damaged"));
        }
        // Without a project, or a folder that can be made: an error with its place.
        t.scene.bakes = files.index.string() + ".damaged/beneath a file";
        const auto no = LightMapBake::begin(t.scene, lambert(), options);
        QVERIFY(!no.has_value() && no.error().where == t.scene.bakes);
        t.scene.bakes.clear();
        QVERIFY(!LightMapBake::begin(t.scene, lambert(), options).has_value());
    }
};

MIROLUX_TEST(light_map_test)
#include "light_map_test.moc"
