#include "app/choice_row.h"
#include "window_fixture.h"
#include <QAction>
#include <QComboBox>
#include <QLineEdit>
#include <QListWidget>
#include <QScrollBar>
#include <random>
#include <set>

using namespace mirolux;
using namespace mirolux::app;

/// The window as a person uses it: mouse, keys, files. Each test has its own copy of the demo project.
class window_test : public QObject, mirolux::test::WindowFixture {
    Q_OBJECT
private slots:
    void initTestCase() { use_theme(*qApp, true); }
    void init() { open_window(); }
    void cleanup() { close_window(); }

    void opening_shows_a_lit_picture_and_a_measured_tape() {
        wait_for_rest();
        QVERIFY(window_->viewport().has_picture());
        const FrameHistory& h = window_->bridge().history();
        QVERIFY(h.frames() >= 5);
        QVERIFY(h.frame().median > 0);
        QVERIFY(h.passes()[0].counted && h.passes()[0].work.at("bentVertices") > 0);
        QVERIFY(h.passes()[1].counted && h.passes()[1].work.at("lightEvaluations") > 0);
        const QImage shot = window_->viewport().grab().toImage();
        double sum = 0;
        int count = 0;
        std::set<int> levels;
        for (int y = 0; y < shot.height(); y += 7)
            for (int x = 0; x < shot.width(); x += 7, ++count) {
                sum += qGray(shot.pixel(x, y));
                levels.insert(qGray(shot.pixel(x, y)));
            }
        QVERIFY2(sum / count > 12 && sum / count < 200 && levels.size() > 60,
                 qPrintable(QString("mean %1, %2 levels").arg(sum / count).arg(levels.size())));
        QVERIFY(!window_->document().dirty());
        QVERIFY(window_->status_text().contains("clock"));
    }

    /// The tape is to scale: each segment's width over the sum of widths is its share of the frame.
    void tape_is_to_scale() {
        wait_for_rest();
        const FrameHistory& h = window_->bridge().history();
        double sum = 0;
        for (const auto& p : h.passes())
            sum += p.median;
        double widths = 0;
        for (const auto& p : h.passes())
            widths += window_->deck().tape().segment(p.name).width();
        for (const auto& p : h.passes())
            QVERIFY(std::abs(window_->deck().tape().segment(p.name).width() / widths - p.median / sum) < 1e-6);
        // A click on a segment opens its bench.
        const QRectF s = window_->deck().tape().segment("opaque");
        QTest::mouseClick(&window_->deck().tape(), Qt::LeftButton, {}, s.center().toPoint());
        QVERIFY(window_->findChild<PassBench*>()->isVisible());
    }

    void a_light_is_picked_and_dragged_in_the_picture() {
        window_->set_station("Lights");
        const Light before = light_named("quay bollard 02");
        window_->document().move_camera(frame_sphere(window_->document().project().view.camera, before.position, 2));
        QTest::mouseClick(&window_->viewport(), Qt::LeftButton, {}, at(before.position));
        QVERIFY(window_->selection().light() >= 0);
        window_->select_light(before.id);
        drag(at(before.position), at(before.position) + QPoint(40, 0));
        const Light* after = window_->document().light(before.id);
        QVERIFY(glm::length(after->position - before.position) > 0.05f);
        QVERIFY(std::abs(after->position.y - before.position.y) < 1e-4f); // the ground plane
        QVERIFY(window_->document().dirty());
        window_->command("undo")->trigger(); // the whole drag is one step
        QVERIFY(*window_->document().light(before.id) == before);
        QVERIFY(!window_->document().dirty());
        window_->command("redo")->trigger();
        QVERIFY(glm::length(window_->document().light(before.id)->position - before.position) > 0.05f);
    }

