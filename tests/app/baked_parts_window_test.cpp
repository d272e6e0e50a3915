#include "app/bake_row.h"
#include "app/choice_row.h"
#include "app/light_map_bench.h"
#include "app/pass_tape.h"
#include "app/patch_bench.h"
#include "app/viewport.h"
#include "window_fixture.h"
#include <QLabel>
#include <QLineEdit>
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
        auto& tape = *window_->findChild<PassTape*>(); // so say the picture and the deck
        QTRY_COMPARE_WITH_TIMEOUT(window_->viewport().stale(), QString("shadow masks"), 60000);
        QVERIFY2(tape.notice().startsWith("stale") && tape.notice().contains("shadow masks"),
                 qPrintable(tape.notice()));
        doc().undo();
        QTRY_VERIFY_WITH_TIMEOUT(window_->viewport().stale().isEmpty(), 60000);
        QVERIFY(!tape.notice().contains("stale"));
        QTRY_VERIFY2_WITH_TIMEOUT(words("bake masks state").contains("lamps in"), qPrintable(words("bake masks state")),
                                  60000);
        doc().edit_light("dim", lamp, [](Light& l) { l.intensity *= 0.5f; });
        QVERIFY2(words("bake masks state").contains("lamps in"), qPrintable(words("bake masks state")));
    }

    /// How finely an object lies in maps is marked at the objects' bench, where something is baked.
    void map_detail_is_marked() {
        const int object = 3;
        window_->selection().set_objects({object});
        auto* row = window_->findChild<ChoiceRow*>("map detail");
        QVERIFY(!row->isVisible());
        choose({{"indirect.kind", "lightmap"}});
        QTRY_VERIFY(row->isVisible());
        QCOMPARE(row->current(), 3); // as set
        const auto press = [&](int choice) { QTest::mouseClick(row, Qt::LeftButton, {}, row->cell(choice).center()); };
        press(4);
        QCOMPARE(doc().object_edit(object).mapDetail, 2.0f);
        QVERIFY(words("object facts").contains("2 times the texels"));
        press(0);
        QCOMPARE(doc().object_edit(object).mapDetail, 0.0f);
        QVERIFY(words("object facts").contains("in no light map"));
        window_->selection().set_objects({object, object + 1});
        QCOMPARE(row->current(), -1); // they differ
        press(3);
        QVERIFY(doc().object_edit(object).mapDetail == 1 && doc().object_edit(object).idle());
        doc().undo();
        QCOMPARE(doc().object_edit(object).mapDetail, 0.0f);
        doc().undo();
        doc().undo();
        QVERIFY(doc().object_edit(object).idle());
    }

    /// A probe where the camera stands: a hidden ball, rings until they are computed, balls from then on.
    void probes_are_placed_by_hand() {
        window_->set_station("Ambient");
        choose({{"indirect.kind", "probes"}, {"grid.spacing", "6"}, {"grid.paths", "16"}, {"grid.bounces", "0"}});
        const int before = doc().object_count();
        const Camera camera = doc().project().view.camera;
        QVERIFY(button("probe here")->isVisible());
        QTest::mouseClick(button("probe here"), Qt::LeftButton);
        Camera beside = camera;
        beside.eye += glm::vec3(2, 0, 1);
        beside.aim += glm::vec3(2, 0, 1);
        doc().move_camera(beside);
        window_->command("place space probe")->trigger();
        QCOMPARE(doc().object_count(), before + 2);
        QCOMPARE(doc().project().setup.choice("grid.at"), std::string("light probe*"));
        auto* names = window_->findChild<QLineEdit*>("grid.at");
        QCOMPARE(names->text(), QString("light probe*"));
        const QColor usual = names->palette().color(QPalette::Text);
        const auto name = [&](const char* words) {
            names->setFocus();
            names->selectAll();
            QTest::keyClicks(names, words);
            QTest::keyClick(names, Qt::Key_Return);
        };
        name("lantern of nobody");
        QCOMPARE(doc().project().setup.choice("grid.at"), std::string("lantern of nobody"));
        QVERIFY(names->palette().color(QPalette::Text) != usual); // there is none
        doc().undo();
        QCOMPARE(names->text(), QString("light probe*"));
        names->clearFocus();
        QCOMPARE(doc().project().setup.choice("grid.at"), std::string("light probe*"));
        QCOMPARE(names->palette().color(QPalette::Text), usual);
        const Object& placed = doc().scene().objects()[std::size_t(before)];
        QVERIFY(placed.hidden && glm::distance(placed.bounds.center(), camera.eye) < 1e-3f);
        Camera back = camera;
        back.eye -= 3.0f * glm::normalize(camera.aim - camera.eye);
        doc().move_camera(back);
        wait_for_rest();
        QVERIFY2(words("light map state").contains("by hand"), qPrintable(words("light map state")));
        window_->viewport().repaint();
        QTRY_VERIFY(window_->viewport().space_probes_shown() > 0);
        auto* bench = window_->findChild<LightMapBench*>();
        QSignalSpy baked(bench, &LightMapBench::baked);
        QTest::mouseClick(button("bake probes"), Qt::LeftButton);
        QVERIFY(baked.wait(240000));
        QTRY_VERIFY2_WITH_TIMEOUT(words("light map state").contains("2 probe"), qPrintable(words("light map state")),
                                  30000);
        wait_for_rest();
        // Taken back step by step: the second probe, then the first and the setting that named it.
        doc().undo();
        QCOMPARE(doc().object_count(), before + 1);
        doc().undo();
        QCOMPARE(doc().object_count(), before);
        QVERIFY(doc().project().setup.choice("grid.at").empty());
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
        QVERIFY2(words("patch state").contains("1 shot,"), qPrintable(words("patch state")));
        wait_for_rest(); // the picture has the light so far
        // Looked at, the patch that shot is before the camera, nothing between them, and outlined.
        QTest::mouseClick(button("look at patch"), Qt::LeftButton);
        const ShownPatch from = bench->last().from;
        const Camera camera = doc().project().view.camera;
        QVERIFY(glm::distance(camera.aim, from.middle) < 1e-4f && glm::dot(camera.eye - camera.aim, from.side) > 0);
        const float metres = glm::distance(camera.eye, camera.aim);
        QVERIFY(metres <= 8 &&
                !doc().rays().occluded({camera.eye, (camera.aim - camera.eye) / metres}, 0.01f, metres - 0.02f));
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
