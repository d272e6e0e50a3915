#include "app/choice_row.h"
#include "app/several_lights.h"
#include "core/io/file.h"
#include "window_fixture.h"
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableView>

using namespace mirolux;
using namespace mirolux::test;

/// Taking hold of objects and of several lights, with the mouse and with keys.
class hands_test : public QObject, WindowFixture {
    Q_OBJECT

    app::Viewport& picture() { return window_->viewport(); }
    app::Document& document() { return window_->document(); }
    app::Selection& selection() { return window_->selection(); }
    const Scene scene() { return document().scene(); }
    std::vector<int> named(const char* pattern) { return objects_like(*document().asset(), pattern); }
    /// A place of the picture where a ray meets one of these objects first.
    QPoint seen(const std::vector<int>& objects) {
        const QRectF r = picture().picture_rect();
        for (int y = static_cast<int>(r.top()) + 4; y < r.bottom(); y += 5)
            for (int x = static_cast<int>(r.left()) + 4; x < r.right(); x += 5)
                if (std::find(objects.begin(), objects.end(), picture().object_at(QPointF(x, y))) != objects.end())
                    return {x, y};
        return {-1, -1};
    }
    std::string saved() {
        if (!window_->save()) return {};
        const auto bytes = *read_file(project_.toStdString());
        return {bytes.begin(), bytes.end()};
    }
    /// A band over all of a rectangle, with Ctrl held.
    void pull_band(const QRectF& r) {
        const QPoint from = r.topLeft().toPoint() + QPoint(1, 1), to = r.bottomRight().toPoint() - QPoint(1, 1);
        QTest::mousePress(&picture(), Qt::LeftButton, Qt::ControlModifier, from);
        for (const QPointF p : {r.center(), QPointF(to)}) {
            QMouseEvent move(QEvent::MouseMove, p, picture().mapToGlobal(p), Qt::NoButton, Qt::LeftButton,
                             Qt::ControlModifier);
            QApplication::sendEvent(&picture(), &move);
        }
        QTest::mouseRelease(&picture(), Qt::LeftButton, Qt::ControlModifier, to);
    }
    void look_at(const char* camera) {
        for (const Camera& c : document().project().cameras)
            if (c.name == camera) document().move_camera(c);
        emit document().settled();
    }
    app::NumberField* field(QWidget* of, const char* name) {
        auto* f = of->findChild<app::NumberField*>(name);
        if (!f) qFatal("no field %s", name);
        return f;
    }

private slots:
    void init() {
        open_window();
        QApplication::setActiveWindow(window_.get()); // keys are commands of the active window
    }
    void cleanup() { close_window(); }

    /// Click, click again, Shift-click, band, search, key: each takes what it says.
    void objects_are_taken_in_the_picture_and_in_the_list() {
        wait_for_rest();
        look_at("car queue");
        const std::vector<int> car = named("car 01");
        QVERIFY(car.size() > 1);
        const QPoint at = seen(car);
        QVERIFY(at.x() >= 0);
        const int part = picture().object_at(at);
        QTest::mouseClick(&picture(), Qt::LeftButton, {}, at);
        QCOMPARE(selection().objects(), car); // the whole of it
        QTest::mouseClick(&picture(), Qt::LeftButton, {}, at);
        QCOMPARE(selection().objects(), std::vector<int>{part});
        QTest::mouseClick(&picture(), Qt::LeftButton, {}, at);
        QVERIFY(selection().objects() != std::vector<int>{part}); // what lies behind
        const QPoint other = seen(named("car 02"));
        QTest::mouseClick(&picture(), Qt::LeftButton, {}, at + QPoint(40, -300)); // the sky
        QVERIFY(selection().empty());
        QTest::mouseClick(&picture(), Qt::LeftButton, {}, at);
        QTest::mouseClick(&picture(), Qt::LeftButton, Qt::ShiftModifier, other);
        QCOMPARE(selection().objects().size(), car.size() + named("car 02").size());
        QTest::mouseClick(&picture(), Qt::LeftButton, Qt::ShiftModifier, other);
        QCOMPARE(selection().objects(), car);
        // A band takes the boxes that lie in it.
        const QRectF r = picture().picture_rect();
        const std::vector<int> inside = picture().inside(r);
        QVERIFY(inside.size() > 100);
        for (const int o : inside)
            QVERIFY(r.contains(*picture().place_of(scene().objects()[std::size_t(o)].bounds.center())));
        pull_band(r);
        QVERIFY(selection().objects().size() > 100 && selection().objects().size() <= inside.size());
        // By its name, with the keyboard alone.
        QTest::keyClick(window_.get(), Qt::Key_X);
        QVERIFY(selection().empty());
        QTest::keyClick(window_.get(), Qt::Key_V);
        auto* find = window_->objects_bench().findChild<QLineEdit*>("find objects");
        QVERIFY(find && find->isVisible());
        find->setFocus();
        QTest::keyClicks(find, "car 0?");
        QCOMPARE(window_->objects_bench().table().rowCount(), static_cast<int>(named("car 0?").size()));
        QTest::keyClick(find, Qt::Key_Return);
        QCOMPARE(selection().objects().size(), named("car 0?").size());
        // A row of the list is the object, and the other way round.
        auto* view = window_->objects_bench().findChild<QTableView*>("objects");
        view->selectRow(3);
        QCOMPARE(selection().objects(), std::vector<int>{window_->objects_bench().table().object(3)});
        selection().set_objects({window_->objects_bench().table().object(5)});
        QCOMPARE(view->selectionModel()->selectedRows().front().row(), 5);
    }