    void range_and_cone_are_sized_by_handles() {
        window_->set_station("Lights");
        const Light before = light_named("hall ceiling 08");
        window_->select_light(before.id);
        Camera side;
        side.eye = before.position + glm::vec3(0, -2, 22);
        side.aim = before.position + glm::vec3(0, -2, 0);
        window_->document().move_camera(side);
        for (const HandleKind kind : {HandleKind::outerCone, HandleKind::innerCone, HandleKind::range}) {
            const Light was = *window_->document().light(before.id);
            for (const Handle& h : window_->viewport().handles())
                if (h.kind == kind) {
                    const QPoint from = at(h.position);
                    drag(from, from + QPoint(-16, 14));
                    break;
                }
            const Light* now = window_->document().light(before.id);
            QVERIFY2((kind == HandleKind::outerCone) == (now->outerConeAngle != was.outerConeAngle), word(kind));
            QVERIFY2((kind == HandleKind::range) == (now->range != was.range), word(kind));
            QVERIFY2(kind != HandleKind::innerCone || now->innerConeAngle != was.innerConeAngle, word(kind));
            QCOMPARE(now->position, was.position);
        }
    }

    void lights_are_added_duplicated_renamed_switched_and_deleted() {
        Document& d = window_->document();
        const std::size_t count = d.project().lights.size();
        for (const char* kind : {"add point", "add spot", "add directional"})
            window_->command(kind)->trigger();
        QCOMPARE(d.project().lights.size(), count + 3);
        window_->command("duplicate")->trigger();
        QCOMPARE(d.project().lights.size(), count + 4);
        const int id = window_->selection().light();
        window_->command("switch")->trigger();
        QVERIFY(!d.light(id)->enabled);
        auto* name = window_->findChild<QLineEdit*>("light name");
        name->setFocus();
        name->selectAll();
        QTest::keyClicks(name, "my moon");
        QTest::keyClick(name, Qt::Key_Return);
        QCOMPARE(d.light(id)->name, std::string("my moon"));
        window_->command("delete")->trigger();
        QVERIFY(!d.light(id));
        while (d.can_undo())
            d.undo();
        QCOMPARE(d.project().lights.size(), count);
        QVERIFY(!d.dirty());
    }

    void camera_orbits_pans_dollies_and_flies() {
        Document& d = window_->document();
        const Camera start = d.project().view.camera;
        const QPoint middle = window_->viewport().picture_rect().center().toPoint();
        drag(middle + QPoint(0, -60), middle + QPoint(50, -60));
        QVERIFY(!(d.project().view.camera.eye == start.eye));
        QVERIFY(d.project().view.camera.aim == start.aim);
        const float distance = glm::length(d.project().view.camera.eye - start.aim);
        QWheelEvent wheel(middle, window_->viewport().mapToGlobal(middle), {}, {0, 240}, Qt::NoButton, {},
                          Qt::NoScrollPhase, false);
        QApplication::sendEvent(&window_->viewport(), &wheel);
        QVERIFY(glm::length(d.project().view.camera.eye - start.aim) < distance);
        const glm::vec3 eye = d.project().view.camera.eye;
        QTest::keyPress(&window_->viewport(), Qt::Key_Up);
        QTest::qWait(200);
        QTest::keyRelease(&window_->viewport(), Qt::Key_Up);
        QVERIFY(glm::length(d.project().view.camera.eye - eye) > 0.1f);
        window_->command("frame")->trigger();
        QVERIFY(glm::length(d.project().view.camera.aim - d.asset()->bounds.center()) < 1e-3f);
        QVERIFY(!d.dirty()); // looking around is not an edit
    }

    void every_setting_has_an_editor_that_edits_it() {
        std::set<QString> seen;
        for (const Setting& s : all_settings()) {
            if (s.kind != SettingKind::choice) continue;
            auto* row = window_->findChild<ChoiceRow*>(QString::fromStdString(s.key));
            if (s.key == "path.kind") continue; // chosen in its figure
            QVERIFY2(row, s.key.c_str());
            row->resize(280, row->heightForWidth(280));
            const int last = static_cast<int>(s.choices.size()) - 1;
            QTest::mouseClick(row, Qt::LeftButton, {}, row->cell(last).center());
            QCOMPARE(window_->document().project().setup.choice(s.key), s.choices.back());
            seen.insert(row->objectName());
        }
        for (const Setting& s : all_settings())
            QVERIFY2(window_->findChild<QWidget*>(QString::fromStdString(s.key)), s.key.c_str());
        auto* k = window_->findChild<NumberField*>("path.maxLights");
        QTest::keyClick(k, Qt::Key_Up);
        QCOMPARE(window_->document().project().setup.whole("path.maxLights"), 9);
    }

