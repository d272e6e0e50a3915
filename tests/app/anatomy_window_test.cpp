#include "app/choice_row.h"
#include "window_fixture.h"
#include <QToolButton>

using namespace mirolux;
using namespace mirolux::app;
using namespace mirolux::test;

/// The anatomy in the picture's place, targets held from it, the loupe, and the layers' strip.
class anatomy_window_test : public QObject, WindowFixture {
    Q_OBJECT
    static void move(QWidget* w, const QPointF& at) {
        QMouseEvent e(QEvent::MouseMove, at, w->mapToGlobal(at.toPoint()), Qt::NoButton, Qt::NoButton, {});
        QApplication::sendEvent(w, &e);
    }
    FramePlan plan() {
        const Document& d = window_->document();
        return plan_frame(d.scene(), d.project().setup, on_target(d.project().view, d.target()));
    }
    void open_anatomy() {
        QSignalSpy drawn(window_.get(), &MainWindow::anatomy_drawn);
        window_->command("anatomy")->trigger();
        QVERIFY(drawn.wait(30000));
    }
private slots:
    void init() {
        open_window();
        QVERIFY(window_->document().set("path.kind", std::string("tiled-deferred")).has_value());
        wait_for_rest();
    }
    void cleanup() { close_window(); }

    void every_write_has_its_thumbnail_and_every_cell_its_words() {
        open_anatomy();
        AnatomyCanvas& c = window_->anatomy();
        QVERIFY(window_->anatomy_shown() && c.isVisible());
        std::size_t writes = 0;
        const FramePlan p = plan();
        for (const PlannedPass& pass : p.passes)
            for (const std::string& name : pass.writes)
                writes += p.resource(name)->spec.entries == 0;
        QCOMPARE(c.thumbnails(), writes);
        move(&c, c.cell("g-buffer", "normal").center());
        QVERIFY2(c.told().contains("RG16") && c.told().contains("320 x 180") && c.told().contains("shading"),
                 qPrintable(c.told()));
        move(&c, c.head("culling").center());
        QVERIFY2(c.told().startsWith("culling: ") && c.told().contains("light lists"), qPrintable(c.told()));
        QVERIFY(c.cell("g-buffer", "nothing").isEmpty());
        window_->command("anatomy")->trigger();
        QVERIFY(window_->viewport().isVisible());
    }

    void a_click_holds_the_target_as_the_pass_leaves_it() {
        open_anatomy();
        AnatomyCanvas& c = window_->anatomy();
        QSignalSpy values(&window_->bridge(), &RenderBridge::values_ready);
        QTest::mouseClick(&c, Qt::LeftButton, {}, c.cell("g-buffer", "scene").center());
        QCOMPARE(*window_->held_target(), (TargetRead{"scene", "g-buffer"}));
        QVERIFY(window_->viewport().isVisible() && window_->target_bar().isVisible());
        QVERIFY(values.wait(20000));
        // Its channels are told apart; its own range can be left and taken again.
        auto* channels = window_->target_bar().findChild<ChoiceRow*>("channels");
        QVERIFY(channels && channels->words().size() == 5);
        QSignalSpy pictures(&window_->bridge(), &RenderBridge::picture_ready);
        QTest::mouseClick(channels, Qt::LeftButton, {}, channels->cell(2).center());
        QVERIFY(pictures.wait(5000));
        const QImage green = pictures.back().front().value<QImage>();
        const QColor some = green.pixelColor(green.width() / 2, green.height() / 2);
        QVERIFY(some.red() == some.green() && some.green() == some.blue());
        auto* own = window_->target_bar().findChild<QToolButton*>("own range");
        QVERIFY(own->isChecked());
        emit window_->target_bar().findChild<NumberField*>("high")->edited(2);
        QVERIFY(!own->isChecked() || window_->target_bar().findChild<NumberField*>("high")->value() != 2);
        // A layer takes its place again.
        auto* strip = window_->findChild<LayerStrip*>();
        QVERIFY(strip->held().isEmpty());
        QTest::mouseClick(strip, Qt::LeftButton, {}, strip->cell(0).center());
        QVERIFY(!window_->held_target() && !window_->target_bar().isVisible());
        QVERIFY(!window_->bridge().shown_target());
    }

    void a_held_target_that_the_frame_has_no_more_makes_room() {
        window_->hold_target({"normal"});
        QVERIFY(window_->held_target().has_value());
        QVERIFY(window_->document().set("path.kind", std::string("forward")).has_value());
        QVERIFY(!window_->held_target() && window_->bridge().shown_layer() == "final");
        window_->hold_target({"no such target"});
        QVERIFY(!window_->held_target());
    }