    void the_list_tells_what_each_costs_in_its_order() {
        QSignalSpy counted(window_.get(), &app::MainWindow::ledger_shown);
        window_->show_objects(true);
        QVERIFY(counted.wait(60000));
        app::ObjectTable& table = window_->objects_bench().table();
        QCOMPARE(table.rowCount(), static_cast<int>(scene().objects().size()));
        const auto text = [&](int row, int column) {
            return table.data(table.index(row, column), Qt::DisplayRole).toString();
        };
        QVERIFY(text(0, app::ObjectTable::evaluations) != QString("\u2026"));
        std::set<int> seen;
        for (int r = 0; r < table.rowCount(); ++r)
            seen.insert(table.object(r));
        QCOMPARE(seen.size(), scene().objects().size());
        table.sort(app::ObjectTable::triangles, Qt::DescendingOrder);
        const auto triangles = [&](int row) {
            const Object& o = scene().objects()[std::size_t(table.object(row))];
            return scene().asset->primitives[std::size_t(o.primitive)].indices.size() / 3;
        };
        for (int r = 1; r < table.rowCount(); ++r)
            QVERIFY(triangles(r - 1) >= triangles(r));
        table.sort(app::ObjectTable::name, Qt::AscendingOrder);
        for (int r = 1; r < table.rowCount(); ++r)
            QVERIFY(document().asset()->objectNames[std::size_t(table.object(r - 1))].name <=
                    document().asset()->objectNames[std::size_t(table.object(r))].name);
    }

    /// What is pulled follows the pointer within half a pixel, and undo brings the earlier project to the byte.
    void a_handle_moves_by_the_projected_amount_and_undo_gives_the_earlier_bytes() {
        wait_for_rest();
        look_at("car queue");
        const std::string before = saved();
        QVERIFY(!before.empty());
        const std::vector<int> car = named("car 01");
        selection().set_objects(car);
        const auto place = [&](PlaceHandle kind) {
            for (const PlacedHandle& h : picture().place_handles())
                if (h.kind == kind) return *picture().place_of(h.position);
            qFatal("no such handle");
        };
        int steps = 0;
        for (const PlaceHandle kind : {PlaceHandle::axisY, PlaceHandle::axisX, PlaceHandle::ground}) {
            const QPointF at = place(kind), pivot = place(PlaceHandle::ground);
            // Along an arm the pointer's way is the arm's own; on the ground any.
            const QPointF d = kind == PlaceHandle::ground ? QPointF(23, 9) : (at - pivot) * 0.6;
            drag(at.toPoint(), (at + d).toPoint());
            const QPointF moved = (at + d).toPoint() - at.toPoint(), now = place(kind);
            // The handle keeps its size on screen: what has moved is the pivot.
            const QPointF went = place(PlaceHandle::ground) - pivot;
            if (kind == PlaceHandle::ground)
                QVERIFY2(std::hypot(went.x() - moved.x(), went.y() - moved.y()) < 0.5,
                         qPrintable(QString("%1, %2").arg(went.x() - moved.x()).arg(went.y() - moved.y())));
            else { // along the arm's line, by the pointer's share along it
                const double n = std::hypot(d.x(), d.y()), across = (went.x() * d.y() - went.y() * d.x()) / n;
                QVERIFY2(std::abs(across) < 0.5 && n > 5, qPrintable(QString::number(across)));
                QVERIFY(std::hypot(now.x() - at.x(), now.y() - at.y()) > 3);
            }
            ++steps;
        }
        QCOMPARE(document().project().objects.size(), car.size());
        QVERIFY(saved() != before);
        for (int i = 0; i < steps; ++i) {
            QVERIFY(document().can_undo());
            QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
        }
        QVERIFY(saved() == before);
        // Turns and sizes leave the middle where it is.
        const glm::vec3 middle =
            frame_of(document().asset()->objects[std::size_t(car[0])].bounds, document().object_edit(car[0])).pivot;
        for (const PlaceHandle kind : {PlaceHandle::turnY, PlaceHandle::size}) {
            const QPointF at = place(kind), pivot = place(PlaceHandle::ground);
            drag(at.toPoint(),
                 (at + QPointF(-(at - pivot).y(), (at - pivot).x()) * 0.4 + (at - pivot) * 0.2).toPoint());
            const QPointF now = place(PlaceHandle::ground);
            QVERIFY(std::hypot(now.x() - pivot.x(), now.y() - pivot.y()) < 0.5);
        }
        const ObjectEdit e = document().object_edit(car[0]);
        QVERIFY(glm::angle(e.rotation) > 0.05f && e.scale.x != 1.0f);
        (void)middle;
    }