    void no_command_is_without_function_or_help() {
        QSet<QString> keys;
        for (const QAction* a : window_->commands()) {
            QVERIFY2(!a->toolTip().isEmpty() && !a->text().isEmpty(), qPrintable(a->objectName()));
            const QString key = a->shortcut().toString();
            QVERIFY2(!key.isEmpty() && !keys.contains(key), qPrintable(a->objectName() + " " + key));
            keys.insert(key);
        }
    }

    void saving_and_opening_keeps_the_edits() {
        Document& d = window_->document();
        const int id = light_named("moon").id;
        d.edit_light("x", id, [](Light& l) { l.intensity = 0.77f; });
        QVERIFY(d.set("path.maxLights", 24).has_value());
        QVERIFY(window_->save());
        QVERIFY(!d.dirty());
        QVERIFY(window_->open(project_, false));
        QCOMPARE(d.light(id)->intensity, 0.77f);
        QCOMPARE(d.project().setup.whole("path.maxLights"), 24);
    }

    void unsaved_work_comes_back_after_a_kill() {
        Document& d = window_->document();
        const int id = light_named("moon").id;
        d.edit_light("x", id, [](Light& l) { l.intensity = 0.55f; });
        const QString kept = QString::fromStdString(autosave_path(project_.toStdString()).string());
        QTRY_VERIFY_WITH_TIMEOUT(QFile::exists(kept), 5000);
        const QString aside = kept + ".copy"; // a killed program cleans nothing up: put the file back after ours did
        QVERIFY(QFile::copy(kept, aside));
        window_.reset();
        QFile::remove(kept);
        QVERIFY(QFile::rename(aside, kept));
        window_ = std::make_unique<MainWindow>(options());
        window_->show();
        QVERIFY(window_->open(project_, true));
        QCOMPARE(window_->document().light(id)->intensity, 0.55f);
        QVERIFY(window_->document().dirty());
        window_->command("undo")->trigger();
        QVERIFY(window_->document().light(id)->intensity != 0.55f);
    }

    void a_bad_file_leaves_what_was_open() {
        QFile bad(folder_.filePath("bad.glb"));
        QVERIFY(bad.open(QIODevice::WriteOnly));
        bad.write("nonsense");
        bad.close();
        const std::size_t count = window_->document().project().lights.size();
        QVERIFY(!window_->open(bad.fileName(), false));
        QCOMPARE(window_->document().project().lights.size(), count);
    }

    void logging_measures_restores_annotates_and_deletes() {
        wait_for_rest();
        window_->log_state(3);
        QTRY_COMPARE_WITH_TIMEOUT(window_->entries().size(), std::size_t(1), 60000);
        Document& d = window_->document();
        QVERIFY(d.set("path.maxLights", 2).has_value());
        window_->log_state(3);
        QTRY_COMPARE_WITH_TIMEOUT(window_->entries().size(), std::size_t(2), 60000);
        const Entry newest = window_->entries()[0];
        QVERIFY(newest.frame.median > 0 && newest.rounds == 3 && !newest.thumbnail.empty());
        QCOMPARE(newest.changes, std::vector<std::string>{"Lights an object (K) 8 \u2192 2"});
        EntryList& list = window_->logbook_panel().list();
        QCOMPARE(list.rows(), 2);
        const auto click = [&](int row, EntryList::Part part) {
            list.verticalScrollBar()->setValue(row * EntryList::row_height);
            QTest::mouseClick(list.viewport(), Qt::LeftButton, {}, list.rect_of(row, part).center());
        };
        click(1, EntryList::Part::restore);
        QCOMPARE(d.project().setup.whole("path.maxLights"), 8);
        d.undo();
        QCOMPARE(d.project().setup.whole("path.maxLights"), 2);
        click(0, EntryList::Part::note);
        QTest::keyClicks(list.note_editor(), "fewer lights");
        QTest::keyClick(list.note_editor(), Qt::Key_Return);
        QCOMPARE(list.note_editor()->isVisible(), false);
        click(0, EntryList::Part::remove);
        QCOMPARE(window_->entries().size(), std::size_t(1));
        window_->command("bring back")->trigger();
        QCOMPARE(window_->entries().size(), std::size_t(2));
        QCOMPARE(window_->entries()[0].note, std::string("fewer lights"));
        // Stopping keeps the rounds that were taken.
        window_->log_state(500);
        QTest::qWait(2500);
        window_->command("stop")->trigger();
        QTRY_COMPARE_WITH_TIMEOUT(window_->entries().size(), std::size_t(3), 60000);
        QVERIFY(window_->entries()[0].rounds < 500);
    }

