#include "app/plots/journal_view.h"
#include "app/plots/region_cut.h"
#include "app/plots/walk_cut.h"
#include "app/theme.h"
#include "app/tile_map.h"
#include "support/test_main.h"
#include <QtTest>

using namespace mirolux;
using namespace mirolux::app;

/// Plots on their own, filled with made-up numbers and handled as one does with mouse, wheel and keys.
class plots_test : public QObject {
    Q_OBJECT
    Document document_;

    static void wheel(QWidget& w, const QPointF& at, int delta, Qt::KeyboardModifiers keys = {}) {
        QWheelEvent e(at, w.mapToGlobal(at), {}, {0, delta}, Qt::NoButton, keys, Qt::NoScrollPhase, false);
        QApplication::sendEvent(&w, &e);
    }
    static void drag(QWidget& w, const QPoint& from, const QPoint& to) {
        QTest::mousePress(&w, Qt::LeftButton, {}, from);
        for (int i = 1; i <= 4; ++i) {
            const QPoint p = from + (to - from) * i / 4;
            QMouseEvent move(QEvent::MouseMove, p, w.mapToGlobal(p), Qt::NoButton, Qt::LeftButton, {});
            QApplication::sendEvent(&w, &move);
        }
        QTest::mouseRelease(&w, Qt::LeftButton, {}, to);
    }
    /// Colours lie within a few steps of each other: antialiasing and the picture's format.
    static bool alike(const QColor& a, const QColor& b, int steps = 3) {
        return std::abs(a.red() - b.red()) <= steps && std::abs(a.green() - b.green()) <= steps &&
               std::abs(a.blue() - b.blue()) <= steps;
    }
    static QColor color_at(QWidget& w, const QPointF& at) { return w.grab().toImage().pixelColor(at.toPoint()); }

    static WalkMeasurement walk(double scale = 1) {
        WalkMeasurement m;
        m.walk = "round";
        m.clock = "fenced";
        m.passes = {{"opaque", "shading"}, {"finish", "finish"}};
        for (int i = 0; i <= 20; ++i) {
            WalkPoint p;
            p.metres = 5.0 * i;
            p.seconds = i;
            p.camera.eye.x = static_cast<float>(i);
            p.passMs = {scale * (30 + i), 20};
            p.ms = p.passMs[0] + p.passMs[1];
            m.points.push_back(p);
        }
        m.metres = 100;
        m.p50 = 60;
        m.p95 = m.p99 = m.worst = m.points.back().ms;
        m.worstPoint = 20;
        m.sweeps = 3;
        return m;
    }
    static std::vector<EntryPoint> entries(int count) {
        std::vector<EntryPoint> out;
        for (int i = 0; i < count; ++i) {
            EntryPoint p;
            p.id = i + 1;
            p.at = 1900000000 + 600 * i;
            p.ms = 50 - i % 7;
            p.lowMs = p.ms - 1;
            p.highMs = p.ms + 1;
            p.budgetMs = i < count / 2 ? 48 : 40;
            out.push_back(p);
        }
        return out;
    }
    static std::vector<Entry> read(const std::vector<std::int64_t>& ids) {
        std::vector<Entry> out;
        for (const std::int64_t id : ids) {
            Entry e;
            e.id = id;
            e.changes = {"step " + std::to_string(id)};
            e.frame = {50, 49, 51};
            out.push_back(e);
        }
        return out;
    }
    static std::shared_ptr<const cull::Inspection> inspection() {
        auto out = std::make_shared<cull::Inspection>();
        out->grid.columns = 40;
        out->grid.rows = 10;
        out->grid.offsets = {0};
        for (std::uint32_t i = 0; i < 400; ++i) // twenty tiles of each length up to 19
            out->grid.offsets.push_back(out->grid.offsets.back() + i % 20);
        out->grid.indices.resize(out->grid.offsets.back());
        out->audit.max = 19;
        return out;
    }

