#include "app/cheap_lights_bench.h"
#include "app/number_field.h"
#include "app/ramp_figure.h"
#include "window_fixture.h"
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>

using namespace mirolux;
using namespace mirolux::app;
using namespace mirolux::test;

/// Cheap lights are laid on, shaped in their figure and in the picture, and stand in the ledger beside their lamps.
class cheap_lights_window_test : public QObject, WindowFixture {
    Q_OBJECT
    CheapLightsBench* bench_ = nullptr;
    RampFigure* figure_ = nullptr;

    Document& d() { return window_->document(); }
    const std::vector<CheapLight>& all() { return d().project().cheapLights; }
    template <class T>
    T* child(const char* name) {
        T* found = window_->findChild<T*>(name);
        if (!found) qFatal("no %s", name);
        return found;
    }
    void click(const char* name) { QTest::mouseClick(child<QPushButton>(name), Qt::LeftButton); }
    void drag_figure(const QPointF& from, const QPointF& to) {
        QTest::mousePress(figure_, Qt::LeftButton, {}, from.toPoint());
        for (const double t : {0.5, 1.0}) {
            const QPointF p = from + (to - from) * t;
            QMouseEvent move(QEvent::MouseMove, p, figure_->mapToGlobal(p.toPoint()), Qt::NoButton, Qt::LeftButton, {});
            QApplication::sendEvent(figure_, &move);
        }
        QTest::mouseRelease(figure_, Qt::LeftButton, {}, to.toPoint());
    }

private slots:
    void initTestCase() {
        open_window();
        wait_for_rest();
        d().edit("none", [](Project& p) { p.cheapLights.clear(); });
        window_->command("cheap lights")->trigger();
        bench_ = window_->findChild<CheapLightsBench*>();
        figure_ = window_->findChild<RampFigure*>();
        QVERIFY(bench_->isVisible() && !figure_->isVisible());
    }
    void cleanupTestCase() { close_window(); }

    void a_rim_is_laid_on_and_taken_back() {
        click("add rim");
        QCOMPARE(all().size(), std::size_t(1));
        QCOMPARE(d().project().setup.choice("viewLights.kind"), std::string("ramp"));
        QVERIFY(figure_->isVisible());
        d().undo();
        QVERIFY(all().empty() && d().project().setup.choice("viewLights.kind") == "none");
        d().redo();
        QCOMPARE(all().size(), std::size_t(1));
    }

    /// A drag over the ball is one step; beyond its edge the far side begins.
    void the_ball_turns_it_and_stops_are_dragged() {
        const CheapLight before = all()[0];
        const QRectF ball = figure_->ball();
        drag_figure(ball.center(), ball.center() + QPointF(0.3 * ball.width(), 0));
        QVERIFY(std::abs(all()[0].toward.x - 0.6f) < 0.03f && std::abs(all()[0].toward.z - 0.8f) < 0.03f);
        drag_figure(ball.center(), ball.center() + QPointF(0, -0.6 * ball.height()));
        QVERIFY(all()[0].toward.y > 0.7f && all()[0].toward.z < 0);
        d().undo();
        d().undo();
        QVERIFY(all()[0] == before);
        const QPointF stop = figure_->place_of(1);
        drag_figure(stop, stop + QPointF(0.05 * figure_->strip().width(), 0));
        QVERIFY(std::abs(all()[0].ramp[1].at - before.ramp[1].at - 0.05f) < 0.02f);
        QCOMPARE(figure_->stop(), 1);
        drag_figure(figure_->place_of(1), figure_->strip().topRight() + QPointF(60, 10));
        QCOMPARE(all()[0].ramp[1].at, before.ramp[2].at); // never past its neighbour
        QTest::mouseDClick(figure_, Qt::LeftButton, {}, figure_->strip().center().toPoint() - QPoint(60, 0));
        QCOMPARE(all()[0].ramp.size(), std::size_t(4));
        QTest::mouseDClick(figure_, Qt::LeftButton, {}, figure_->strip().center().toPoint());
        QCOMPARE(all()[0].ramp.size(), most_ramp_stops);
        click("delete stop");
        QCOMPARE(all()[0].ramp.size(), std::size_t(3));
        QTest::keyClick(figure_, Qt::Key_Up);
        QTest::keyClick(figure_, Qt::Key_Up);
        const float at = all()[0].ramp[0].at;
        QTest::keyClick(figure_, Qt::Key_Left);
        QVERIFY(std::abs(all()[0].ramp[0].at - at + 0.01f) < 1e-5f);
    }