    void layers_peek_and_hold() {
        wait_for_rest();
        auto* strip = window_->findChild<LayerStrip*>();
        const auto& shown = strip->layers();
        const auto normal = std::find_if(shown.begin(), shown.end(),
                                         [](const LayerStrip::Shown& s) { return s.layer->name == "normal"; });
        QVERIFY(normal != shown.end());
        QTest::mouseClick(strip, Qt::LeftButton, {}, strip->cell(static_cast<int>(normal - shown.begin())).center());
        QCOMPARE(strip->held(), QString("normal"));
        QSignalSpy picture(&window_->bridge(), &RenderBridge::picture_ready);
        QVERIFY(picture.wait(20000));
        QCOMPARE(window_->bridge().shown_layer(), QString("normal"));
    }

    /// One click from forward to tiled: the map appears at the Path station, tells a tile's lights, and goes with its
    /// key.
    void tile_map_shows_the_lists_of_the_present_view() {
        window_->set_station("Path");
        QVERIFY(window_->document().set("path.kind", std::string("tiled-deferred")).has_value());
        QTRY_VERIFY_WITH_TIMEOUT(window_->viewport().tile_map_visible(), 60000);
        window_->command("tile map")->trigger();
        QVERIFY(!window_->viewport().tile_map_visible());
        window_->command("tile map")->trigger();
        QVERIFY(window_->viewport().tile_map_visible());
        window_->document().move_camera(orbit(window_->document().project().view.camera, 0.3f, 0));
        QVERIFY(!window_->viewport().tile_map_visible()); // the lists were of another view
    }

    static std::shared_ptr<const cull::Inspection> two_tiles() {
        auto i = std::make_shared<cull::Inspection>();
        i->view.width = 32;
        i->view.height = 16;
        i->depth = {32, 16, std::vector<float>(512, 5.0f)};
        i->grid.columns = 2;
        i->grid.rows = 1;
        i->grid.tile = 16;
        i->exact = i->grid;
        i->grid.offsets = {0, 1, 3};
        i->grid.indices = {1, 0, 2};
        i->exact.offsets = {0, 1, 2};
        i->exact.indices = {1, 2};
        i->lights.resize(3);
        for (int l = 0; l < 3; ++l) {
            i->lights[static_cast<std::size_t>(l)].id = 10 + l;
            i->lights[static_cast<std::size_t>(l)].name = std::string(1, static_cast<char>('a' + l));
        }
        i->reach = {1, 1, 1};
        return i;
    }

    void tile_map_counts_and_names() {
        const TileMap map(two_tiles());
        QCOMPARE(map.longest(), 2);
        QCOMPARE(map.count(0, 0), 1);
        const QStringList lines = map.describe({24, 8}, QRectF(0, 0, 32, 16));
        QCOMPARE(lines, (QStringList{"tile 1, 0: 2 lights", "  a", "  c"}));
        QVERIFY(map.describe({40, 8}, QRectF(0, 0, 32, 16)).isEmpty());
    }

    void tile_bench_strikes_out_what_is_needless() {
        TileBench bench;
        bench.show_cell(two_tiles(), {1, 0, 0});
        auto* list = bench.findChild<QListWidget*>("tile lights");
        QCOMPARE(list->count(), 2);
        QVERIFY(list->item(0)->font().strikeOut() && list->item(0)->text() == "a");
        QVERIFY(!list->item(1)->font().strikeOut() && list->item(1)->text() == "c");
        QSignalSpy picked(&bench, &TileBench::light_picked);
        emit list->itemClicked(list->item(1));
        QCOMPARE(picked.at(0).at(0).toInt(), 12);
    }