    /// Fields, hide, put back: each one step of the history.
    void fields_place_hide_and_put_back() {
        wait_for_rest();
        const std::vector<int> kiosk = named("ticket kiosk");
        selection().set_objects(kiosk);
        app::ObjectsBench& bench = window_->objects_bench();
        QVERIFY(bench.isVisible());
        app::NumberField* y = field(&bench, "middle y");
        const double was = y->value();
        emit y->edited(was + 2);
        QVERIFY(std::abs(y->value() - was - 2) < 1e-3);
        for (const int o : kiosk)
            QCOMPARE(document().object_edit(o).translation.y, 2.0f);
        emit field(&bench, "turn y")->edited(90);
        QCOMPARE(field(&bench, "turn y")->value(), 0.0); // it goes back: a turn by, not a turn to
        QVERIFY(std::abs(glm::degrees(glm::angle(document().object_edit(kiosk[0]).rotation)) - 90) < 0.01f);
        emit field(&bench, "size by")->edited(50);
        QVERIFY(std::abs(document().object_edit(kiosk[0]).scale.x - 0.5f) < 1e-5f);
        QVERIFY(bench.findChild<QLabel*>("object facts")->text().contains("120 triangles"));
        QTest::keyClick(window_.get(), Qt::Key_H);
        for (const int o : kiosk)
            QVERIFY(scene().objects()[std::size_t(o)].hidden);
        QVERIFY(document().undo_label().contains("hide"));
        auto* casts = bench.findChild<app::ChoiceRow*>("casts");
        QCOMPARE(casts->current(), 0);
        QTest::mouseClick(casts, Qt::LeftButton, {}, casts->cell(2).center());
        for (const int o : kiosk)
            QVERIFY(scene().objects()[std::size_t(o)].casts == Casting::no);
        QVERIFY(bench.findChild<QLabel*>("object facts")->text().contains("120 triangles"));
        document().undo();
        QCOMPARE(casts->current(), 0);
        QCOMPARE(bench.findChild<QPushButton*>("hide objects")->text(), QString("Show"));
        QTest::mouseClick(bench.findChild<QPushButton*>("put back"), Qt::LeftButton);
        QVERIFY(document().project().objects.empty());
        for (int i = 0; i < 5; ++i)
            document().undo();
        QVERIFY(!document().can_undo());
        // A drag over a field is one step.
        y->findChild<QWidget*>();
        emit y->scrubbing(true);
        for (int i = 1; i < 6; ++i)
            emit y->edited(was + i * 0.1);
        emit y->scrubbing(false);
        QVERIFY(std::abs(document().object_edit(kiosk[0]).translation.y - 0.5f) < 1e-4f);
        document().undo();
        QVERIFY(!document().can_undo());
    }