    struct Filled {
        std::unique_ptr<Plot> plot;
        std::function<QPointF(std::size_t)> place; // of a thing of the data
    };
    Filled filled(const QString& name) {
        Filled f;
        if (name == "journal") {
            auto journal = std::make_unique<JournalView>();
            journal->show_entries(entries(30), read);
            f.place = [j = journal.get()](std::size_t i) { return j->place_of(i); };
            f.plot = std::move(journal);
        } else if (name == "walk") {
            auto cut = std::make_unique<WalkCut>(document_);
            cut->controls()->hide(); // the deck has them in its head
            cut->show_walk({walk()});
            f.place = [c = cut.get()](std::size_t i) { return c->place_of(i); };
            f.plot = std::move(cut);
        } else {
            auto cut = std::make_unique<RegionCut>();
            cut->controls()->hide();
            cut->show_inspection(inspection());
            f.place = [c = cut.get()](std::size_t i) { return c->bar(static_cast<int>(i)).center(); };
            f.plot = std::move(cut);
        }
        f.plot->resize(900, 420);
        f.plot->show();
        [[maybe_unused]] const bool exposed = QTest::qWaitForWindowExposed(f.plot.get());
        return f;
    }
    static void each_plot() {
        QTest::addColumn<QString>("name");
        for (const char* name : {"journal", "walk", "region"})
            QTest::newRow(name) << name;
    }

private slots:
    void initTestCase() {
        use_theme(*qApp, true);
        auto opened = open_project(MIROLUX_DEMO, {.decodeImages = false});
        QVERIFY(opened.has_value());
        document_.adopt(std::move(*opened));
        document_.edit("budget", [](Project& p) {
            p.targets = {plain_target("T", 640, 360, 60)};
            p.target = 0;
        });
    }

    void the_wheel_goes_near_to_what_is_under_the_pointer_data() { each_plot(); }
    void the_wheel_goes_near_to_what_is_under_the_pointer() {
        QFETCH(QString, name);
        const Filled f = filled(name);
        QVERIFY(f.plot->is_whole());
        const QPointF before = f.place(9);
        const double apart = f.place(10).x() - before.x();
        wheel(*f.plot, before, 360);
        QVERIFY(!f.plot->is_whole());
        QVERIFY(std::abs(f.place(9).x() - before.x()) < 0.5);
        // The wheel's measure: 0.998 for each of its eighths of a degree.
        QVERIFY(std::abs((f.place(10).x() - f.place(9).x()) / apart - std::pow(0.998, -360)) < 0.01);
        QCOMPARE(f.place(9).y(), before.y()); // the height stays, unless Shift asks for it
        wheel(*f.plot, before, 360, Qt::ShiftModifier);
        if (name != "region") QVERIFY(std::abs(f.place(10).y() - f.place(9).y()) > 0);
        for (int i = 0; i < 40; ++i)
            wheel(*f.plot, before, -360);
        for (int i = 0; i < 40; ++i)
            wheel(*f.plot, before, -360, Qt::ShiftModifier);
        QVERIFY(f.plot->is_whole()); // farther than the whole it does not go
        QVERIFY(std::abs(f.place(9).x() - before.x()) < 1e-6);
        for (int i = 0; i < 60; ++i)
            wheel(*f.plot, before, 360);
        QVERIFY(f.place(10).x() - f.place(9).x() < 40 * f.plot->area().width()); // nor nearer than the data are worth
    }

    void a_drag_goes_along_by_what_the_pointer_did_data() { each_plot(); }
    void a_drag_goes_along_by_what_the_pointer_did() {
        QFETCH(QString, name);
        const Filled f = filled(name);
        wheel(*f.plot, f.plot->area().center(), 480);
        const QPoint from = f.plot->area().topLeft().toPoint() + QPoint(300, 12);
        const double before = f.place(9).x();
        drag(*f.plot, from, from + QPoint(-60, 0));
        QVERIFY(std::abs(f.place(9).x() - (before - 60)) < 0.5);
        drag(*f.plot, from, from + QPoint(4000, 0)); // as far as the data go
        QVERIFY(f.place(0).x() >= f.plot->area().left() - 1);
        QVERIFY(f.place(0).x() < f.plot->area().left() + 100);
    }

    void keys_do_the_same_and_the_whole_comes_back_data() { each_plot(); }
    void keys_do_the_same_and_the_whole_comes_back() {
        QFETCH(QString, name);
        const Filled f = filled(name);
        const double apart = f.place(10).x() - f.place(9).x();
        QTest::keyClick(f.plot.get(), Qt::Key_Plus);
        QVERIFY(std::abs((f.place(10).x() - f.place(9).x()) / apart - 1 / 0.6) < 0.01);
        QTest::keyClick(f.plot.get(), Qt::Key_Minus);
        QVERIFY(std::abs((f.place(10).x() - f.place(9).x()) / apart - 1) < 0.01);
        QTest::keyClick(f.plot.get(), Qt::Key_Plus);
        QTest::keyClick(f.plot.get(), Qt::Key_Backspace);
        QVERIFY(f.plot->is_whole());
        QTest::keyClick(f.plot.get(), Qt::Key_Plus);
        QTest::mouseDClick(f.plot.get(), Qt::LeftButton, {}, f.plot->area().bottomLeft().toPoint() + QPoint(30, -20));
        QVERIFY(f.plot->is_whole());
        // Keys that walk the data bring what they come to into view.
        for (int i = 0; i < 6; ++i)
            QTest::keyClick(f.plot.get(), Qt::Key_Plus);
        QTest::keyClick(f.plot.get(), Qt::Key_End);
        QVERIFY(f.place(name == "journal" ? 29 : name == "walk" ? 20 : 19).x() <= f.plot->area().right() + 1);
        QTest::keyClick(f.plot.get(), Qt::Key_Home);
        QVERIFY(f.place(0).x() >= f.plot->area().left() - 1);
    }

