#include "app/cost_deck.h"
#include "app/theme.h"
#include "support/test_main.h"
#include <QApplication>
#include <QComboBox>
#include <QPushButton>
#include <QScrollBar>
#include <QtTest>
#include <set>

using namespace mirolux;
using namespace mirolux::app;

/// The cost deck's cuts, drawn from made-up frames.
class deck_test : public QObject {
    Q_OBJECT
    Document document_;

    static FrameRecord frame(double scale = 1) {
        FrameRecord r;
        r.passes = {{"opaque", "shading", {60 * scale}, {}, false},
                    {"sky", "sky", {4 * scale}, {}, false},
                    {"finish", "finish", {16 * scale}, {}, false}};
        return r;
    }
    static FrameHistory history(double scale = 1, int frames = 5) {
        FrameHistory h;
        for (int i = 0; i < frames; ++i)
            h.add(frame(scale));
        return h;
    }
    static Foresight foresight(double ms) {
        Foresight f;
        f.nowMs = 80;
        f.ms = ms;
        f.lowMs = ms * 0.9;
        f.highMs = ms * 1.1;
        f.passes = {{"opaque", "shading", ms - 20, 60, true, {}},
                    {"sky", "sky", 4, 4, false, {}},
                    {"finish", "finish", 16, 16, false, {}}};
        return f;
    }
    void set_budget(double ms) {
        document_.edit("budget", [ms](Project& p) {
            p.targets = {plain_target("T", 640, 360, ms)};
            p.target = 0;
        });
    }
    static void move(QWidget* w, const QPointF& at) {
        QMouseEvent e(QEvent::MouseMove, at, w->mapToGlobal(at.toPoint()), Qt::NoButton, Qt::NoButton, {});
        QApplication::sendEvent(w, &e);
    }

private slots:
    void initTestCase() {
        use_theme(*qApp, true);
        auto opened = open_project(MIROLUX_DEMO, {.decodeImages = false});
        QVERIFY(opened.has_value());
        document_.adopt(std::move(*opened));
    }
    void init() { set_budget(100); }

    void segments_are_to_scale_and_in_their_colours() {
        const FrameHistory h = history();
        PassTape tape(document_, h);
        tape.resize(900, 150);
        tape.show();
        const QRectF opaque = tape.segment("opaque"), sky = tape.segment("sky"), finish = tape.segment("finish");
        QVERIFY(std::abs(opaque.width() / sky.width() - 15) < 1e-6);
        QVERIFY(std::abs(opaque.right() - sky.left()) < 1e-6 && std::abs(sky.right() - finish.left()) < 1e-6);
        QVERIFY(tape.segment("nothing").isEmpty());
        const QImage image = tape.grab().toImage();
        QCOMPARE(image.pixelColor(QPointF(opaque.right() - 8, opaque.bottom() - 3).toPoint()), family_color("shading"));
        QCOMPARE(image.pixelColor(QPointF(finish.center().x(), finish.bottom() - 3).toPoint()), family_color("finish"));
    }

    /// Over the budget is told by a hatch, not by colour alone.
    void what_runs_over_is_hatched() {
        const FrameHistory h = history();
        PassTape tape(document_, h);
        tape.resize(900, 150);
        set_budget(40);
        const QRectF opaque = tape.segment("opaque");
        const QImage image = tape.grab().toImage();
        const auto colours = [&](double from, double to) {
            std::set<QRgb> all;
            const int y = static_cast<int>(opaque.bottom()) - 3;
            for (double x = from; x < to; x += 1)
                all.insert(image.pixel(static_cast<int>(x), y));
            return all.size();
        };
        const double budget = opaque.left() + opaque.width() * 40 / 60;
        QVERIFY(colours(opaque.left() + 6, budget - 8) <= 2);
        QVERIFY(colours(budget + 8, opaque.right() - 4) > 3);
    }