    /// The by-region cut: the map comes with it, a bar marks its tiles, a click on a tile opens its bench, and the
    /// worst tile is found.
    void region_cut_and_tile_bench_work_together() {
        QVERIFY(window_->document().set("path.kind", std::string("tiled-deferred")).has_value());
        QSignalSpy inspected(window_.get(), &MainWindow::inspected);
        window_->deck().set_cut(CostDeck::Cut::region);
        QVERIFY(inspected.wait(60000));
        QVERIFY(window_->viewport().tile_map_visible());
        RegionCut& region = window_->deck().region();
        QTest::mouseClick(&region, Qt::LeftButton, {}, region.bar(2).center().toPoint());
        QCOMPARE(region.selected_length(), 2);
        QTest::mouseClick(&region, Qt::LeftButton, {}, region.bar(2).center().toPoint());
        QCOMPARE(region.selected_length(), -1);
        auto* bench = window_->findChild<TileBench*>();
        QTest::mouseClick(&window_->viewport(), Qt::LeftButton, {},
                          window_->viewport().picture_rect().center().toPoint());
        QVERIFY(bench->isVisible() && bench->cell().has_value());
        window_->command("worst tile")->trigger();
        const TileCell worst = *bench->cell();
        window_->command("next worst tile")->trigger();
        QVERIFY(!(*bench->cell() == worst));
        window_->command("worst tile")->trigger();
        QVERIFY(*bench->cell() == worst);
        window_->set_station("Scene");
        QVERIFY(!bench->isVisible());
        window_->deck().set_cut(CostDeck::Cut::pass);
        QVERIFY(!window_->viewport().tile_map_visible());
    }

    /// The ledger: rows by cost, a click selects in the picture, a box switches the light off and the ledger counts
    /// again.
    void ledger_selects_and_switches_lights() {
        QSignalSpy shown(window_.get(), &MainWindow::ledger_shown);
        window_->deck().set_cut(CostDeck::Cut::light);
        QVERIFY(shown.wait(60000));
        LedgerCut& ledger = window_->deck().ledger();
        QVERIFY(ledger.lights().size() > 3);
        const int first = ledger.lights().at(0), second = ledger.lights().at(1);
        QTest::mouseClick(ledger.viewport(), Qt::LeftButton, {}, ledger.row_of(second).center());
        QCOMPARE(window_->selection().light(), second);
        QTest::mouseClick(ledger.viewport(), Qt::LeftButton, {}, ledger.box_of(first).center());
        QVERIFY(!window_->document().light(first)->enabled);
        shown.clear();
        QVERIFY(shown.wait(60000));
        QVERIFY(ledger.lights().back() == first || ledger.lights().front() != first); // it costs nothing now
        ledger.set_order(LedgerOrder::name);
        const auto byName = ledger.lights();
        for (std::size_t i = 1; i < byName.size(); ++i)
            QVERIFY(window_->document().light(byName[i - 1])->name <= window_->document().light(byName[i])->name);
        window_->document().undo();
        QVERIFY(window_->document().light(first)->enabled);
        window_->deck().set_cut(CostDeck::Cut::pass);
    }

    /// Alt over the picture tells why; letting go takes it away; a click with Alt keeps it.
    void alt_tells_why_a_pixel_is_as_it_is() {
        wait_for_rest();
        QSignalSpy told(window_.get(), &MainWindow::pixel_reported);
        auto* bench = window_->findChild<PixelBench*>();
        const QPoint middle = window_->viewport().picture_rect().center().toPoint();
        const auto hover = [&](QPoint at, Qt::KeyboardModifiers modifiers) {
            QMouseEvent move(QEvent::MouseMove, at, window_->viewport().mapToGlobal(at), Qt::NoButton, Qt::NoButton,
                             modifiers);
            QApplication::sendEvent(&window_->viewport(), &move);
        };
        hover(middle, Qt::AltModifier);
        QVERIFY(told.wait(30000));
        QVERIFY(bench->isVisible());
        QVERIFY(!bench->reason().isEmpty());
        hover(middle + QPoint(3, 0), Qt::NoModifier);
        QVERIFY(!bench->isVisible());
        QTest::mouseClick(&window_->viewport(), Qt::LeftButton, Qt::AltModifier, middle);
        QTRY_VERIFY_WITH_TIMEOUT(bench->isVisible(), 30000);
        hover(middle + QPoint(9, 0), Qt::NoModifier);
        QVERIFY(bench->isVisible());
        window_->set_station("Scene");
        QVERIFY(!bench->isVisible());
    }