    /// A hairline under the axis shows which part of the whole is in view, and only then.
    void the_part_in_view_is_shown_under_the_axis_data() { each_plot(); }
    void the_part_in_view_is_shown_under_the_axis() {
        QFETCH(QString, name);
        const Filled f = filled(name);
        const auto lit = [&] {
            const QImage image = f.plot->grab().toImage();
            const int y = static_cast<int>(f.plot->area().bottom()) + 3;
            int count = 0;
            for (int x = static_cast<int>(f.plot->area().left()); x < f.plot->area().right(); ++x)
                count += alike(image.pixelColor(x, y), theme().lit, 8);
            return count;
        };
        QCOMPARE(lit(), 0);
        wheel(*f.plot, f.plot->area().center(), 346); // to half
        QVERIFY2(std::abs(lit() - 0.5 * f.plot->area().width()) < 8, qPrintable(QString::number(lit())));
    }

    void plots_take_the_colours_of_the_theme_data() { each_plot(); }
    void plots_take_the_colours_of_the_theme() {
        QFETCH(QString, name);
        const Filled f = filled(name);
        const QPointF corner(f.plot->width() - 3.0, f.plot->height() - 3.0);
        QVERIFY(alike(color_at(*f.plot, corner), theme().panel));
        use_theme(*qApp, false);
        QVERIFY(alike(color_at(*f.plot, corner), theme().panel));
        use_theme(*qApp, true);
        QVERIFY(alike(color_at(*f.plot, corner), theme().panel));
    }

    /// The walk's stack: at each place the first pass's colour below, the second's above, nothing over both.
    void the_walk_stacks_its_passes_to_scale() {
        const Filled f = filled("walk");
        const QRectF r = f.plot->area();
        const double bottom = r.bottom() + 1, perMs = (bottom - f.place(10).y()) / 60; // the tenth place takes 60 ms
        const double x = f.place(10).x() + 8;                                          // beside a vertex's edges
        const QImage image = f.plot->grab().toImage();
        const auto at = [&](double ms) { return image.pixelColor(QPointF(x, bottom - ms * perMs).toPoint()); };
        QVERIFY(alike(at(20), family_color("shading")));
        QVERIFY(alike(at(50), family_color("finish")));
        QVERIFY(alike(at(65), theme().panel));
        // Over the budget of 60 ms the colour is hatched: darker strokes and the colour itself, both are there.
        const double late = f.place(19).x() + 6;
        int plain = 0, dark = 0;
        for (int dx = 0; dx < 9; ++dx) {
            const QColor c = image.pixelColor(QPointF(late + dx, bottom - 65 * perMs).toPoint());
            plain += alike(c, family_color("finish"), 6);
            dark += c.lightness() < family_color("finish").lightness() - 20;
        }
        QVERIFY2(plain > 0 && dark > 0, qPrintable(QString("%1 %2").arg(plain).arg(dark)));
    }

    void a_click_goes_to_the_place_and_a_drag_does_not() {
        const Filled f = filled("walk");
        auto& cut = static_cast<WalkCut&>(*f.plot);
        QSignalSpy picked(&cut, &WalkCut::place_picked);
        wheel(cut, f.place(10), 480);
        QTest::mouseClick(&cut, Qt::LeftButton, {}, f.place(10).toPoint());
        QCOMPARE(picked.count(), 1);
        QCOMPARE(picked.back().front().value<Camera>().eye.x, 10.0f);
        drag(cut, f.place(10).toPoint(), f.place(10).toPoint() + QPoint(-50, 0));
        QCOMPARE(picked.count(), 1);
        cut.show_walk({walk(), walk(0.5)});
        QVERIFY(alike(color_at(cut, QPointF(f.place(10).x(), 0) + QPointF(0, cut.place(0, 0.5 * (30 + 10) + 20).y())),
                      theme().b, 40)); // B's line where its frame lies
        QTest::keyClick(&cut, Qt::Key_Home);
        QVERIFY(cut.accessibleDescription().startsWith("0.0 m"));
        QTest::keyClick(&cut, Qt::Key_Return);
        QCOMPARE(picked.back().front().value<Camera>().eye.x, 0.0f);
        cut.set_stale();
        QVERIFY(
            !alike(color_at(cut, QPointF(f.place(10).x() + 8, f.plot->area().bottom() - 6)), family_color("shading")));
    }

