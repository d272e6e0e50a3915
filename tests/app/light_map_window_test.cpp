#include "app/light_map_bench.h"
#include "app/viewport.h"
#include "window_fixture.h"
#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QTableWidget>

using namespace mirolux;
using namespace mirolux::app;
using namespace mirolux::test;

/// Light that is computed beforehand, in the window: maps, probes in space, ways of keeping them, stale ones.
class light_map_window_test : public QObject, WindowFixture {
    Q_OBJECT
    Document& doc() { return window_->document(); }
    LightMapBench* bench() { return window_->findChild<LightMapBench*>(); }
    QString state() { return bench()->findChild<QLabel*>("light map state")->text(); }
    QPushButton* button(const char* name) { return bench()->findChild<QPushButton*>(name); }
    void choose(const char* kind) {
        for (const auto& [key, value] : {std::pair("lightmap.density", "0.25"),
                                         {"lightmap.paths", "1"},
                                         {"lightmap.bounces", "0"},
                                         {"grid.spacing", "6"},
                                         {"grid.paths", "16"},
                                         {"grid.bounces", "0"},
                                         {"indirect.kind", kind}}) {
            Setup s = doc().project().setup;
            QVERIFY(s.set_text(key, value).has_value());
            doc().edit("a setting", [&](Project& p) { p.setup = s; });
        }
    }
    void bake(const char* with) {
        QSignalSpy baked(bench(), &LightMapBench::baked);
        QTest::mouseClick(button(with), Qt::LeftButton);
        QCOMPARE(button(with)->text(), QString("Stop"));
        QVERIFY(baked.wait(240000));
    }

private slots:
    void initTestCase() { use_theme(*qApp, true); }
    void init() {
        open_window();
        window_->set_station("Ambient");
        QVERIFY(!bench()->isVisible()); // nothing is computed beforehand
    }
    void cleanup() { close_window(); }

    void a_map_is_baked_compared_chosen_and_goes_stale() {
        choose("lightmap");
        QVERIFY(bench()->isVisible());
        QVERIFY2(state().contains("No light map was baked"), qPrintable(state()));
        QVERIFY(!button("compare light maps")->isEnabled());
        bake("bake light map");
        QTRY_VERIFY2_WITH_TIMEOUT(state().contains("texels on") && state().contains("MiB"), qPrintable(state()), 60000);
        QVERIFY(button("compare light maps")->isEnabled());
        wait_for_rest(); // a frame has it
        QSignalSpy compared(bench(), &LightMapBench::compared);
        QTest::mouseClick(button("compare light maps"), Qt::LeftButton);
        QVERIFY(compared.wait(240000));
        auto* table = bench()->findChild<QTableWidget*>("light map table");
        auto* plot = bench()->findChild<MapPlot*>();
        QVERIFY2(table->isVisible() && plot->isVisible() && table->rowCount() == 12,
                 qPrintable(QString::number(table->rowCount()) + " " + state()));
        // Blocks take least, plain ones keep fewest highlights; a click takes one, and undo gives it back.
        const std::vector<LightMapRow> rows = plot->table()->rows;
        const auto least = std::min_element(
            rows.begin(), rows.end(), [](const LightMapRow& a, const LightMapRow& b) { return a.bytes < b.bytes; });
        QVERIFY(least->store == TexelStore::bc6h && least->kind == DirectionKind::plain);
        const Setup before = doc().project().setup;
        QTest::mouseClick(plot, Qt::LeftButton, {}, plot->place_of(*least).toPoint());
        QCOMPARE(doc().project().setup.choice("lightmap.store"), std::string("bc6h"));
        QCOMPARE(doc().project().setup.choice("lightmap.kind"), std::string("plain"));
        doc().undo();
        QVERIFY(doc().project().setup == before);
        emit table->cellDoubleClicked(0, 0);
        QCOMPARE(doc().project().setup.choice("lightmap.kind"), std::string("harmonics"));
        // A still lamp that shines otherwise makes it stale; undone, it holds again.
        const int lamp = light_named("workshop tube 01").id;
        doc().edit_light("dim", lamp, [](Light& l) { l.intensity *= 0.5f; });
        QVERIFY2(state().contains("stale"), qPrintable(state()));
        doc().undo();
        QTRY_VERIFY2_WITH_TIMEOUT(state().contains("texels on"), qPrintable(state()), 60000);
        // One that moves does not.
        doc().edit_light("move", lamp, [](Light& l) { l.mobility = Mobility::moving; });
        QVERIFY2(state().contains("stale"), qPrintable(state())); // its light is in there
        doc().undo();
    }

    void a_bake_is_stopped_and_gone_on_with() {
        choose("lightmap");
        Setup s = doc().project().setup;
        QVERIFY(s.set_text("lightmap.density", "2").has_value() && s.set_text("lightmap.paths", "64").has_value());
        doc().edit("a setting", [&](Project& p) { p.setup = s; });
        QSignalSpy baked(bench(), &LightMapBench::baked);
        window_->command("bake light map")->trigger();
        QTRY_VERIFY2_WITH_TIMEOUT(state().contains("s to go"), qPrintable(state()), 60000);
        QTest::mouseClick(button("bake light map"), Qt::LeftButton);
        QVERIFY(baked.wait(60000));
        QVERIFY2(state().contains("goes on from there"), qPrintable(state()));
        QVERIFY(!bench()->working());
    }

    void probes_are_computed_and_shown_as_balls() {
        choose("probes");
        QVERIFY(bench()->isVisible() && !button("bake light map")->isVisible());
        QVERIFY2(state().contains("No probes in space"), qPrintable(state()));
        bake("bake probes");
        QVERIFY2(state().contains("6 m apart"), qPrintable(state()));
        wait_for_rest();
        window_->viewport().repaint();
        QTRY_VERIFY_WITH_TIMEOUT(window_->viewport().space_probes_shown() > 0, 20000);
        QSignalSpy compared(bench(), &LightMapBench::compared);
        QTest::mouseClick(button("compare light maps"), Qt::LeftButton);
        QVERIFY(compared.wait(240000));
        auto* table = bench()->findChild<QTableWidget*>("light map table");
        QVERIFY(table->isVisible() && table->rowCount() == 1);
        QVERIFY(table->item(0, 0)->text().contains("6 m"));
        // Another station shows no balls.
        window_->set_station("Path");
        window_->viewport().repaint();
        QVERIFY(!bench()->isVisible());
    }

    void a_light_tells_how_it_is_baked() {
        choose("lightmap");
        const int lamp = light_named("workshop tube 01").id;
        window_->set_station("Lights");
        window_->select_light(lamp);
        QTest::qWait(50);
        auto* choice = window_->findChild<QComboBox*>("light mobility");
        QVERIFY(choice && choice->isVisible());
        QCOMPARE(choice->currentText(), QString("still"));
        choice->setCurrentIndex(1);
        emit choice->activated(1);
        QCOMPARE(light_named("workshop tube 01").mobility, Mobility::switched);
        doc().undo();
        QCOMPARE(light_named("workshop tube 01").mobility, Mobility::still);
        QCOMPARE(choice->currentText(), QString("still"));
    }
};

MIROLUX_TEST(light_map_window_test)
#include "light_map_window_test.moc"