    void a_segment_and_its_legend_are_clicked() {
        const FrameHistory h = history();
        PassTape tape(document_, h);
        tape.resize(900, 150);
        tape.show();
        QSignalSpy picked(&tape, &PassTape::pass_picked);
        QTest::mouseClick(&tape, Qt::LeftButton, {}, tape.segment("finish").center().toPoint());
        QCOMPARE(picked.back().front().toString(), QString("finish"));
        const QImage lit = tape.grab().toImage();
        QCOMPARE(
            lit.pixelColor(QPointF(tape.segment("finish").right() - 5, tape.segment("finish").top() + 4).toPoint()),
            theme().lit);
        QTest::mouseClick(&tape, Qt::LeftButton, {}, QPoint(850, 60)); // behind the last one
        QCOMPARE(picked.back().front().toString(), QString());
        QTest::mouseClick(&tape, Qt::LeftButton, {},
                          QPoint(40, static_cast<int>(tape.segment("opaque").bottom()) + 28));
        QCOMPARE(picked.back().front().toString(), QString("opaque")); // in the legend
        move(&tape, tape.segment("sky").center());
        QVERIFY(tape.toolTip().startsWith("sky: 4"));
    }

    void the_ghost_lies_under_the_tape_and_both_have_one_scale() {
        const FrameHistory h = history();
        PassTape tape(document_, h);
        tape.resize(900, 150);
        tape.show();
        const double before = tape.segment("opaque").width();
        tape.set_ghost("Tile 8: slower", foresight(300));
        QVERIFY(tape.segment("opaque").width() < before); // the ghost must fit
        QVERIFY(tape.ghost_tape().top() > tape.segment("opaque").bottom());
        QVERIFY(tape.ghost_line().bottom() <= tape.height());
        const QImage image = tape.grab().toImage();
        const QRectF g = tape.ghost_tape();
        const double perMs = tape.segment("opaque").width() / 60;
        const QColor inside = image.pixelColor(QPointF(g.left() + 200 * perMs, g.center().y() + 4).toPoint()),
                     outside = image.pixelColor(QPointF(g.left() + 360 * perMs, g.center().y() + 4).toPoint());
        QVERIFY(inside != family_color("shading") && inside != outside); // hollow: not taken for measured
        tape.forget_ghost();
        QCOMPARE(tape.segment("opaque").width(), before);
        // Words that can be clicked are told apart from a segment.
        QSignalSpy clicked(&tape, &PassTape::ghost_clicked), picked(&tape, &PassTape::pass_picked);
        tape.set_ghost("Calibrate?", {}, true);
        QTest::mouseClick(&tape, Qt::LeftButton, {}, tape.ghost_line().center().toPoint());
        QVERIFY(clicked.count() == 1 && picked.isEmpty());
        tape.set_ghost("counting");
        QTest::mouseClick(&tape, Qt::LeftButton, {}, tape.ghost_line().center().toPoint());
        QCOMPARE(clicked.count(), 1);
    }

    void a_second_tape_stands_under_the_first_and_the_comparison_replaces_both() {
        const FrameHistory a = history(), b = history(2);
        PassTape tape(document_, a);
        tape.resize(900, 150);
        tape.show();
        const double alone = tape.segment("opaque").width();
        tape.set_b(&b);
        QVERIFY(tape.segment("opaque").width() < alone); // room for the longer one
        tape.set_pair_line("B (Path): 50 % slower");
        tape.grab();
        tape.set_compared(history(3), history(4));
        QVERIFY(std::abs(tape.segment("opaque").width() / tape.segment("finish").width() - 60.0 / 16) < 1e-6);
        tape.set_ghost("Tile 8", foresight(90));
        QVERIFY(tape.ghost_tape().height() < 10); // between the two
        tape.grab();
        tape.forget_compared();
        tape.set_b(nullptr);
    }

    void a_prediction_never_stands_beside_measured_time() {
        const FrameHistory h = history();
        PassTape tape(document_, h);
        tape.resize(900, 150);
        Prediction p;
        p.passes = {{"opaque", "shading", 10}, {"finish", "finish", 10}};
        p.frameMs = 20;
        p.lowMs = 15;
        p.highMs = 27;
        p.profile = "handheld";
        tape.set_prediction(p);
        QVERIFY(tape.segment("sky").isEmpty());
        QCOMPARE(tape.segment("opaque").width(), tape.segment("finish").width());
        tape.grab();
        tape.set_prediction(std::nullopt);
        QVERIFY(!tape.segment("sky").isEmpty());
    }

