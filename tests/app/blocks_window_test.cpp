#include "app/brush_row.h"
#include "app/choice_row.h"
#include "app/figures/block_figures.h"
#include "app/flood_audit_row.h"
#include "app/layer_strip.h"
#include "app/make_blocks_row.h"
#include "app/number_field.h"
#include "window_fixture.h"
#include <QFileInfo>
#include <QLabel>
#include <QListWidget>

using namespace mirolux;
using namespace mirolux::app;
using namespace mirolux::test;

/// A Blocks stage in the window: what its benches show, and a slice that tells of cells.
class blocks_window_test : public QObject, WindowFixture {
    Q_OBJECT
    SliceFigure* seen_slice() {
        for (SliceFigure* f : window_->findChildren<SliceFigure*>())
            if (f->isVisible()) return f;
        return nullptr;
    }
    void choose(const char* way) {
        window_->document().edit("way", [&](Project& p) { p.setup.set("blocks.light", std::string(way)); });
    }

private slots:
    void initTestCase() { QVERIFY(folder_.isValid()); }
    void init() {
        const QFileInfo demo(MIROLUX_DEMO);
        auto open = open_project(demo.dir().filePath("light-islet.mirolux").toStdString());
        QVERIFY(open.has_value());
        Project p = open->project;
        p.targets = {plain_target("Small", 320, 180, 50)};
        p.target = 0;
        p.path = folder_.filePath("islet.mirolux").toStdString();
        QVERIFY(save_project(p, *open->asset, p.path).has_value());
        window_ = std::make_unique<MainWindow>(options());
        window_->resize(1280, 800);
        window_->show();
        QVERIFY(window_->open(QString::fromStdString(p.path), false));
        wait_for_rest();
    }
    void cleanup() { close_window(); }

    void its_stations_hold_what_it_has() {
        QVERIFY(window_->document().is_blocks() && !window_->document().is_solid());
        QTRY_VERIFY_WITH_TIMEOUT(seen_slice() && seen_slice()->settled(), 20000);
        QVERIFY(!window_->findChild<QWidget*>("objects")->isVisible());
        // The layers of its way stand in the strip, those of solid surfaces do not.
        QStringList layers;
        for (const LayerInfo& l : all_layers())
            if (shows(l, window_->document().project().setup, false)) layers << QString::fromStdString(l.name);
        QVERIFY(layers.contains("floodLevels") && layers.contains("final") && !layers.contains("albedo"));
        choose("flood-origin");
        wait_for_rest();
        window_->findChild<LayerStrip*>()->set_held("originDirection");
        QTRY_COMPARE_WITH_TIMEOUT(window_->bridge().shown_layer(), QString("originDirection"), 5000);
    }

    void a_slice_tells_of_its_cells() {
        window_->set_station("Path");
        QTRY_VERIFY_WITH_TIMEOUT(seen_slice() && seen_slice()->settled(), 20000);
        SliceFigure* slice = seen_slice();
        const int before = slice->height_shown();
        QTest::keyClick(slice, Qt::Key_Up);
        QCOMPARE(slice->height_shown(), before + 1);
        slice->set_height(40);
        const QPoint middle(slice->width() / 2, slice->height() / 2);
        QMouseEvent move(QEvent::MouseMove, middle, slice->mapToGlobal(middle), Qt::NoButton, Qt::NoButton, {});
        QApplication::sendEvent(slice, &move);
        QVERIFY2(slice->words().contains("levels"), qPrintable(slice->words()));
        const QImage cells = slice->grab().toImage();
        auto* row = slice->findChild<ChoiceRow*>("slice field");
        QTest::mouseClick(row, Qt::LeftButton, {}, row->cell(0).center());
        QVERIFY(slice->grab().toImage() != cells);
        // Another way is worked out aside and shown when it has come.
        choose("flood-origin");
        QTRY_VERIFY_WITH_TIMEOUT(slice->words().contains("levels"), 20000);
        for (const bool dark : {true, false}) {
            use_theme(*qApp, dark);
            QVERIFY(!slice->grab().toImage().isNull());
        }
    }

    /// Cells are put in the picture by a drag, as one step; the picture and the kept project have them.
    void cells_are_put_in_the_picture() {
        window_->set_station("Scene");
        auto* brush = window_->findChild<BrushRow*>();
        QTRY_VERIFY_WITH_TIMEOUT(brush->isVisible(), 5000);
        const auto solid = [&] { return window_->document().project().blocks->still.solid(); };
        const std::uint64_t before = solid();
        brush->choose(1);
        QVERIFY(brush->brush().has_value());
        const QPoint middle = window_->viewport().rect().center();
        drag(middle, middle + QPoint(40, 6));
        QVERIFY(solid() > before);
        const std::uint64_t added = solid();
        wait_for_rest();
        Project saved = window_->document().project();
        saved.path = folder_.filePath("saved.mirolux").toStdString();
        QVERIFY(save_project(saved, *window_->document().asset(), saved.path).has_value());
        const auto again = open_project(saved.path);
        QVERIFY(again.has_value());
        QVERIFY(again->project.blocks->still == window_->document().project().blocks->still);
        brush->choose(2);
        drag(middle, middle + QPoint(40, 6));
        QVERIFY(solid() < added);
        window_->document().undo();
        QCOMPARE(solid(), added);
        window_->document().undo();
        QCOMPARE(solid(), before);
        brush->choose(0);
        const glm::vec3 eye = window_->document().project().view.camera.eye;
        drag(middle, middle + QPoint(40, 6)); // looks round again
        QCOMPARE(solid(), before);
        QVERIFY(window_->document().project().view.camera.eye != eye);
    }