    /// Groups keep lights and objects together, under a name that can be changed.
    void groups_bring_a_selection_back() {
        wait_for_rest();
        const std::vector<int> crates = named("crate");
        const int lamp = light_named("pier bollard 01").id;
        selection().set({lamp}, crates);
        auto* keep = window_->objects_bench().findChild<QPushButton*>("keep group");
        QTest::mouseClick(keep, Qt::LeftButton);
        QCOMPARE(document().project().groups.size(), std::size_t(1));
        QCOMPARE(document().project().groups[0].objects.size(), crates.size());
        auto* groups = window_->objects_bench().findChild<QComboBox*>("groups");
        groups->lineEdit()->setFocus();
        groups->lineEdit()->selectAll();
        QTest::keyClicks(groups->lineEdit(), "cargo");
        QTest::keyClick(groups->lineEdit(), Qt::Key_Return);
        QCOMPARE(document().project().groups[0].name, std::string("cargo"));
        selection().clear();
        emit groups->activated(0);
        QCOMPARE(selection().objects(), crates);
        QCOMPARE(selection().lights(), std::vector<int>{lamp});
        // Both move together.
        const glm::vec3 was = document().light(lamp)->position;
        QVERIFY(!picture().place_handles().empty());
        look_at("pier");
        for (const PlacedHandle& h : picture().place_handles())
            if (h.kind == PlaceHandle::axisY)
                if (const auto at = picture().place_of(h.position); at && picture().rect().contains(at->toPoint())) {
                    drag(at->toPoint(), at->toPoint() + QPoint(0, -20));
                    const float rose = document().light(lamp)->position.y - was.y;
                    QVERIFY(rose > 0);
                    QVERIFY(std::abs(document().object_edit(crates[0]).translation.y - rose) < 1e-4f);
                }
        QVERIFY(window_->save());
        auto again = open_project(project_.toStdString(), {.decodeImages = false});
        QVERIFY(again.has_value() && again->project.groups == document().project().groups);
    }

    /// Pattern, type, cost, band and ledger choose lights; numbers change in proportion, in one step.
    void several_lights_are_edited_together() {
        wait_for_rest();
        window_->set_station("Lights");
        auto* lights = window_->findChild<app::LightsBench*>();
        auto* find = lights->findChild<QLineEdit*>("find lights");
        find->setFocus();
        QTest::keyClicks(find, "pier bollard*");
        QTest::keyClick(find, Qt::Key_Return);
        const std::vector<int> bollards = selection().lights();
        QVERIFY(bollards.size() > 10);
        auto* several = lights->findChild<app::SeveralLights*>();
        QVERIFY(several->isVisible());
        QVERIFY(several->findChild<QLabel*>("several")->text().startsWith(QString::number(bollards.size())));
        std::map<int, Light> before;
        for (const Light& l : document().project().lights)
            before[l.id] = l;
        app::NumberField* intensity = field(several, "all intensity");
        emit intensity->scrubbing(true);
        for (const double percent : {120.0, 180.0, 250.0})
            emit intensity->edited(percent);
        emit intensity->scrubbing(false);
        QCOMPARE(intensity->value(), 100.0);
        emit field(several, "all range")->edited(50);
        for (const Light& l : document().project().lights) {
            const bool own = std::find(bollards.begin(), bollards.end(), l.id) != bollards.end();
            QVERIFY(std::abs(l.intensity - before[l.id].intensity * (own ? 2.5f : 1.0f)) < 1e-3f * l.intensity);
            QVERIFY(std::abs(l.range - before[l.id].range * (own ? 0.5f : 1.0f)) < 1e-3f);
        }
        document().undo();
        document().undo();
        QVERIFY(!document().can_undo());
        QVERIFY(document().project().lights.front() == before[document().project().lights.front().id]);
        // By type, from the list of choices.
        auto* choose = lights->findChild<QComboBox*>("select lights");
        emit choose->activated(3);
        for (const int id : selection().lights())
            QVERIFY(document().light(id)->type == LightType::spot);
        const std::size_t spots = selection().lights().size();
        emit choose->activated(8); // the rest
        QCOMPARE(selection().lights().size(), document().project().lights.size() - spots);
        // By a band in the picture.
        const QRectF r = picture().picture_rect();
        pull_band(r);
        QVERIFY(selection().lights().size() > 5 && selection().lights().size() < document().project().lights.size());
        // On and off, all at once and in one step.
        const std::vector<int> chosen = selection().lights();
        QTest::mouseClick(several->findChild<QPushButton*>("all off"), Qt::LeftButton);
        for (const int id : chosen)
            QVERIFY(!document().light(id)->enabled);
        QTest::keyClick(window_.get(), Qt::Key_O);
        for (const int id : chosen)
            QVERIFY(document().light(id)->enabled);
        QTest::keyClick(window_.get(), Qt::Key_Delete);
        QVERIFY(!document().light(chosen.front()) && selection().empty());
        document().undo();
        QVERIFY(document().light(chosen.front()));
    }