    void the_ledger_sorts_selects_and_switches() {
        Document& d = document_;
        LedgerCut cut(d);
        cut.resize(800, 150);
        cut.show();
        Ledger l;
        const auto& lights = d.project().lights;
        for (int i = 0; i < 3; ++i)
            l.rows.push_back({lights[std::size_t(i)].id, lights[std::size_t(i)].name, LightType::point, true, true,
                              std::uint64_t(100 * (i + 1)), 0.1 * (i + 1), 1.0, 0.3 - 0.1 * i,
                              (0.3 - 0.1 * i) / (0.1 * (i + 1)), 0, 0.0});
        l.evaluations = 600;
        cut.show_ledger(l);
        QCOMPARE(cut.lights(), (std::vector<int>{lights[2].id, lights[1].id, lights[0].id})); // dearest first
        cut.set_order(LedgerOrder::contribution);
        QCOMPARE(cut.lights().front(), lights[0].id);
        QSignalSpy picked(&cut, &LedgerCut::light_picked);
        QTest::mouseClick(cut.viewport(), Qt::LeftButton, {}, cut.row_of(lights[1].id).center());
        QCOMPARE(picked.back().front().toInt(), lights[1].id);
        QVERIFY(cut.row_of(-5).isEmpty());
        const int id = lights[0].id;
        const bool was = d.light(id)->enabled;
        QTest::mouseClick(cut.viewport(), Qt::LeftButton, {}, cut.box_of(id).center());
        QCOMPARE(d.light(id)->enabled, !was);
        d.undo();
        move(cut.viewport(), cut.row_of(id).center());
        cut.set_stale();
        cut.grab();
    }

    void the_walk_goes_to_where_one_clicks() {
        WalkCut cut(document_);
        cut.resize(900, 150);
        cut.show();
        WalkMeasurement m;
        m.walk = "round";
        m.passes = {{"opaque", "shading"}, {"finish", "finish"}};
        for (int i = 0; i < 5; ++i) {
            WalkPoint p;
            p.metres = 10.0 * i;
            p.seconds = i;
            p.camera.eye.x = static_cast<float>(i);
            p.ms = 20.0 + 10 * i;
            p.passMs = {15.0 + 10 * i, 5};
            m.points.push_back(p);
        }
        m.metres = 40;
        m.p50 = 40;
        m.p95 = m.p99 = m.worst = 60;
        m.worstPoint = 4;
        m.sweeps = 3;
        cut.show_walk({m});
        QVERIFY(cut.place_of(4).x() > cut.place_of(0).x() && cut.place_of(4).y() < cut.place_of(0).y());
        QSignalSpy picked(&cut, &WalkCut::place_picked);
        QTest::mouseClick(&cut, Qt::LeftButton, {}, (cut.place_of(3) + QPointF(0, 4)).toPoint());
        QCOMPARE(picked.count(), 1);
        QCOMPARE(picked.back().front().value<Camera>().eye.x, 3.0f);
        QCOMPARE(picked.back().at(1).toDouble(), 3.0);
        move(&cut, cut.place_of(2));
        cut.grab();
        cut.show_progress(3, 15);
        QVERIFY(cut.controls()->findChild<QPushButton*>() != nullptr);
        cut.show_progress(0, 0);
        cut.set_stale();
        cut.grab();
    }

    void cuts_change_places_and_show_their_own_controls() {
        const FrameHistory h = history();
        CostDeck deck(document_, h);
        deck.resize(1000, 190);
        deck.show();
        QSignalSpy changed(&deck, &CostDeck::cut_changed);
        for (const CostDeck::Cut cut :
             {CostDeck::Cut::light, CostDeck::Cut::region, CostDeck::Cut::walk, CostDeck::Cut::pass}) {
            deck.set_cut(cut);
            QCOMPARE(deck.cut(), cut);
            QCOMPARE(deck.ledger().controls()->isVisible(), cut == CostDeck::Cut::light);
            QCOMPARE(deck.region().controls()->isVisible(), cut == CostDeck::Cut::region);
            QCOMPARE(deck.walk().controls()->isVisible(), cut == CostDeck::Cut::walk);
        }
        QCOMPARE(changed.count(), 4);
        deck.set_cut(CostDeck::Cut::pass);
        QCOMPARE(changed.count(), 4); // nothing new
    }
};

MIROLUX_TEST(deck_test)
#include "deck_test.moc"
