#include "app/choice_row.h"
#include "app/number_field.h"
#include "app/outside_view.h"
#include "app/visibility_row.h"
#include "core/motion/scene_at.h"
#include "window_fixture.h"
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QSlider>

using namespace mirolux;
using namespace mirolux::app;
using namespace mirolux::test;

/// Visibility at the Path station: rooms, doors, cells, and the scene from outside.
class visibility_window_test : public QObject, WindowFixture {
    Q_OBJECT
    Document& doc() { return window_->document(); }
    VisibilityRow* row() { return window_->findChild<VisibilityRow*>(); }
    QListWidget* doors() { return row()->findChild<QListWidget*>("doors"); }
    QString state() { return row()->findChild<QLabel*>("visibility state")->text(); }
    QPushButton* button(const char* name) { return row()->findChild<QPushButton*>(name); }
    void choose(const char* kind) { QVERIFY(doc().set("visibility.kind", std::string(kind)).has_value()); }
    int object(const std::string& id) {
        const auto& names = doc().asset()->objectNames;
        for (std::size_t i = 0; i < names.size(); ++i)
            if (names[i].id == id) return int(i);
        return -1;
    }
    void move(const std::string& id, const glm::vec3& by) {
        ObjectEdit e = doc().object_edit(object(id));
        e.translation += by;
        doc().edit_objects("move", {e});
    }
    void look(const glm::vec3& eye, const glm::vec3& aim) {
        Camera c = doc().project().view.camera;
        c.eye = eye;
        c.aim = aim;
        doc().move_camera(c);
    }

private slots:
    void initTestCase() { use_theme(*qApp, true); }
    void init() {
        open_window();
        QApplication::setActiveWindow(window_.get());
        window_->set_station("Path");
        QVERIFY(!row()->isVisible()); // the frustum needs nothing beforehand
    }
    void cleanup() { close_window(); }

    void rooms_are_found_and_doors_opened_and_closed() {
        choose("portals");
        QVERIFY(row()->isVisible());
        QVERIFY2(state().contains("No rooms"), qPrintable(state()));
        QCOMPARE(doors()->count(), 7);
        QVERIFY(doors()->item(3)->text().contains("open"));
        QSignalSpy computed(row(), &VisibilityRow::computed);
        QTest::mouseClick(button("compute visibility"), Qt::LeftButton);
        QCOMPARE(button("compute visibility")->text(), QString("Stop"));
        QVERIFY(computed.wait(120000));
        QVERIFY2(state().contains("4 rooms by 7 doors"), qPrintable(state()));
        QVERIFY(QFile::exists(QString::fromStdString(
            rooms_file(doc().scene().bakes, rooms_digest(doc().scene(), doc().project().setup)).string())));
        // From within the second room, its gate and roller doors shut: little is drawn.
        look({-9.5f, 1.7f, -33}, {-6, 1.5f, -33});
        const auto drawn = [&] {
            return build_draw_list(doc().scene(), doc().project().setup, doc().project().view).opaque.size();
        };
        const std::size_t open = drawn();
        for (const char* leaf : {"roller door 01", "roller door 02", "roller door 03"})
            move(leaf, {0, 3.35f, 0});
        for (const char* leaf : {"workshop gate 01", "workshop gate 02", "workshop gate 03", "workshop gate 04"})
            move(leaf, {0, 4.45f, 0});
        QVERIFY2(doors()->item(3)->text().contains("closed"), qPrintable(doors()->item(3)->text()));
        QVERIFY2(state().contains("4 rooms"), qPrintable(state())); // leaves are no walls: the rooms stay
        const std::size_t closed = drawn();
        QVERIFY2(closed * 3 < open, qPrintable(QString("%1 of %2").arg(closed).arg(open)));
        doc().undo();
        QVERIFY(doors()->item(6)->text().contains("open"));
        // A door with a leaf is opened by that.
        doors()->setCurrentRow(3);
        QVERIFY(!row()->findChild<NumberField*>("door open")->isEnabled());
    }

