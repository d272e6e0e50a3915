#include "app/cost_deck.h"
#include "app/figures/figure_pages.h"
#include "app/figures/size_figure.h"
#include "app/figures/tone_figure.h"
#include "app/plots/walk_cut.h"
#include "app/sheet_view.h"
#include "app/viewport.h"
#include "core/finish/exposure.h"
#include "core/finish/outline.h"
#include "core/finish/tone_curve.h"
#include "core/image/image_io.h"
#include "window_fixture.h"

using namespace mirolux;
using namespace mirolux::app;
using namespace mirolux::test;

/// The Finish station driven as one does: metering, its spot, curves by handles, what an eye does along a walk.
class finish_window_test : public QObject, WindowFixture {
    Q_OBJECT
    static void pull(QWidget* w, const QPointF& from, const QPointF& to) {
        QTest::mousePress(w, Qt::LeftButton, {}, from.toPoint());
        for (int i = 1; i <= 4; ++i) {
            const QPointF p = from + (to - from) * i / 4;
            QMouseEvent e(QEvent::MouseMove, p, w->mapToGlobal(p), Qt::NoButton, Qt::LeftButton, {});
            QApplication::sendEvent(w, &e);
        }
        QTest::mouseRelease(w, Qt::LeftButton, {}, to.toPoint());
    }
    Document& document() { return window_->document(); }
    const Setup& setup() { return document().project().setup; }
    void set(const char* key, const Value& value) { QVERIFY(document().set(key, value).has_value()); }

private slots:
    void init() { open_window(); }
    void cleanup() { close_window(); }

    void a_meter_exposes_and_the_figure_compensates_it() {
        auto* f = figure<ToneFigure>("Finish");
        set("exposure.kind", std::string("metered"));
        wait_for_rest();
        QTRY_VERIFY_WITH_TIMEOUT(window_->bridge().last_full().told.contains(told_ev100), 20000);
        const double ev = window_->bridge().last_full().told.at(told_ev100).front();
        QVERIFY(hand_ev100(window_->bridge().shown_setup()) != 0 || ev == 0);
        QVERIFY(std::abs(hand_ev100(window_->bridge().shown_setup()) - ev) < 1e-6);
        const QPointF from = f->plot().center(), stop(f->plot().width() / 20, 0);
        pull(f, from, from + 2 * stop);
        QVERIFY(std::abs(setup().number("exposure.compensation") - 2) < 0.1); // to the right is brighter
        QCOMPARE(setup().number("exposure.ev100"), 0.0);
        QTRY_VERIFY_WITH_TIMEOUT(std::abs(window_->bridge().last_full().told.at(told_ev100).front() - (ev - 2)) < 0.15,
                                 20000);
        document().undo();
        QCOMPARE(setup().number("exposure.compensation"), 0.0);
        f->grab();
    }

    void a_spot_is_dragged_in_the_picture() {
        window_->set_station("Finish");
        Viewport& v = window_->viewport();
        QVERIFY(!v.meter_rect());
        set("exposure.kind", std::string("metered"));
        QVERIFY(!v.meter_rect()); // all alike: nothing to draw
        set("exposure.meter", std::string("centre"));
        QVERIFY(v.meter_rect() && (v.meter_rect()->center() - v.picture_rect().center()).manhattanLength() < 1);
        set("exposure.meter", std::string("spot"));
        wait_for_rest();
        const QPoint from = v.meter_rect()->center().toPoint(),
                     to = from + QPoint(static_cast<int>(v.picture_rect().width() / 4), 30);
        drag(from, to);
        QVERIFY(std::abs(setup().number("exposure.spotX") - 0.75) < 0.02);
        QVERIFY(std::abs(setup().number("exposure.spotY") - 0.5 - 30 / v.picture_rect().height()) < 0.02);
        document().undo(); // one drag, one step
        QCOMPARE(setup().number("exposure.spotX"), 0.5);
        QCOMPARE(setup().number("exposure.spotY"), 0.5);
        window_->set_station("Lights");
        QVERIFY(!v.meter_rect());
    }