    void its_numbers_blend_and_objects() {
        child<NumberField>("cheap luminance")->put(2.5);
        child<NumberField>("stop amount")->put(0.25);
        QCOMPARE(all()[0].luminance, 2.5f);
        QCOMPARE(all()[0].ramp[static_cast<std::size_t>(figure_->stop())].amount, 0.25f);
        auto* blend = child<QComboBox>("cheap blend");
        blend->setCurrentIndex(2);
        emit blend->activated(2);
        QVERIFY(all()[0].blend == CheapBlend::screen);
        auto* objects = child<QLineEdit>("cheap objects");
        objects->setFocus();
        QTest::keyClicks(objects, "*bollard*");
        QTest::keyClick(objects, Qt::Key_Return);
        QVERIFY(all()[0].objects.size() > 5);
        objects->selectAll();
        QTest::keyClicks(objects, "no such thing");
        QTest::keyClick(objects, Qt::Key_Return);
        QVERIFY(all()[0].objects.size() > 5 && child<QLabel>("cheap facts")->text().contains("no such thing"));
        objects->selectAll();
        QTest::keyClick(objects, Qt::Key_Delete);
        QTest::keyClick(objects, Qt::Key_Return);
        QVERIFY(all()[0].objects.empty());
    }

    /// A cone hangs over what the picture's middle shows; its handles move it there and its numbers follow.
    void a_cone_is_placed_in_the_picture() {
        click("add cone");
        QCOMPARE(all().size(), std::size_t(2));
        QVERIFY(!figure_->isVisible());
        const CheapLight before = all()[1];
        Viewport& v = window_->viewport();
        const std::vector<Handle> handles = v.handles();
        QVERIFY(handles.size() >= 5);
        for (const Handle& h : handles)
            if (h.kind == HandleKind::ground)
                if (const auto place = v.place_of(h.position); place && v.picture_rect().contains(*place))
                    drag(place->toPoint(), place->toPoint() + QPoint(30, 0));
        QVERIFY(glm::length(all()[1].position - before.position) > 0.05f);
        QVERIFY(std::abs(child<NumberField>("cheap x")->value() - all()[1].position.x) < 1e-3);
        d().undo();
        QVERIFY(all()[1] == before);
        child<NumberField>("cheap angle")->put(20);
        QVERIFY(std::abs(all()[1].angle - 0.349f) < 1e-3f);
        child<NumberField>("cheap elevation")->put(0);
        child<NumberField>("cheap azimuth")->put(90);
        QVERIFY(glm::length(all()[1].direction - glm::vec3(1, 0, 0)) < 1e-3f);
        d().undo();
        d().undo();
    }

    /// Lamps are selected beside it; then it stands for them, and is held against them with one click.
    void it_stands_for_lamps() {
        const int lamp = light_named("quay bollard 06").id;
        window_->select_light(lamp);
        QVERIFY(bench_->isVisible()); // the bench stays
        click("stands for selected");
        QCOMPARE(all()[1].standsFor, std::vector<int>{lamp});
        QVERIFY(child<QLabel>("stands for")->text().contains("quay bollard 06"));
        const Setup before = d().project().setup;
        click("against lamps");
        QVERIFY(d().project().setup.flag("cheapLights.instead") && d().project().b);
        QVERIFY(d().project().b->choice("viewLights.kind") == "none" &&
                d().project().b->choice("solidLights.kind") == "none");
        d().undo();
        QVERIFY(d().project().setup == before && !d().project().b);
    }

    /// Counted by the worker: so many pixels, so much time, beside its lamp's; the row's box switches, a click opens.
    void the_ledger_shows_both() {
        d().edit("a large one", [](Project& p) {
            p.cheapLights[1].reach = 40;
            p.cheapLights[1].angle = 1.2f;
        });
        window_->deck().set_cut(CostDeck::Cut::light);
        LedgerCut& cut = window_->deck().ledger();
        QTRY_VERIFY_WITH_TIMEOUT(!cut.row_of_cheap(all()[1].id).isNull() && !cut.row_of_cheap(all()[0].id).isNull(),
                                 30000);
        QTRY_VERIFY_WITH_TIMEOUT(child<QLabel>("cheap facts")->text().contains("ms on"), 30000);
        QVERIFY2(child<QLabel>("cheap facts")->text().contains("Its lamps"),
                 qPrintable(child<QLabel>("cheap facts")->text()));
        window_->show_cheap_lights(false);
        QVERIFY(!bench_->isVisible());
        cut.verticalScrollBar()->setValue(cut.verticalScrollBar()->maximum());
        const QRect row = cut.row_of_cheap(all()[0].id);
        QTest::mouseClick(cut.viewport(), Qt::LeftButton, {}, row.center());
        QVERIFY(bench_->isVisible() && figure_->isVisible());
        QTest::mouseClick(cut.viewport(), Qt::LeftButton, {}, QPoint(16, row.center().y()));
        QVERIFY(!all()[0].enabled);
        d().undo();
    }

    void they_are_kept_in_the_project() {
        QVERIFY(window_->save());
        auto open = open_project(project_.toStdString(), {.decodeImages = false});
        QVERIFY(open && open->project.cheapLights == all());
        click("delete cheap light");
        QCOMPARE(all().size(), std::size_t(1));
    }
};

MIROLUX_TEST(cheap_lights_window_test)
#include "cheap_lights_window_test.moc"