    void a_door_is_placed_where_the_camera_looks() {
        choose("portals");
        look({-9.5f, 1.7f, -33.2f}, {-13, 1.4f, -32.9f}); // through the first roller door
        window_->command("place door")->trigger();
        QCOMPARE(doors()->count(), 8);
        const Door d = doc().project().doors.back();
        QVERIFY2(std::abs(d.center.x + 13) < 0.15f && std::abs(d.center.z + 33) < 0.1f &&
                     std::abs(d.size.x - 3) < 0.05f,
                 qPrintable(QString("%1 %2, %3 wide").arg(d.center.x).arg(d.center.z).arg(d.size.x)));
        QVERIFY(std::abs(std::sin(d.turn)) > 0.99f); // it faces along x
        QVERIFY(d.size.y > 2 && d.size.y < 2.4f);
        QCOMPARE(row()->chosen_door(), d.id);
        auto* open = row()->findChild<NumberField*>("door open");
        QVERIFY(open->isEnabled());
        open->put(40);
        QVERIFY(std::abs(doc().project().doors.back().open - 0.4f) < 1e-6f);
        QVERIFY(doors()->item(7)->text().contains("40 %"));
        emit doors()->itemDoubleClicked(doors()->item(7));
        QCOMPARE(doc().project().doors.back().open, 1.0f);
        QTest::mouseClick(button("delete door"), Qt::LeftButton);
        QCOMPARE(doors()->count(), 7);
        doc().undo();
        QCOMPARE(doors()->count(), 8);
        // Kept in the project.
        const std::string text = project_text(doc().project(), *doc().asset(), doc().project().path);
        QVERIFY(text.find("\"door 8\"") != std::string::npos);
        // Into the open there is no opening.
        look({-20, 1.7f, 20}, {-20, 1.7f, 60});
        QSignalSpy said(row(), &VisibilityRow::said);
        window_->command("place door")->trigger();
        QCOMPARE(said.count(), 1);
        QCOMPARE(doors()->count(), 8);
    }

    void a_room_is_drawn_by_hand() {
        choose("portals");
        auto* list = row()->findChild<QListWidget*>("drawn rooms");
        QVERIFY(list && !list->isVisible() && !button("delete room")->isEnabled());
        look({-9.5f, 1.7f, -33.5f}, {-6, 1.5f, -33});
        QTest::mouseClick(button("draw room"), Qt::LeftButton);
        QCOMPARE(list->count(), 1);
        QVERIFY(list->isVisible());
        const DrawnRoom drawn = doc().project().drawnRooms.front();
        QCOMPARE(row()->chosen_room(), drawn.id);
        // The second room of the workshop: 7 x 9 m.
        const glm::vec3 size = drawn.high - drawn.low;
        QVERIFY2(size.x > 6 && size.x < 7.2f && size.z > 7 && size.z < 9.2f && size.y > 2.5f,
                 qPrintable(QString("%1 x %2 x %3").arg(size.x).arg(size.y).arg(size.z)));
        row()->findChild<NumberField*>("room side 4")->put(-36);
        QCOMPARE(doc().project().drawnRooms.front().low.z, -36.0f);
        QVERIFY(project_text(doc().project(), *doc().asset(), doc().project().path).find("\"room 1\"") !=
                std::string::npos);
        // Its side dragged in the view from outside.
        QSignalSpy outside(window_.get(), &MainWindow::outside_drawn);
        window_->command("outside")->trigger();
        QVERIFY(outside.wait(120000));
        OutsideCanvas& canvas = window_->outside().canvas();
        const auto grip = canvas.handle(doc().project().drawnRooms.front(), 0);
        QVERIFY(grip.has_value());
        const auto metre = canvas.handle({0, "", drawn.low - glm::vec3(1, 0, 0), drawn.high}, 0);
        QVERIFY(metre.has_value());
        const QPoint from = grip->toPoint(), to = from + (*metre - *canvas.handle(drawn, 0)).toPoint();
        QTest::mousePress(&canvas, Qt::LeftButton, {}, from);
        QMouseEvent drag(QEvent::MouseMove, to, canvas.mapToGlobal(to), Qt::NoButton, Qt::LeftButton, {});
        QApplication::sendEvent(&canvas, &drag);
        QTest::mouseRelease(&canvas, Qt::LeftButton, {}, to);
        const float moved = doc().project().drawnRooms.front().low.x - drawn.low.x;
        QVERIFY2(std::abs(moved + 1) < 0.15f, qPrintable(QString::number(moved)));
        doc().undo();
        QCOMPARE(doc().project().drawnRooms.front().low.x, drawn.low.x);
        window_->command("outside")->trigger();
        QTest::mouseClick(button("delete room"), Qt::LeftButton);
        QVERIFY(doc().project().drawnRooms.empty() && !list->isVisible());
        doc().undo();
        QCOMPARE(doc().project().drawnRooms.size(), std::size_t(1));
    }