    void the_frame_stands_by_its_layers() {
        QSignalSpy drawn(window_.get(), &MainWindow::sheet_drawn);
        window_->command("layer sheet")->trigger();
        QVERIFY(window_->sheet_shown());
        QVERIFY(drawn.wait(120000));
        SheetCanvas& sheet = window_->sheet().canvas();
        QVERIFY(sheet.sheet() && sheet.sheet()->parts.size() >= 4);
        QVERIFY(sheet.sheet()->rest < 0.005 || sheet.sheet()->parts.back().name == "rest");
        for (const char* layer : {"ambient", "diffuse", "occlusion", "final"})
            QVERIFY2(!sheet.cell(layer).isEmpty(), layer);
        QVERIFY(sheet.cell("diffuse").height() > 40);
        sheet.grab();
        // In black and white, and anew after an edit.
        window_->sheet().findChild<QToolButton*>("framed")->toggle();
        QVERIFY(drawn.wait(120000));
        const ByteImage& grey = sheet.sheet()->parts.front().picture;
        for (std::size_t i = 0; i < grey.rgba.size(); i += 4)
            QCOMPARE(grey.rgba[i], grey.rgba[i + 2]);
        set("ambient.kind", std::string("none"));
        QVERIFY(drawn.wait(120000));
        document().undo();
        QVERIFY(drawn.wait(120000));
        // Saved as a file of parts.
        const QTemporaryDir folder;
        QSignalSpy saved(window_.get(), &MainWindow::sheet_saved);
        window_->save_sheet(folder.filePath("layers.exr"));
        QVERIFY(saved.wait(120000));
        QVERIFY(exr_parts(folder.filePath("layers.exr").toStdString())->size() >= 6);
        // A click holds the layer in the picture.
        QTest::mouseClick(&sheet, Qt::LeftButton, {}, sheet.cell("diffuse").center());
        QVERIFY(!window_->sheet_shown());
        QCOMPARE(window_->findChild<LayerStrip*>()->held(), QString("diffuse"));
    }

