#include "app/bake_row.h"
#include "app/patch_bench.h"
#include "app/viewport.h"
#include "window_fixture.h"
#include <QLabel>
#include <QPushButton>

using namespace mirolux;
using namespace mirolux::app;
using namespace mirolux::test;

/// What is baked beside light maps, in the window: masks of shadows, occlusion, patches at work.
class baked_parts_window_test : public QObject, WindowFixture {
    Q_OBJECT
    Document& doc() { return window_->document(); }
    void choose(std::initializer_list<std::pair<const char*, const char*>> values) {
        Setup s = doc().project().setup;
        for (const auto& [key, value] : values)
            QVERIFY2(s.set_text(key, value).has_value(), key);
        doc().edit("settings", [&](Project& p) { p.setup = s; });
    }
    QPushButton* button(const char* name) { return window_->findChild<QPushButton*>(name); }
    QString words(const char* name) { return window_->findChild<QLabel*>(name)->text(); }
    /// Bakes with a row's button, to the end.
    void bake(const char* name) {
        auto* row = qobject_cast<BakeRow*>(button(name)->parentWidget());
        QVERIFY(row);
        QSignalSpy baked(row, &BakeRow::baked);
        QTest::mouseClick(button(name), Qt::LeftButton);
        QCOMPARE(button(name)->text(), QString("Stop"));
        QVERIFY(baked.wait(240000));
    }

private slots:
    void initTestCase() { use_theme(*qApp, true); }
    void init() { open_window(); }
    void cleanup() { close_window(); }

    void masks_are_baked_at_the_shadows_station() {
        window_->set_station("Shadows");
        QVERIFY(!button("bake masks")->isVisible());
        choose({{"shadow.baked", "on"}, {"lightmap.density", "0.25"}, {"shadow.bakedRays", "1"}});
        QVERIFY(button("bake masks")->isVisible());
        QVERIFY2(words("bake masks state").contains("No masks were baked"), qPrintable(words("bake masks state")));
        bake("bake masks");
        QTRY_VERIFY2_WITH_TIMEOUT(words("bake masks state").contains("lamps in"), qPrintable(words("bake masks state")),
                                  60000);
        wait_for_rest();
        QVERIFY(doc().scene().lights.size() > 100);
        // A lamp that moves has another place: stale; undone, it holds again.
        const int lamp = light_named("workshop tube 01").id;
        doc().edit_light("move", lamp, [](Light& l) { l.position.y += 0.5f; });
        QVERIFY2(words("bake masks state").contains("stale"), qPrintable(words("bake masks state")));
        doc().undo();
        QTRY_VERIFY2_WITH_TIMEOUT(words("bake masks state").contains("lamps in"), qPrintable(words("bake masks state")),
                                  60000);
        doc().edit_light("dim", lamp, [](Light& l) { l.intensity *= 0.5f; });
        QVERIFY2(words("bake masks state").contains("lamps in"), qPrintable(words("bake masks state")));
    }

    void occlusion_is_baked_by_texel_and_by_vertex() {
        window_->set_station("Ambient");
        for (const char* kind : {"texture", "vertices"}) {
            choose({{"occlusion.baked", kind}, {"lightmap.density", "0.25"}, {"occlusion.bakedRays", "4"}});
            QVERIFY(button("bake occlusion")->isVisible());
            bake("bake occlusion");
            const QString unit = QString(kind) == "texture" ? "texels" : "vertices";
            QTRY_VERIFY2_WITH_TIMEOUT(words("bake occlusion state").contains(unit),
                                      qPrintable(words("bake occlusion state")), 60000);
            wait_for_rest();
        }
        choose({{"occlusion.baked", "none"}});
        QVERIFY(!button("bake occlusion")->isVisible());
    }

    /// One shot outlines a patch in the picture; shooting goes on until it is stopped, and the plot follows.
    void patches_shoot_before_ones_eyes() {
        window_->set_station("Ambient");
        auto* bench = window_->findChild<PatchBench*>();
        QVERIFY(!bench->isVisible());
        choose({{"indirect.kind", "lightmap"},
                {"lightmap.source", "patches"},
                {"lightmap.density", "0.25"},
                {"patches.rays", "64"},
                {"patches.rest", "0.5"}});
        QVERIFY(bench->isVisible() && !button("bake light map")->isVisible());
        QSignalSpy rested(bench, &PatchBench::rested);
        QTest::mouseClick(button("one shot"), Qt::LeftButton);
        QVERIFY(rested.wait(240000));
        QCOMPARE(bench->last().number, std::size_t(1));
        QVERIFY(!bench->last().lit.empty());
        QVERIFY2(words("patch state").contains("1 shots"), qPrintable(words("patch state")));
        wait_for_rest(); // the picture has the light so far
        // From above the patch that shot it is outlined.
        const ShownPatch from = bench->last().from;
        View view = doc().project().view;
        view.camera.eye = from.middle + 1.2f * from.side + glm::vec3(0.02f, 0, 0.03f);
        view.camera.aim = from.middle;
        doc().move_camera(view.camera);
        window_->viewport().repaint();
        QTRY_VERIFY_WITH_TIMEOUT(window_->viewport().patches_shown() > 0, 20000);
        auto* plot = window_->findChild<PatchPlot*>();
        window_->command("bake light map")->trigger();
        QTRY_VERIFY2_WITH_TIMEOUT(plot->points() > 3 || !bench->working(), qPrintable(words("patch state")), 60000);
        if (bench->working()) {
            QTest::mouseClick(button("shoot patches"), Qt::LeftButton);
            QTRY_VERIFY_WITH_TIMEOUT(!bench->working(), 60000);
        }
        QVERIFY(bench->last().number > 1 && bench->last().unshot < 1);
        choose({{"lightmap.source", "paths"}});
        QVERIFY(!bench->isVisible() && button("bake light map")->isVisible());
        QCOMPARE(bench->last().number, std::size_t(0));
    }
};

MIROLUX_TEST(baked_parts_window_test)
#include "baked_parts_window_test.moc"
