#include "app/figures/stage_figures.h"
#include "app/flat_light_bench.h"
#include "app/setting_editor.h"
#include "app/stage_bench.h"
#include "app/truth_engine.h"
#include "window_fixture.h"
#include <QButtonGroup>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QToolButton>

using namespace mirolux;
using namespace mirolux::app;
using namespace mirolux::test;

/// A flat stage in the window: its own benches, and lights, sprites and walls taken hold of in the picture.
class flat_window_test : public QObject, WindowFixture {
    Q_OBJECT
    Document& d() { return window_->document(); }
    const flat::World& stage() { return *d().project().flat; }
    const flat::Sprite& sprite_named(const std::string& name) {
        for (const flat::Sprite& s : stage().sprites)
            if (s.name == name) return s;
        qFatal("no sprite %s", name.c_str());
    }
    QPoint on(const glm::vec2& unit) { return at(glm::vec3(unit, 0)); }
    template <class T>
    T* child(const char* name) {
        T* found = window_->findChild<T*>(name);
        if (!found) qFatal("no %s", name);
        return found;
    }
    void click(const QPoint& p) { QTest::mouseClick(&window_->viewport(), Qt::LeftButton, {}, p); }

    /// From the move of a lamp to the picture of it, over a drag: the median.
    double drag_latency() {
        window_->set_station("Lights");
        const Light l = light_named("lantern 1");
        window_->select_light(l.id);
        (void)QTest::qWaitFor([&] { return window_->bridge().resting(); }, 30000);
        const std::size_t before = window_->bridge().quick_latencies().size();
        // One drag of many moves: what was under way when it began does not stand before most of them.
        Viewport* v = &window_->viewport();
        const QPoint from = on(glm::vec2(light_named("lantern 1").position));
        QTest::mouseMove(v, from);
        QTest::mousePress(v, Qt::LeftButton, {}, from);
        for (int i = 1; i <= 90; ++i) { // as a hand sends them: a pause would ask for the whole frame
            const QPoint to = from + QPoint(i / 3, i / 6);
            QMouseEvent move(QEvent::MouseMove, to, v->mapToGlobal(to), Qt::NoButton, Qt::LeftButton, {});
            QApplication::sendEvent(v, &move);
            QTest::qWait(12);
        }
        QTest::mouseRelease(v, Qt::LeftButton, {}, from + QPoint(30, 15));
        std::vector<double> times(window_->bridge().quick_latencies().begin() + static_cast<long>(before),
                                  window_->bridge().quick_latencies().end());
        std::sort(times.begin(), times.end());
        return times.empty() ? 1e9 : times[times.size() / 2];
    }

    /// The best of up to three drags: a machine with other work answers one of them late.
    double best_drag(double enough) {
        double best = 1e9;
        for (int drag = 0; drag < 3 && best >= enough; ++drag) {
            const double median = drag_latency();
            qInfo("median %.1f ms", median);
            best = std::min(best, median);
        }
        return best;
    }

private slots:
    void initTestCase() {
        // Its sheets stand beside its scene file: the project's copy names that one.
        auto open = open_project(QFileInfo(MIROLUX_DEMO).dir().filePath("net-loft.mirolux").toStdString());
        QVERIFY2(open.has_value(), open ? "" : to_text(open.error()).c_str());
        Project p = open->project;
        p.targets = {plain_target("Small", 640, 360, 50)};
        p.target = 0;
        p.targetByDevice = false;
        p.path = folder_.filePath("loft.mirolux").toStdString();
        QVERIFY(save_project(p, *open->asset, p.path).has_value());
        window_ = std::make_unique<MainWindow>(options());
        window_->show();
        QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
        QVERIFY(window_->open(QString::fromStdString(p.path), false));
        wait_for_rest();
    }
    void cleanupTestCase() { close_window(); }
    void cleanup() {
        while (d().can_undo())
            d().undo();
    }

    void stations_show_what_a_flat_stage_has() {
        for (QToolButton* b : window_->findChildren<QToolButton*>())
            if (b->text() == "Air") QVERIFY(!b->isVisibleTo(window_.get()));
        window_->set_station("Scene");
        QVERIFY(window_->findChild<StageBench*>()->isVisible());
        QVERIFY(child<QListWidget>("pieces")->count() >=
                static_cast<int>(stage().sprites.size() + stage().walls.size()));
        window_->set_station("Path");
        QVERIFY(window_->findChild<WayFigure*>()->isVisible());
        window_->set_station("Shadows");
        auto* seen = window_->findChild<SeenFigure*>();
        QVERIFY(seen->isVisible());
        seen->grab();
        const double first = seen->seen_share().value_or(0);
        QVERIFY(first > 0.1 && first < 1);
        QTest::keyClick(seen, Qt::Key_Right);
        seen->grab();
        QVERIFY(seen->seen_share().value_or(0) != first);
    }