    void sizes_are_measured_plotted_and_taken() {
        auto* pages = figure<FinishPages>("Finish");
        pages->show_page(FinishPages::size);
        auto* f = window_->findChild<SizeFigure*>();
        QVERIFY(f->isVisible() && f->costs().empty());
        f->grab();
        QTest::mouseClick(f->findChild<QPushButton*>("measure sizes"), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(f->costs().size() == std::size(size_scales), 240000);
        QCOMPARE(f->costs()[2].width, 160);
        QVERIFY(f->costs().back().frame.median > 2 * f->costs().front().frame.median); // 64 times the pixels
        f->grab();
        auto* plot = f->findChild<QWidget*>("size plot");
        QTest::mouseClick(plot, Qt::LeftButton, {}, (f->place_of(0.5) - plot->pos()).toPoint() - QPoint(0, 40));
        QCOMPARE(setup().number("output.scaleX"), 0.5);
        QCOMPARE(setup().number("output.scaleY"), 0.5);
        QVERIFY(!f->costs().empty()); // they hold for every size
        document().undo();
        QCOMPARE(setup().number("output.scaleX"), 1.0);
        set("shading.model", std::string("lambert"));
        QVERIFY(f->costs().empty()); // of another setup
    }

    /// The bench says why a path cannot have several samples a pixel.
    void what_is_left_out_is_said() {
        window_->set_station("Finish");
        set("path.kind", std::string("deferred"));
        set("edges.kind", std::string("multisample"));
        wait_for_rest();
        const auto said = [&] {
            for (const QLabel* l : window_->findChildren<QLabel*>())
                if (!l->visibleRegion().isEmpty() && l->text().startsWith("Multisampling is left out"))
                    return true; // without scrolling
            return false;
        };
        QTRY_VERIFY_WITH_TIMEOUT(said(), 20000);
        set("path.kind", std::string("forward"));
        wait_for_rest();
        QTRY_VERIFY_WITH_TIMEOUT(!said(), 20000);
    }

    void what_is_selected_is_outlined() {
        window_->selection().set_objects({});
        window_->command("outline selection")->trigger();
        QCOMPARE(setup().choice("outline.kind"), std::string("none"));
        window_->selection().set_objects({3, 8});
        window_->command("outline selection")->trigger();
        QCOMPARE(setup().choice("outline.kind"), std::string("seen"));
        QVERIFY((outlined_objects(document().scene(), setup()) == std::vector<int>{3, 8}));
        document().undo(); // one step
        QCOMPARE(setup().choice("outline.kind"), std::string("none"));
        QVERIFY(setup().choice("outline.objects").empty());
    }

    /// At a fraction, and with frames joined, the picture is as large as before and a pixel's account tells the stages.
    void rendered_sizes_and_joined_frames_come_back_whole() {
        wait_for_rest();
        for (const auto& [key, word] : std::vector<std::pair<const char*, const char*>>{
                 {"output.scaleX", "0.5"}, {"output.scaleY", "0.5"}, {"edges.kind", "temporal"}}) {
            Setup probe = setup();
            QVERIFY(probe.set_text(key, word).has_value());
            set(key, probe.get(key));
        }
        wait_for_rest();
        QCOMPARE(window_->bridge().last_full().width, 320);
        PixelAccount account;
        connect(&window_->bridge(), &RenderBridge::pixel_ready, this, [&](const PixelAccount& a) { account = a; });
        QSignalSpy told(window_.get(), &MainWindow::pixel_reported);
        window_->hold_pixel(QPoint(300, 150));
        QVERIFY(told.wait(60000));
        disconnect(&window_->bridge(), nullptr, this, nullptr);
        QVERIFY(account.stages.size() >= 5);
        QCOMPARE(account.stages[1].name, std::string("frames joined"));
        QVERIFY(account.difference < 0.02);
    }

    void a_curve_is_drawn_by_its_handles() {
        auto* f = figure<ToneFigure>("Finish");
        set("tone.curve", std::string("own"));
        const double before = setup().number("tone.own3");
        const QPointF from = f->handle_at(2);
        pull(f, from, from + QPointF(0, 0.2 * f->plot().height()));
        QVERIFY(std::abs(setup().number("tone.own3") - (before - 0.2)) < 0.02);
        pull(f, f->handle_at(2), f->handle_at(2) + QPointF(0, 2 * f->plot().height())); // no lower than its neighbour
        QCOMPARE(setup().number("tone.own3"), setup().number("tone.own2"));
        QCOMPARE(setup().number("exposure.ev100"), 0.0);
        document().undo();
        document().undo();
        QCOMPARE(setup().number("tone.own3"), before);
    }

    void a_camera_s_exposure_is_dragged_by_its_time() {
        auto* f = figure<ToneFigure>("Finish");
        set("exposure.by", std::string("camera"));
        const double before = hand_ev100(setup());
        const QPointF from = f->plot().center(), stop(f->plot().width() / 20, 0);
        pull(f, from, from - 3 * stop);
        QVERIFY(std::abs(hand_ev100(setup()) - before - 3) < 0.1);
        QVERIFY(std::abs(setup().number("exposure.shutter") - 240) < 20);
    }

    /// While a walk is played the eye takes its time; once it ends it has had it.
    void an_eye_takes_its_time_along_a_walk() {
        set("exposure.kind", std::string("metered"));
        set("exposure.down", 0.05);
        set("exposure.up", 0.05);
        wait_for_rest();
        QSignalSpy exposed(&window_->bridge(), &RenderBridge::exposed_at);
        emit window_->deck().walk().play_wanted();
        QTRY_VERIFY_WITH_TIMEOUT(exposed.size() > 12, 30000);
        const auto ev = [&](qsizetype i) { return exposed.at(i).front().value<std::optional<double>>().value(); };
        double most = 0;
        for (qsizetype i = 2; i < exposed.size(); ++i)
            most = std::max(most, std::abs(ev(i) - ev(i - 1)));
        QVERIFY2(most < 0.3, qPrintable(QString::number(most))); // slowly, whatever it passes
        emit window_->deck().walk().play_wanted();               // ends it
        wait_for_rest();
        const auto& told = window_->bridge().last_full().told;
        QVERIFY(std::abs(told.at(told_ev100).front() - told.at(told_metered).front()) < 1e-4);
    }

    void the_walk_cut_tells_what_the_eye_has_come_to() {
        WalkCut& cut = window_->deck().walk();
        WalkMeasurement m;
        m.walk = "out";
        m.passes = {{"finish", "finish"}};
        for (int i = 0; i < 5; ++i) {
            WalkPoint p;
            p.metres = 10.0 * i;
            p.seconds = i;
            p.ms = 10;
            p.passMs = {10};
            p.meteredEv100 = i < 2 ? 4.0 : -2.0;
            m.points.push_back(p);
        }
        m.metres = 40;
        m.worst = 10;
        m.sweeps = 1;
        adapt_along(m.points, setup());
        window_->deck().set_cut(CostDeck::Cut::walk);
        const QImage plain = [&] {
            WalkMeasurement byHand = m;
            for (WalkPoint& p : byHand.points)
                p.ev100 = p.meteredEv100 = std::nullopt;
            cut.show_walk({byHand});
            return cut.grab().toImage();
        }();
        cut.show_walk({m});
        QVERIFY(cut.grab().toImage() != plain);
        cut.setFocus();
        QTest::keyClick(&cut, Qt::Key_Right);
        QVERIFY(cut.accessibleDescription().contains("EV100 4.0, the meter asks for 4.0"));
        for (int i = 0; i < 2; ++i)
            QTest::keyClick(&cut, Qt::Key_Right);
        QVERIFY2(cut.accessibleDescription().contains(QString("the meter asks for ") + QChar(0x2212) + "2.0"),
                 qPrintable(cut.accessibleDescription()));
    }
};

MIROLUX_TEST(finish_window_test)
#include "finish_window_test.moc"
