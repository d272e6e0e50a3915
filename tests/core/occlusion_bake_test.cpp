#include "core/bake/baked_light.h"
#include "core/io/file.h"
#include "support/baked.h"
#include "support/test_main.h"
#include <QtTest>
#include <filesystem>

using namespace mirolux;
using namespace mirolux::test;

namespace mirolux::test_occlusion_bake {

std::unique_ptr<OcclusionBake> occlusion_of(const Scene& scene, const Setup& setup) {
    auto bake = OcclusionBake::begin(scene, setup, occlusion_options(setup));
    if (!bake) qFatal("%s", to_text(bake.error()).c_str());
    while (!(*bake)->work(1000))
        ;
    if (auto ok = (*bake)->keep(); !ok) qFatal("%s", to_text(ok.error()).c_str());
    return std::move(*bake);
}

Setup with(const char* kind, std::initializer_list<std::pair<const char*, const char*>> more = {}) {
    Setup s = lambert();
    if (auto ok = s.set_text("occlusion.baked", kind); !ok) qFatal("%s", to_text(ok.error()).c_str());
    for (const auto& [key, value] : more)
        if (auto ok = s.set_text(key, value); !ok) qFatal("%s", to_text(ok.error()).c_str());
    return s;
}

/// A floor beside a wall 3 m high that is very long.
Scene wall_scene(const QTemporaryDir& folder) {
    SceneAsset a;
    a.materials.push_back(plain_material(glm::vec3(0.5f), 0, 1));
    add_solid(a, "floor", {{0, -0.2f, -2}, {6, 0, 2}});
    add_solid(a, "wall", {{-0.2f, -0.2f, -200}, {0, 3, 200}});
    Scene scene;
    scene.asset = finished(std::move(a));
    scene.bakes = folder.path().toStdString();
    return scene;
}

/// Share of the hemisphere over a floor that a wall of height h, without end, leaves open at a distance (a differential
/// element's form factor to it).
double open_at(double distance, double h) {
    return 1 - 0.5 * (1 - distance / std::sqrt(distance * distance + h * h));
}

} // namespace mirolux::test_occlusion_bake
using namespace mirolux::test_occlusion_bake;

/// Occlusion that is computed beforehand, by texel and by vertex.
class occlusion_bake_test : public QObject {
    Q_OBJECT
private slots:
    void texels_before_a_wall_are_as_open_as_the_formula_says() {
        const QTemporaryDir folder;
        const Scene scene = wall_scene(folder);
        const Setup setup =
            with("texture", {{"lightmap.density", "4"}, {"occlusion.bakedRays", "1024"}, {"occlusion.within", "100"}});
        const auto bake = occlusion_of(scene, setup);
        const BakedOcclusion found = bake->occlusion();
        double off = 0, worst = 0;
        int places = 0;
        for (const MapPoint& t : bake->targets()) {
            const glm::vec3& p = t.point.position;
            if (t.point.side.y < 0.9f || std::abs(p.y) > 0.01f || p.x < 0.13f) continue;
            const double e = std::abs(found.open[t.texel] / 255.0 - open_at(double(p.x), 3));
            off += e;
            worst = std::max(worst, e);
            ++places;
        }
        qInfo("%d texels, off by %.2f %% on the mean, %.2f %% at most", places, 100 * off / places, 100 * worst);
        QVERIFY(places > 300);
        QVERIFY(off / places < 0.01 && worst < 0.05);
        // What is farther than the reach closes nothing.
        const auto near =
            occlusion_of(scene, with("texture", {{"lightmap.density", "2"}, {"occlusion.within", "0.5"}}));
        for (const MapPoint& t : near->targets())
            if (t.point.side.y > 0.9f && std::abs(t.point.position.y) < 0.01f && t.point.position.x > 0.8f)
                QCOMPARE(int(near->occlusion().open[t.texel]), 255);
    }