    void cells_are_computed_stopped_and_gone_on_with() {
        doc().edit("cells", [](Project& p) {
            for (const auto& [key, value] : {std::pair("visibility.kind", "cells"),
                                             {"visibility.cell", "2"},
                                             {"visibility.patch", "2"},
                                             {"visibility.aimed", "8"}})
                (void)p.setup.set_text(key, value);
        });
        QVERIFY(row()->isVisible() && !doors()->isVisible());
        QVERIFY2(state().contains("No cells"), qPrintable(state()));
        QSignalSpy computed(row(), &VisibilityRow::computed);
        window_->command("compute visibility")->trigger();
        QTest::mouseClick(button("compute visibility"), Qt::LeftButton); // stop
        QVERIFY(computed.wait(60000));
        QVERIFY(!row()->computing());
        window_->command("compute visibility")->trigger();
        QVERIFY(computed.wait(120000));
        QVERIFY2(state().contains(QRegularExpression("\\d+ cells: [\\d.]+ objects of \\d+")), qPrintable(state()));
        const auto left = [&] {
            return build_draw_list(doc().scene(), doc().project().setup, doc().project().view).leftOut.size();
        };
        look(doc().project().walks[1].keys[3].eye, doc().project().walks[1].keys[3].aim);
        QVERIFY(left() > 50);
        // What stands still has been moved: they hold no more, until it is put back.
        move("container 05", {0, 0, 1});
        QVERIFY2(state().contains("No cells"), qPrintable(state()));
        QCOMPARE(left(), std::size_t(0));
        doc().undo();
        QVERIFY(left() > 50);
        // Marked as still where it stands, or as moving.
        window_->set_station("Scene");
        window_->selection().set_objects({object("container 05")});
        auto* stands = window_->findChild<ChoiceRow*>("stands");
        QVERIFY(stands);
        emit stands->chosen(2);
        QCOMPARE(doc().object_edit(object("container 05")).standing, Standing::moving);
        QCOMPARE(movers(doc().scene())[std::size_t(object("container 05"))], Moves::byHand);
        doc().undo();
        QCOMPARE(movers(doc().scene())[std::size_t(object("container 05"))], Moves::still);
    }

    void the_scene_is_seen_from_outside() {
        choose("portals");
        QSignalSpy computed(row(), &VisibilityRow::computed);
        window_->command("compute visibility")->trigger();
        QVERIFY(computed.wait(120000));
        look({-9.5f, 1.7f, -33}, {-6, 1.5f, -33});
        QSignalSpy drawn(window_.get(), &MainWindow::outside_drawn);
        window_->command("outside")->trigger();
        QVERIFY(window_->outside_shown());
        QVERIFY(drawn.wait(120000));
        OutsideCanvas& canvas = window_->outside().canvas();
        const auto settled = [&] {
            return QTest::qWaitFor([&] { return canvas.answer() && !window_->outside().busy(); }, 120000);
        };
        QVERIFY(settled());
        const OutsideAnswer& a = *canvas.answer();
        QCOMPARE(a.leftOutSeen, 0);
        QCOMPARE(a.eyes, 27);
        QCOMPARE(a.allEyes, 27);
        QVERIFY(a.drawnCount > 5 && a.drawnCount < a.inFrustum);
        QVERIFY(!a.sight.chain.empty());
        const QString told = window_->outside().findChild<QLabel*>("outside told")->text();
        QVERIFY2(told.contains("are drawn") && told.contains("27 of 27 eyes"), qPrintable(told));
        // The eye stands in it, with more before it than behind; the picture is of something.
        const auto eye = canvas.place(doc().project().view.camera.eye);
        QVERIFY(eye && canvas.rect().contains(eye->toPoint()));
        std::set<QRgb> colors;
        const QImage shot = canvas.grab().toImage();
        for (int y = 0; y < shot.height(); y += 7)
            for (int x = 0; x < shot.width(); x += 7)
                colors.insert(shot.pixel(x, y));
        QVERIFY(colors.size() > 20);
        // Turned, and the eye moved along a walk.
        const QPoint from = canvas.rect().center();
        const auto door = canvas.place(doc().project().doors[0].center);
        QTest::mousePress(&canvas, Qt::LeftButton, {}, from);
        QMouseEvent turn(QEvent::MouseMove, from + QPoint(60, 0), canvas.mapToGlobal(from + QPoint(60, 0)),
                         Qt::NoButton, Qt::LeftButton, {});
        QApplication::sendEvent(&canvas, &turn);
        QTest::mouseRelease(&canvas, Qt::LeftButton, {}, from + QPoint(60, 0));
        QVERIFY(QLineF(*door, *canvas.place(doc().project().doors[0].center)).length() > 5);
        const glm::vec3 before = doc().project().view.camera.eye;
        window_->outside().findChild<QSlider*>("outside time")->setValue(400);
        QVERIFY(glm::length(doc().project().view.camera.eye - before) > 1);
        QVERIFY(drawn.wait(60000) && settled());
        window_->command("outside")->trigger();
        QVERIFY(!window_->outside_shown());
    }
};

MIROLUX_TEST(visibility_window_test)
#include "visibility_window_test.moc"