    void keys_walk_through_the_anatomy() {
        open_anatomy();
        AnatomyCanvas& c = window_->anatomy();
        QTest::keyClick(&c, Qt::Key_Right);
        QVERIFY(c.told().startsWith("skinning"));
        QTest::keyClick(&c, Qt::Key_Right);
        QVERIFY(c.told().startsWith("g-buffer"));
        QTest::keyClick(&c, Qt::Key_Down);
        QVERIFY(c.told().startsWith("scene"));
        QTest::keyClick(&c, Qt::Key_Return);
        QCOMPARE(*window_->held_target(), (TargetRead{"scene", "g-buffer"}));
        window_->command("anatomy")->trigger();
        QTest::keyClick(&c, Qt::Key_Right);
        QTest::keyClick(&c, Qt::Key_Right);
        QTest::keyClick(&c, Qt::Key_Return); // a pass opens its bench
        QVERIFY(window_->findChild<PassBench*>()->isVisible());
    }

    void with_b_both_frames_stand_there_and_what_differs_is_told() {
        window_->command("take b")->trigger();
        QVERIFY(window_->document().set("path.kind", std::string("forward")).has_value());
        wait_for_rest();
        QSignalSpy drawn(window_.get(), &MainWindow::anatomy_drawn);
        window_->command("anatomy")->trigger();
        QTRY_COMPARE_WITH_TIMEOUT(drawn.count(), 2, 30000); // A's and B's
        AnatomyCanvas& c = window_->anatomy();
        move(&c, c.cell("g-buffer", "normal", true).center());
        QVERIFY2(c.told().contains("not in A"), qPrintable(c.told()));
        move(&c, c.cell("finish", "picture").center());
        QVERIFY(!c.told().contains("not in"));
        QTest::mouseClick(&c, Qt::LeftButton, {}, c.cell("g-buffer", "normal", true).center());
        QVERIFY(!window_->held_target()); // only B has it
        // A target of both is shown of both.
        QSignalSpy b(&window_->bridge(), &RenderBridge::b_ready);
        QTest::mouseClick(&c, Qt::LeftButton, {}, c.cell("finish", "picture").center());
        QVERIFY(window_->held_target().has_value());
        QTRY_VERIFY_WITH_TIMEOUT(!b.isEmpty() && !b.back().front().value<QImage>().isNull(), 30000);
        // Another channel is that of both.
        const int before = static_cast<int>(b.count());
        auto* channels = window_->target_bar().findChild<ChoiceRow*>("channels");
        QTest::mouseClick(channels, Qt::LeftButton, {}, channels->cell(1).center());
        QTRY_VERIFY_WITH_TIMEOUT(b.count() > before, 10000);
        const QColor red = b.back().front().value<QImage>().pixelColor(40, 40);
        QVERIFY(red.red() == red.green() && red.green() == red.blue());
    }

    /// The loupe's numbers are the target's own: of depth, metres to what stands under the pointer.
    void the_loupe_tells_a_texels_numbers() {
        window_->command("loupe")->trigger();
        QVERIFY(window_->viewport().loupe());
        QSignalSpy values(&window_->bridge(), &RenderBridge::values_ready);
        window_->hold_target({"depth"});
        QVERIFY(values.wait(20000));
        const auto depth = values.back().front().value<std::shared_ptr<const FloatImage>>();
        QCOMPARE(depth->width, 320);
        Viewport& v = window_->viewport();
        const QRectF r = v.picture_rect();
        move(&v, {r.left() + r.width() * 0.5, r.top() + r.height() * 0.75});
        const QStringList words = v.loupe_words();
        QCOMPARE(words.size(), 2);
        const int x = words[0].section(", ", 0, 0).toInt(), y = words[0].section(", ", 1, 1).toInt();
        QVERIFY(std::abs(x - 160) <= 1 && std::abs(y - 135) <= 1);
        QVERIFY(std::abs(words[1].toDouble() - depth->pixel(x, y)[0]) < 0.01 * depth->pixel(x, y)[0]);
        v.grab();                                              // painted over the picture
        window_->findChild<LayerStrip*>()->set_held("albedo"); // layers have numbers too
        QTRY_VERIFY_WITH_TIMEOUT(v.loupe_words().value(1).split(' ').size() == 4, 20000);
    }

    void the_strip_groups_by_pass_and_scrolls() {
        auto* strip = window_->findChild<LayerStrip*>();
        QVERIFY(strip->layers().size() > 7);
        QStringList passes;
        for (const LayerStrip::Shown& s : strip->layers())
            if (passes.isEmpty() || passes.back() != s.pass) passes << s.pass;
        QCOMPARE(passes.size(), QSet<QString>(passes.begin(), passes.end()).size()); // each pass once
        QVERIFY(passes.contains("g-buffer") && passes.contains("shading"));
        QCOMPARE(strip->scrolled(), 0);
        strip->setFixedWidth(260);
        QTest::qWait(50);
        QWheelEvent wheel(QPointF(50, 30), strip->mapToGlobal(QPointF(50, 30)), {}, {0, -240}, Qt::NoButton,
                          Qt::NoModifier, Qt::NoScrollPhase, false);
        QApplication::sendEvent(strip, &wheel);
        QVERIFY(strip->scrolled() > 0);
        strip->set_held("final"); // comes into view
        QVERIFY(strip->rect().contains(strip->cell(0).center()));
    }
};

MIROLUX_TEST(anatomy_window_test)
#include "anatomy_window_test.moc"