    void a_light_is_dragged_and_sized_in_the_picture() {
        window_->set_station("Lights");
        const Light before = light_named("lantern 3");
        window_->select_light(before.id);
        QVERIFY(window_->findChild<FlatLightBench*>()->isVisible());
        drag(on(glm::vec2(before.position)), on(glm::vec2(before.position) + glm::vec2(20, -30)));
        const Light moved = light_named("lantern 3");
        QVERIFY(std::abs(moved.position.x - before.position.x - 20) < 2 &&
                std::abs(moved.position.y - before.position.y + 30) < 2);
        QCOMPARE(moved.position.z, before.position.z);
        const float reach = moved.range * 0.7071f;
        drag(on(glm::vec2(moved.position) + glm::vec2(reach, -reach)),
             on(glm::vec2(moved.position) + glm::vec2(40, -40)));
        QVERIFY(std::abs(light_named("lantern 3").range - 56.6f) < 4);
        d().undo();
        d().undo();
        QVERIFY(light_named("lantern 3") == before);
    }

    void a_sprite_is_taken_moved_turned_and_put_back() {
        window_->set_station("Scene");
        const flat::Sprite before = sprite_named("coil 2");
        click(on(before.place + glm::vec2(9, 0))); // on its rope, not in its hole
        QCOMPARE(child<QLineEdit>("piece name")->text(), QString("coil 2"));
        drag(on(before.place + glm::vec2(9, 0)), on(before.place + glm::vec2(29, 15)));
        const flat::Sprite moved = sprite_named("coil 2");
        QVERIFY(glm::length(moved.place - before.place - glm::vec2(20, 15)) < 2);
        auto* turn = child<NumberField>("sprite turn");
        turn->put(45);
        QVERIFY(std::abs(sprite_named("coil 2").turn - 0.785398f) < 1e-4);
        d().undo();
        d().undo();
        QVERIFY(sprite_named("coil 2") == before);
        for (QPushButton* b : window_->findChild<StageBench*>()->findChildren<QPushButton*>())
            if (b->text() == "Delete") b->click();
        for (const flat::Sprite& s : stage().sprites)
            QVERIFY(s.name != "coil 2");
    }

    void walls_are_pulled_by_their_points() {
        window_->set_station("Shadows");
        const auto inner = [this]() -> const flat::Wall& {
            for (const flat::Wall& w : stage().walls)
                if (w.name == "inner wall") return w;
            qFatal("no inner wall");
        };
        click(on({235, 60})); // its left edge
        QVERIFY(inner().outline.points.size() == 4);
        drag(on({245, 107}), on({262, 120}));
        QVERIFY(glm::length(inner().outline.points[2] - glm::dvec2(262, 120)) < 2);
        drag(on({235, 58.5}), on({222, 58.5})); // the middle of its left edge becomes a point
        QCOMPARE(inner().outline.points.size(), std::size_t(5));
        const glm::dvec2 fresh = inner().outline.points[4];
        QVERIFY(std::abs(fresh.x - 222) < 2);
        drag(on(fresh), on({235, 107})); // onto its neighbour: gone again
        QCOMPARE(inner().outline.points.size(), std::size_t(4));
        for (int i = 0; i < 3; ++i)
            d().undo();
        QCOMPARE(inner().outline.points.size(), std::size_t(4));
        QVERIFY(glm::length(inner().outline.points[2] - glm::dvec2(245, 107)) < 1e-9);
    }

    void the_wheel_goes_near_what_lies_under_the_pointer() {
        const QPoint p = on({316, 190});
        const Camera before = d().project().view.camera;
        QWheelEvent wheel(p, window_->viewport().mapToGlobal(p), {}, {0, 480}, Qt::NoButton, {}, Qt::NoScrollPhase,
                          false);
        QApplication::sendEvent(&window_->viewport(), &wheel);
        QVERIFY(d().project().view.camera.span < before.span * 0.7f);
        QVERIFY((on({316, 190}) - p).manhattanLength() <= 2);
        d().move_camera(before);
    }

    void what_is_edited_is_kept_and_read_again() {
        window_->set_station("Scene");
        d().edit_stage("wall", [](flat::World& w) { (void)flat::add_wall(w, {150, 60}, 20); });
        QVERIFY(d().save(QString::fromStdString(d().project().path)).has_value());
        const auto again = open_project(d().project().path);
        QVERIFY2(again.has_value(), again ? "" : to_text(again.error()).c_str());
        QVERIFY(*again->project.flat == stage());
    }

    void a_second_click_takes_what_lies_behind_and_another_place_does_not() {
        window_->set_station("Scene");
        const QPoint stove = on(sprite_named("stove").place);
        click(stove);
        QCOMPARE(d().project().flat->sprite(window_->selection().piece().id)->name, std::string("stove"));
        click(on(sprite_named("stove").place + glm::vec2(6, 4))); // still the stove, elsewhere on it
        QCOMPARE(d().project().flat->sprite(window_->selection().piece().id)->name, std::string("stove"));
        click(on(sprite_named("stove").place + glm::vec2(6, 4))); // again: the floor has no sprite, so from the front
        QCOMPARE(d().project().flat->sprite(window_->selection().piece().id)->name, std::string("stove"));
        click(on({140, 210}));
        QVERIFY(window_->selection().piece().none());
    }