    /// After edits the flood is held against a fresh one; odd cells are listed, and shown in the slice.
    void floods_are_held_against_fresh_ones() {
        window_->set_station("Path");
        choose("flood-origin");
        QTRY_VERIFY_WITH_TIMEOUT(seen_slice() && seen_slice()->settled(), 20000);
        window_->document().edit_blocks("a lamp", [](blocks::World& w) { w.still.set({90, 60, 90}, 12); });
        auto* row = window_->findChild<FloodAuditRow*>();
        QVERIFY(row && row->isVisible());
        window_->command("audit flood")->trigger();
        QVERIFY(row->running());
        QTRY_VERIFY_WITH_TIMEOUT(!row->running() && row->audit(), 60000);
        QCOMPARE(row->audit()->wrong + row->audit()->inconsistent, std::uint64_t(0));
        auto* odd = window_->findChild<QListWidget*>("odd cells");
        QVERIFY(!odd->isVisible() && row->audit()->cells > 4000000);
        blocks::FloodAudit bad = *row->audit();
        bad.inconsistent = 2;
        bad.odd = {{{70, 33, 80}, "no neighbour explains its level"}, {{71, 34, 80}, "its origin is no such lamp"}};
        row->show_audit(bad, 1000);
        QVERIFY(odd->isVisible() && odd->count() == 2);
        odd->setCurrentRow(1);
        QCOMPARE(seen_slice()->height_shown(), 34);
        QVERIFY2(seen_slice()->words().startsWith("71, 34, 80"), qPrintable(seen_slice()->words()));
        choose("cast"); // what was found is of another way
        QVERIFY(!row->isVisible() && !row->audit());
    }

    /// A held pixel's light has its way drawn in the picture.
    void the_way_of_light_is_drawn() {
        choose("flood-origin");
        wait_for_rest();
        const QImage before = window_->viewport().grab().toImage();
        PixelAccount a;
        a.pixel = {160, 90};
        a.reason = "mostly lamps' light";
        a.cell = CellAccount{};
        const glm::ivec3 aim(window_->document().project().view.camera.aim /
                             window_->document().project().blocks->edge);
        const auto shown = [&](const std::vector<glm::ivec3>& way) {
            a.cell->way = way;
            window_->viewport().show_account(a);
            return window_->viewport().grab().toImage();
        };
        const QImage plain = shown({}), straight = shown({aim, aim + glm::ivec3(9, 3, 0)}),
                     turned = shown({aim, aim + glm::ivec3(0, 8, 0), aim + glm::ivec3(9, 3, 0)});
        QVERIFY(plain != before && straight != plain && turned != straight);
        window_->viewport().show_account(std::nullopt);
    }

    /// A Solid scene in cells, beside the window; the new file is opened.
    void blocks_are_made_of_a_solid_scene() {
        auto* row = window_->findChild<MakeBlocksRow*>();
        QVERIFY(row && !row->isVisible()); // these are blocks already
        QVERIFY(window_->open(MIROLUX_DEMO, false));
        window_->set_station("Scene");
        QVERIFY(row->isVisible());
        row->findChild<NumberField*>("block edge")->put(1.0);
        const QString nowhere = "/nowhere/at/all.blocks";
        row->make(nowhere);
        QTRY_VERIFY_WITH_TIMEOUT(!row->running(), 60000);
        QVERIFY(window_->document().is_solid());
        QVERIFY2(row->findChild<QLabel*>("blocks made")->text().contains("/nowhere"),
                 qPrintable(row->findChild<QLabel*>("blocks made")->text()));
        const QString file = folder_.filePath("quay in blocks.blocks");
        row->make(file);
        QVERIFY(row->running());
        QTRY_VERIFY_WITH_TIMEOUT(window_->document().is_blocks(), 120000);
        QVERIFY(QFileInfo(file).size() > 1000 && window_->document().project().blocks->still.solid() > 4000);
        QVERIFY(!row->isVisible());
    }

    /// Lamps are cells: none are added as lights.
    void no_lights_are_added_that_would_do_nothing() {
        window_->set_station("Lights");
        for (const QPushButton* b : window_->findChildren<QPushButton*>())
            QVERIFY2(!b->text().startsWith("Add ") || !b->isVisible(), qPrintable(b->text()));
    }

    void ways_are_edits_that_undo_takes_back() {
        choose("cast");
        wait_for_rest();
        QCOMPARE(window_->document().project().setup.choice("blocks.light"), std::string("cast"));
        window_->document().undo();
        wait_for_rest();
        QCOMPARE(window_->document().project().setup.choice("blocks.light"), std::string("flood"));
    }
};

MIROLUX_TEST(blocks_window_test)
#include "blocks_window_test.moc"