    /// Pulled about while it renders: nothing fails, nothing is started anew, and the picture comes back in the
    /// window's size.
    void resizing_the_window_200_times_while_it_renders() {
        QVERIFY(window_->document().set("path.kind", std::string("clustered-deferred")).has_value());
        QSignalSpy failed(&window_->bridge(), &RenderBridge::failed);
        const int worker = window_->bridge().worker_pid();
        std::mt19937 r(7);
        for (int i = 0; i < 200; ++i) {
            window_->resize(900 + static_cast<int>(r() % 380), 620 + static_cast<int>(r() % 180));
            if (i % 9 == 0) window_->document().move_camera(orbit(window_->document().project().view.camera, 0.02f, 0));
            QTest::qWait(i % 10 == 0 ? 60 : 5);
        }
        window_->resize(1280, 800);
        QSignalSpy settled(window_.get(), &MainWindow::settled_down);
        window_->bridge().refresh(false);
        QVERIFY(settled.wait(60000));
        QCOMPARE(failed.count(), 0);
        QCOMPARE(window_->bridge().worker_pid(), worker);
        QCOMPARE(window_->bridge().last_full().width, 320);
        QVERIFY(window_->viewport().has_picture());
    }

    /// A and B: B's picture shares the picture, both tapes stand, the difference is told, the paired comparison ends in
    /// words.
    void a_and_b_stand_side_by_side() {
        wait_for_rest();
        QSignalSpy told(window_.get(), &MainWindow::difference_reported),
            measured(window_.get(), &MainWindow::pair_measured);
        window_->command("take b")->trigger();
        QVERIFY(window_->document().set("path.kind", std::string("additive")).has_value());
        QVERIFY(told.wait(60000));
        QVERIFY(window_->viewport().has_b());
        QTRY_VERIFY_WITH_TIMEOUT(window_->bridge().history_b().frames() >= 5, 60000);
        // The wipe follows the mouse.
        Viewport& v = window_->viewport();
        const QRectF r = v.picture_rect();
        const QPoint line(static_cast<int>(r.left() + v.wipe() * r.width()), static_cast<int>(r.center().y()));
        QTest::mousePress(&v, Qt::LeftButton, {}, line);
        QMouseEvent move(QEvent::MouseMove, line + QPoint(60, 0), v.mapToGlobal(line + QPoint(60, 0)), Qt::NoButton,
                         Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(&v, &move);
        QTest::mouseRelease(&v, Qt::LeftButton, {}, line + QPoint(60, 0));
        QVERIFY(v.wipe() > 0.5);
        window_->command("seen difference")->trigger();
        QCOMPARE(v.pair_view(), PairView::perceptual);
        window_->command("compare")->trigger();
        QVERIFY(measured.wait(120000));
        const auto kept =
            Logbook::open(logbook_path(project_.toStdString()))->records("pair"); // in the history beside the entries
        QCOMPARE(kept->size(), std::size_t(1));
        QVERIFY(nlohmann::json::parse(kept->front().document)["comparison"].contains("ratio"));
        window_->command("swap")->trigger();
        QCOMPARE(window_->document().project().setup.choice("path.kind"), std::string("forward"));
        QCOMPARE(window_->bridge().b()->choice("path.kind"), std::string("additive"));
        window_->command("drop b")->trigger();
        QVERIFY(!window_->bridge().b());
        QTRY_VERIFY_WITH_TIMEOUT(!v.has_b(), 10000);
        window_->command("undo")->trigger(); // B is part of the project: undone and saved with it
        QVERIFY(window_->bridge().b() && window_->bridge().b()->choice("path.kind") == "additive");
        QVERIFY(window_->save());
        auto saved = open_project(project_.toStdString(), {.decodeImages = false});
        QVERIFY(saved.has_value() && saved->project.b == window_->document().project().b);
    }

    /// A walk of the named cameras is made, measured, shown, and a click on its plot goes there.
    void walk_is_made_measured_and_clicked() {
        wait_for_rest();
        const std::size_t before = window_->document().project().walks.size();
        window_->command("walk of cameras")->trigger();
        QCOMPARE(window_->document().project().walks.size(), before + 1);
        QSignalSpy shown(window_.get(), &MainWindow::walk_shown);
        window_->command("measure walk")->trigger();
        QVERIFY(shown.wait(120000));
        WalkCut& cut = window_->deck().walk();
        QVERIFY(cut.measured().front().points.size() > 5);
        QCOMPARE(Logbook::open(logbook_path(project_.toStdString()))->records("walk")->size(), std::size_t(1));
        const std::size_t worst = cut.measured().front().worstPoint;
        QTest::mouseClick(&cut, Qt::LeftButton, {}, cut.place_of(worst).toPoint());
        QVERIFY(glm::length(window_->document().project().view.camera.eye -
                            cut.measured().front().points[worst].camera.eye) < 2.0f);
        window_->command("undo")->trigger();
        QCOMPARE(window_->document().project().walks.size(), before);
    }

    /// What was changed between two measurements of a walk is named, with its gain, over the walk and in the journal.
    void a_step_between_two_walks_is_named() {
        wait_for_rest();
        const Camera from = window_->document().project().view.camera;
        window_->document().edit("a short walk", [&](Project& p) {
            Walk w;
            w.name = "two steps";
            for (const float metres : {0.0f, 2.5f}) {
                Camera c = from;
                c.eye.x += metres;
                c.aim.x += metres;
                w.keys.push_back({double(metres), c.eye, c.aim});
            }
            p.walks.insert(p.walks.begin(), w);
        });
        QSignalSpy shown(window_.get(), &MainWindow::walk_shown);
        window_->command("measure walk")->trigger();
        QVERIFY(shown.wait(120000));
        WalkCut& cut = window_->deck().walk();
        QVERIFY(cut.step().isEmpty()); // there is none before
        QVERIFY(window_->document().set("shadow.casters", 1).has_value());
        wait_for_rest();
        window_->command("measure walk")->trigger();
        QVERIFY(shown.wait(120000));
        QVERIFY2(cut.step().contains("Casting lights") && cut.step().contains("of the walk before"),
                 qPrintable(cut.step()));
        const auto records = Logbook::open(logbook_path(project_.toStdString()))->records("walk");
        QCOMPARE(records->size(), std::size_t(2));
        const auto last = nlohmann::json::parse(records->front().document);
        QVERIFY(last.contains("step") &&
                cut.step().startsWith(QString::fromStdString(last["step"].get<std::string>())));
    }

    void a_walk_is_recorded_and_played() {
        const std::size_t before = window_->document().project().walks.size();
        window_->command("record walk")->trigger();
        const Camera start = window_->document().project().view.camera;
        for (int i = 1; i <= 4; ++i) {
            QTest::qWait(270);
            window_->document().move_camera(fly(start, {0.5f * static_cast<float>(i), 0, 0}));
        }
        QTest::qWait(270);
        window_->command("record walk")->trigger();
        QCOMPARE(window_->document().project().walks.size(), before + 1);
        QVERIFY(window_->document().project().walks.back().keys.size() >= 4);
        window_->command("play walk")->trigger();
        QTRY_VERIFY_WITH_TIMEOUT(!window_->document().interactive(), 20000);
    }

    void target_changes_the_picture_and_the_budget() {
        wait_for_rest();
        auto* combo = window_->findChild<QComboBox*>("target");
        emit combo->activated(1);
        QCOMPARE(window_->document().target().name, std::string("Desk"));
        QTRY_COMPARE_WITH_TIMEOUT(window_->bridge().last_full().width, 1280, 30000);
    }
};

MIROLUX_TEST(window_test)
#include "window_test.moc"