    void bars_wear_the_colours_of_the_map_and_count_their_tiles() {
        const Filled f = filled("region");
        auto& cut = static_cast<RegionCut&>(*f.plot);
        for (const int n : {0, 7, 19}) { // all as high: twenty tiles each
            const QColor shown = color_at(cut, QPointF(cut.bar(n).center().x(), cut.area().top() + 8));
            QVERIFY2(alike(shown, TileMap::ramp(n / 19.0)),
                     qPrintable(QString("%1: %2, %3").arg(n).arg(shown.name(), TileMap::ramp(n / 19.0).name())));
        }
        QSignalSpy marked(&cut, &RegionCut::lengths_picked);
        wheel(cut, cut.bar(7).center(), 480);
        QTest::mouseClick(&cut, Qt::LeftButton, {}, cut.bar(7).center().toPoint());
        QCOMPARE(marked.count(), 1);
        QCOMPARE(marked.back().at(0).toInt(), 7);
        drag(cut, cut.bar(7).center().toPoint(), cut.bar(7).center().toPoint() + QPoint(-60, 0));
        QCOMPARE(marked.count(), 1);
        QTest::mouseClick(&cut, Qt::LeftButton, {}, cut.bar(7).center().toPoint());
        QCOMPARE(cut.selected_length(), -1);
        cut.set_stale();
        QVERIFY(!alike(color_at(cut, QPointF(cut.bar(7).center().x(), cut.area().top() + 8)), TileMap::ramp(7 / 19.0)));
        cut.show_inspection(nullptr);
        cut.grab(); // says what to do
    }

    void the_journal_marks_what_is_over_its_budget_hollow() {
        const Filled f = filled("journal");
        QVERIFY(alike(color_at(*f.plot, f.place(4)), theme().a, 40));                       // 46 of 48 ms: filled
        QVERIFY(alike(color_at(*f.plot, f.place(0) - QPointF(2.5, 0)), theme().panel, 30)); // 50 of 48 ms: hollow
        QSignalSpy restored(static_cast<JournalView*>(f.plot.get()), &JournalView::restore_wanted);
        QTest::mouseDClick(f.plot.get(), Qt::LeftButton, {}, f.place(4).toPoint());
        QCOMPARE(restored.count(), 1);
        QCOMPARE(restored.back().front().toLongLong(), 5);
        QTest::keyClick(f.plot.get(), Qt::Key_End);
        QTest::keyClick(f.plot.get(), Qt::Key_Return);
        QCOMPARE(restored.back().front().toLongLong(), 30);
    }

    void the_latest_entries_are_gone_near_to() {
        const Filled f = filled("journal");
        auto& journal = static_cast<JournalView&>(*f.plot);
        const double apart = f.place(29).x() - f.place(28).x();
        journal.show_latest();
        QVERIFY(f.place(29).x() - f.place(28).x() > 2 * apart);
        QVERIFY(f.place(18).x() >= journal.area().left() - 2 && f.place(29).x() < journal.area().right());
        QVERIFY(f.place(17).x() < journal.area().left());
        journal.grab();
        QVERIFY(journal.shown_labels() >= 10);
        journal.show_whole();
        QVERIFY(std::abs(f.place(29).x() - f.place(28).x() - apart) < 1e-6);
        // Nothing logged: it says what to do, and nothing breaks.
        journal.show_entries({}, read);
        journal.show_latest();
        journal.grab();
        QCOMPARE(journal.shown_labels(), std::size_t(0));
        // One more entry shows the whole again, the same number keeps what is in view.
        journal.show_entries(entries(30), read);
        journal.show_latest();
        journal.show_entries(entries(30), read);
        QVERIFY(!journal.is_whole());
        journal.show_entries(entries(31), read);
        QVERIFY(journal.is_whole());
    }
};

MIROLUX_TEST(plots_test)
#include "plots_test.moc"