    void vertices_have_the_same() {
        const QTemporaryDir folder;
        SceneAsset a;
        a.materials.push_back(plain_material(glm::vec3(0.5f), 0, 1));
        for (int i = 0; i < 6; ++i) // a floor of strips: vertices at every metre
            add_solid(a, "strip", {{static_cast<float>(i), -0.2f, -2}, {static_cast<float>(i + 1), 0, 2}});
        add_solid(a, "wall", {{-0.2f, -0.2f, -200}, {0, 3, 200}});
        Scene scene;
        scene.asset = finished(std::move(a));
        scene.bakes = folder.path().toStdString();
        const Setup setup = with("vertices", {{"occlusion.bakedRays", "1024"}, {"occlusion.within", "100"}});
        const auto bake = occlusion_of(scene, setup);
        const auto found = baked_occlusion_of(scene, setup, 0);
        QVERIFY(found && found->options.vertices);
        int places = 0;
        double worst = 0;
        for (std::size_t o = 0; o < scene.objects().size(); ++o) {
            const Object& object = scene.objects()[o];
            const auto& vertices = scene.asset->primitives[std::size_t(object.primitive)].vertices;
            QVERIFY(found->firstOf[o] >= 0);
            for (std::size_t v = 0; v < vertices.size(); ++v) {
                const Vertex& at = vertices[v];
                if (at.normal.y < 0.9f || std::abs(at.position.y) > 0.01f || at.position.x < 0.5f) continue;
                const double e = std::abs(found->open[std::size_t(found->firstOf[o]) + v] / 255.0 -
                                          open_at(double(at.position.x), 3));
                worst = std::max(worst, e);
                ++places;
            }
        }
        QVERIFY2(worst < 0.05, qPrintable(QString::number(worst)));
        QVERIFY(places >= 20);
        // Cut at the charts of a light map's layout, each part keeps its vertices' values.
        Setup both = setup;
        QVERIFY(both.set_text("shadow.baked", "on").has_value());
        QVERIFY(both.set_text("lightmap.density", "2").has_value());
        Scene lit = scene;
        lit.lights = {lamp({3, 4, 0}, 100)};
        {
            auto masks = MaskBake::begin(lit, both, mask_options(both));
            QVERIFY(masks.has_value());
            while (!(*masks)->work(1000))
                ;
            QVERIFY((*masks)->keep().has_value());
        }
        const Scene cut = with_baked_light(lit, both);
        QVERIFY(cut.baked && cut.baked->masks && cut.baked->occlusion);
        for (std::size_t o = 0; o < cut.objects().size(); ++o) {
            const auto& was = scene.asset->primitives[std::size_t(scene.objects()[o].primitive)].vertices;
            const auto& now = cut.asset->primitives[std::size_t(cut.objects()[o].primitive)].vertices;
            QVERIFY(now.size() >= was.size());
            for (std::size_t v = 0; v < now.size(); ++v) {
                bool same = false; // as one of those that lie there and face the same way
                for (std::size_t k = 0; k < was.size(); ++k)
                    same = same || (was[k].position == now[v].position && was[k].normal == now[v].normal &&
                                    found->open[std::size_t(found->firstOf[o]) + k] ==
                                        cut.baked->occlusion->open[std::size_t(cut.baked->occlusion->firstOf[o]) + v]);
                QVERIFY(same);
            }
        }
    }

    void it_goes_on_is_stale_and_damaged_like_the_others() {
        const QTemporaryDir folder;
        Scene scene = wall_scene(folder);
        for (const char* kind : {"texture", "vertices"}) {
            const Setup setup = with(kind, {{"lightmap.density", "2"}});
            std::string remark;
            QVERIFY(!baked_occlusion_of(scene, setup, 0, &remark));
            {
                auto bake = OcclusionBake::begin(scene, setup, occlusion_options(setup));
                QVERIFY(bake.has_value());
                (*bake)->work(1e-3);
                QVERIFY((*bake)->keep().has_value());
                if ((*bake)->progress().done < (*bake)->progress().all) {
                    QVERIFY(!baked_occlusion_of(scene, setup, 0, &remark));
                    QVERIFY2(QString::fromStdString(remark).contains("not computed to its end"), remark.c_str());
                }
                auto again = OcclusionBake::begin(scene, setup, occlusion_options(setup));
                QVERIFY(again.has_value());
                QCOMPARE((*again)->progress().done, (*bake)->progress().done);
            }
            occlusion_of(scene, setup);
            QVERIFY(baked_occlusion_of(scene, setup, 0, &remark));
            QVERIFY2(remark.empty(), remark.c_str());
            Scene moved = scene;
            ObjectEdit edit = edit_of({}, *scene.asset, 0);
            edit.hidden = true;
            moved.placed = place_objects(*scene.asset, {edit});
            QVERIFY(!baked_occlusion_of(moved, setup, 0, &remark));
            QVERIFY2(QString::fromStdString(remark).contains("stale"), remark.c_str());
            const auto index = occlusion_index(scene.bakes, occlusion_digest(scene, setup, occlusion_options(setup)));
            const auto bytes = *read_file(index);
            QVERIFY(write_file_atomically(index, bytes.data(), bytes.size() / 2).has_value());
            auto bake = OcclusionBake::begin(scene, setup, occlusion_options(setup));
            QVERIFY(bake.has_value());
            QVERIFY((*bake)->remark().find("set aside") != std::string::npos);
        }
    }
};

MIROLUX_TEST(occlusion_bake_test)
#include "occlusion_bake_test.moc"