    /// In the ledger Shift takes a run of rows, Ctrl one more; the costliest are chosen by it.
    void the_ledger_chooses_by_cost() {
        QSignalSpy counted(window_.get(), &app::MainWindow::ledger_shown);
        window_->deck().set_cut(app::CostDeck::Cut::light);
        QVERIFY(counted.wait(60000));
        app::LedgerCut& ledger = window_->deck().ledger();
        const std::vector<int> order = ledger.lights();
        const auto click = [&](int row, Qt::KeyboardModifiers with) {
            QTest::mouseClick(ledger.viewport(), Qt::LeftButton, with,
                              ledger.row_of(order[std::size_t(row)]).topLeft() + QPoint(120, 9));
        };
        click(0, {});
        QCOMPARE(selection().lights(), std::vector<int>{order[0]});
        click(3, Qt::ShiftModifier);
        QCOMPARE(selection().lights(), std::vector<int>(order.begin(), order.begin() + 4));
        click(2, Qt::ControlModifier);
        QCOMPARE(selection().lights().size(), std::size_t(3));
        auto* lights = window_->findChild<app::LightsBench*>();
        emit lights->findChild<QComboBox*>("select lights")->activated(6);
        const std::set<int> ten(order.begin(), order.begin() + 10);
        QCOMPARE(std::set<int>(selection().lights().begin(), selection().lights().end()), ten);
    }

    /// Isolation is a way of looking: the project, its undo and its file know nothing of it.
    void isolation_leaves_the_switches_alone() {
        wait_for_rest();
        const std::string before = saved();
        const std::vector<Light> was = document().project().lights;
        selection().set_lights({was[3].id, was[7].id});
        QTest::keyClick(window_.get(), Qt::Key_I);
        int shining = 0;
        for (const Light& l : scene().lights)
            shining += l.enabled;
        QCOMPARE(shining, 2);
        QVERIFY(document().project().lights == was && !document().can_undo() && !document().dirty());
        QVERIFY(window_->status_text().contains("Only 2 lights"));
        QVERIFY(saved() == before);
        // The picture is of these lights.
        QSignalSpy pictures(&window_->bridge(), &app::RenderBridge::picture_ready);
        QVERIFY(pictures.wait(60000));
        QTRY_VERIFY_WITH_TIMEOUT(window_->bridge().last_full().lightsInScene == 2, 60000);
        QTest::keyClick(window_.get(), Qt::Key_I);
        QVERIFY(document().isolated().empty());
        // What is measured is the project's own.
        QTest::keyClick(window_.get(), Qt::Key_I);
        QVERIFY(!document().isolated().empty());
        window_->log_state(3);
        QVERIFY(document().isolated().empty());
        QTRY_VERIFY_WITH_TIMEOUT(!window_->bridge().measuring(), 120000);
    }

    /// Lights that are looked at alone and then deleted, or taken back by undo, leave no dark picture behind.
    void lights_that_go_end_their_isolation() {
        const std::vector<Light> was = document().project().lights;
        const auto shining = [&] {
            int count = 0;
            for (const Light& l : scene().lights)
                count += l.enabled;
            return count;
        };
        const int all = shining();
        selection().set_lights({was[3].id, was[7].id});
        window_->command("isolate")->trigger();
        selection().set_lights({was[3].id});
        window_->command("delete")->trigger();
        QCOMPARE(document().isolated(), std::vector<int>{was[7].id});
        QCOMPARE(shining(), 1);
        selection().set_lights({was[7].id});
        window_->command("delete")->trigger();
        QVERIFY(document().isolated().empty());
        QCOMPARE(shining(), all - 2);
        document().undo();
        document().undo();
        QCOMPARE(shining(), all);
        // One that undo takes away again: it was added, looked at alone, and never was.
        window_->command("add point")->trigger();
        window_->command("isolate")->trigger();
        QCOMPARE(shining(), 1);
        document().undo();
        QVERIFY(document().isolated().empty());
        QCOMPARE(shining(), all);
    }