    void what_a_flat_stage_has_not_is_not_offered() {
        for (const char* name : {"objects", "cheap lights", "head lamp", "audit shadows"})
            QVERIFY2(!window_->command(name)->isEnabled(), name);
        window_->set_station("Scene");
        click(on(sprite_named("stove").place));
        QVERIFY(window_->command("duplicate")->isEnabled());
        const std::size_t before = stage().sprites.size();
        window_->command("duplicate")->trigger();
        QCOMPARE(stage().sprites.size(), before + 1);
        window_->command("delete")->trigger();
        QCOMPARE(stage().sprites.size(), before);
    }

    /// Light that travels: its figure follows the levels, walls get a colour that they shine in, truth stands beside
    /// it.
    void cascades_are_drawn_and_held_against_truth() {
        window_->set_station("Path");
        auto* figure = window_->findChild<CascadesFigure*>();
        QVERIFY(figure && !figure->isVisibleTo(window_.get()));
        d().edit("way", [](Project& p) { (void)p.setup.set_text("flat.kind", "cascades"); });
        QVERIFY(figure->isVisibleTo(window_.get()));
        QCOMPARE(figure->shape().levels.size(), std::size_t(5));
        const int tall = figure->height();
        d().edit("levels", [](Project& p) { (void)p.setup.set_text("cascades2d.levels", "3"); });
        QCOMPARE(figure->shape().levels.size(), std::size_t(3));
        QVERIFY(figure->height() < tall);
        const QImage before = figure->grab().toImage();
        QTest::mouseMove(figure, QPoint(30, 20));
        QTest::mouseMove(figure, QPoint(40, figure->height() - 10)); // the last level's line
        QTRY_VERIFY(figure->grab().toImage() != before);
        d().undo();
        wait_for_rest();

        window_->set_station("Scene");
        const flat::Wall wall = stage().walls.front();
        window_->selection().set_piece({flat::PieceKind::wall, wall.id});
        QVERIFY(child<QWidget>("wall shines")->isVisibleTo(window_.get()));
        emit child<ColorSwatch>("wall shines")->edited(glm::vec3(0.8f, 0.2f, 0.1f));
        QCOMPARE(stage().walls.front().emits, glm::vec3(0.8f, 0.2f, 0.1f));
        emit child<ColorSwatch>("wall throws back")->edited(glm::vec3(0.9f));
        QCOMPARE(stage().walls.front().reflects, glm::vec3(0.9f));
        QVERIFY(child<NumberField>("wall height")->isVisibleTo(window_.get()));
        emit child<NumberField>("wall height")->edited(14);
        QCOMPARE(stage().walls.front().height, 14.0f);
        d().undo();
        QCOMPARE(stage().walls.front().height, wall.height);
        d().undo();
        d().undo();
        QCOMPARE(stage().walls.front().emits, glm::vec3(0.0f));
        wait_for_rest();

        window_->show_truth(true);
        QTRY_VERIFY_WITH_TIMEOUT(
            window_->truth_state() && window_->truth_state()->samples >= 4 && window_->truth_state()->distance, 60000);
        QVERIFY(window_->truth_state()->distance->mean < 0.6);
        window_->show_truth(false);
        window_->selection().set_piece({});
    }

    /// How large a light is can be set where it matters, and nowhere else.
    void a_lights_size_is_set_where_light_travels() {
        window_->set_station("Lights");
        window_->select_light(light_named("lantern 1").id);
        auto* across = child<NumberField>("flat across");
        QVERIFY(!across->isVisibleTo(window_.get()));
        d().edit("way", [](Project& p) { (void)p.setup.set_text("flat.kind", "cascades"); });
        QVERIFY(across->isVisibleTo(window_.get()) &&
                !child<NumberField>("flat angle across")->isVisibleTo(window_.get()));
        emit across->edited(12);
        QCOMPARE(light_named("lantern 1").sourceSize, 12.0f);
    }

    /// From the move of a lamp to the picture of it where light travels.
    void dragging_a_lamp_whose_light_travels_answers_soon() {
        d().edit("way", [](Project& p) { (void)p.setup.set_text("flat.kind", "cascades"); });
        wait_for_rest(); // its programs are built, and what it costs is known
        const double median = best_drag(250);
        QVERIFY(median < 250); // 88 to 93 ms on two cores
    }

    void dragging_a_lamp_answers_soon() {
        const double median = best_drag(120);
        QVERIFY(median < 120); // 38 ms on two cores
    }
};

MIROLUX_TEST(flat_window_test)
#include "flat_window_test.moc"