    /// At stations where nothing is taken by a band, pulling one changes neither selection nor project.
    void a_band_takes_what_the_station_is_about() {
        wait_for_rest();
        look_at("car queue");
        for (const char* station : {"Path", "Ambient", "Air", "Finish"}) {
            window_->set_station(station);
            selection().clear();
            pull_band(picture().picture_rect());
            QVERIFY2(selection().lights().empty() && selection().objects().empty(), station);
        }
        window_->set_station("Lights");
        pull_band(picture().picture_rect());
        QVERIFY(selection().lights().size() > 3 && selection().objects().empty());
        window_->set_station("Scene");
        pull_band(picture().picture_rect());
        QVERIFY(selection().objects().size() > 3);
        QVERIFY(!document().can_undo());
    }

    /// The rings of a light's own fade have handles; what is faded now is told.
    void fade_rings_are_pulled() {
        wait_for_rest();
        Light lamp = light_named("pier bollard 01");
        document().edit_light("fade", lamp.id, [](Light& l) {
            l.fadeInner = 2;
            l.fadeOuter = 3;
        });
        Camera c = document().project().view.camera;
        c.eye = lamp.position + glm::vec3(0, 6, 9);
        c.aim = lamp.position;
        document().move_camera(c);
        window_->select_light(lamp.id);
        const auto handle = [&](HandleKind kind) {
            for (const Handle& h : picture().handles())
                if (h.kind == kind) return picture().place_of(h.position)->toPoint();
            qFatal("no such handle");
        };
        const QPoint at = handle(HandleKind::fadeOuter), inner = handle(HandleKind::fadeInner);
        const QPoint away = at + (at - inner);
        drag(at, away);
        const float outer = document().light(lamp.id)->fadeOuter;
        QVERIFY2(outer > 3.6f && outer < 4.4f, qPrintable(QString::number(outer)));
        QVERIFY((handle(HandleKind::fadeOuter) - away).manhattanLength() <= 2);
        drag(handle(HandleKind::fadeInner), handle(HandleKind::fadeInner) + (at - inner) * 6);
        QCOMPARE(document().light(lamp.id)->fadeInner, document().light(lamp.id)->fadeOuter); // never past it
    }

    /// 500 objects, then all lights: a picture within 100 ms of the move, at the reduced size.
    void many_things_move_at_once() {
        wait_for_rest();
        window_->set_station("Scene");
        std::vector<int> many;
        for (int o = 0; o < 500; ++o)
            many.push_back(o);
        std::vector<int> lights;
        for (const Light& l : document().project().lights)
            lights.push_back(l.id);
        for (const bool objects : {true, false}) {
            if (objects)
                selection().set_objects(many);
            else
                selection().set_lights(lights);
            document().set_interactive(true);
            std::vector<double> ms;
            QSignalSpy pictures(&window_->bridge(), &app::RenderBridge::picture_ready);
            for (int i = 0; i < 24; ++i) {
                pictures.clear();
                QElapsedTimer clock;
                clock.start();
                if (objects) {
                    std::vector<ObjectEdit> edits;
                    for (const int o : many) {
                        edits.push_back(document().object_edit(o));
                        edits.back().translation.y += 0.01f;
                    }
                    document().edit_objects("move", edits, "place");
                } else
                    document().edit_lights(
                        "move", lights, [](Light& l) { l.position.y += 0.01f; }, "place");
                QVERIFY(pictures.wait(10000));
                ms.push_back(double(clock.nsecsElapsed()) * 1e-6);
            }
            document().set_interactive(false);
            std::sort(ms.begin(), ms.end());
            qInfo("%s: median %.1f ms, worst %.1f ms", objects ? "500 objects" : "all lights", ms[ms.size() / 2],
                  ms.back());
            QVERIFY2(ms[ms.size() / 2] < 100, qPrintable(QString::number(ms[ms.size() / 2])));
            QCOMPARE(document().can_undo(), true);
            wait_for_rest();
        }
        document().undo();
        document().undo();
        QVERIFY(!document().can_undo());
    }
};

MIROLUX_TEST(hands_test)
#include "hands_test.moc"
