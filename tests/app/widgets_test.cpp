#include "app/choice_row.h"
#include "app/command_list.h"
#include "app/cost_deck.h"
#include "app/newest_task.h"
#include "app/number_field.h"
#include "app/tabular_font.h"
#include "app/theme.h"
#include "support/test_main.h"
#include <QAction>
#include <QApplication>
#include <QLineEdit>
#include <QListWidget>
#include <QtTest>

using namespace mirolux;
using namespace mirolux::app;

class widgets_test : public QObject {
    Q_OBJECT
private slots:
    void initTestCase() { use_theme(*qApp, true); }

    void a_field_is_scrubbed_typed_and_stepped_within_its_range() {
        NumberField field({0, 10, 0.1, 2, false}, "m");
        field.resize(120, 24);
        field.show();
        field.set_value(5);
        QSignalSpy edited(&field, &NumberField::edited), scrubbing(&field, &NumberField::scrubbing);
        QTest::mousePress(&field, Qt::LeftButton, {}, {50, 12});
        for (const int x : {56, 70}) {
            QMouseEvent move(QEvent::MouseMove, QPointF(x, 12), field.mapToGlobal(QPoint(x, 12)), Qt::NoButton,
                             Qt::LeftButton, {});
            QApplication::sendEvent(&field, &move);
        }
        QTest::mouseRelease(&field, Qt::LeftButton, {}, {70, 12});
        QCOMPARE(field.value(), 7.0);
        QCOMPARE(scrubbing.count(), 2); // begin and end: one step of the history
        QTest::mouseDClick(&field, Qt::LeftButton, {}, {50, 12});
        auto* line = field.findChild<QLineEdit*>();
        QVERIFY(line && line->isVisible());
        line->setText("3.25");
        QTest::keyClick(line, Qt::Key_Return);
        QCOMPARE(field.value(), 3.25);
        QTest::mouseDClick(&field, Qt::LeftButton, {}, {50, 12});
        line->setText("nonsense");
        QTest::keyClick(line, Qt::Key_Return);
        QCOMPARE(field.value(), 3.25);
        QTest::mouseDClick(&field, Qt::LeftButton, {}, {50, 12});
        line->setText("900");
        QTest::keyClick(line, Qt::Key_Return);
        QCOMPARE(field.value(), 10.0);
        QTest::keyClick(&field, Qt::Key_Down);
        QCOMPARE(field.value(), 9.0);
    }

    void a_logarithmic_field_scrubs_by_ratio() {
        NumberField field({0.01, 1000, 0.01, 2, true}, "cd");
        field.resize(120, 24);
        field.show();
        field.set_value(10);
        QTest::keyClick(&field, Qt::Key_Up);
        QVERIFY(std::abs(field.value() - 10 * std::pow(1.01, 10)) < 1e-9);
    }

    void a_gauge_holds_the_range_and_a_notch_the_default() {
        NumberField field({1, 100, 0.01, 2, true}, "");
        field.resize(128, 26);
        field.show();
        QCOMPARE(field.share_of(10), 0.5); // by ratio
        QVERIFY(std::abs(field.value_at(0.5) - 10) < 1e-9);
        field.set_default(10);
        field.set_value(10);
        QVERIFY(!field.changed() && field.dot().isEmpty());
        const QPoint end(static_cast<int>(field.gauge().right()) - 1, static_cast<int>(field.gauge().center().y()));
        QTest::mouseClick(&field, Qt::LeftButton, {}, end);
        QVERIFY(field.value() > 95 && field.changed());
        QTest::keyClick(&field, Qt::Key_Backspace);
        QCOMPARE(field.value(), 10.0);
        QApplication::setActiveWindow(&field);
        field.setFocus();
        QWheelEvent wheel({20, 10}, field.mapToGlobal(QPointF(20, 10)), {}, {0, 120}, {}, {}, Qt::NoScrollPhase, false);
        QApplication::sendEvent(&field, &wheel);
        QVERIFY(field.value() > 10);
        NumberField place({-1e4, 1e4, 0.02, 2, false}, "");
        QVERIFY(place.gauge().isEmpty()); // a place in the world has no range to speak of
    }

    void choices_break_into_lines_and_answer_to_mouse_and_keys() {
        ChoiceRow row({"none", "clamp", "reinhard", "filmic"});
        row.resize(400, 24);
        row.show();
        QSignalSpy chosen(&row, &ChoiceRow::chosen);
        QCOMPARE(row.cell(0).top(), row.cell(3).top());
        QTest::mouseClick(&row, Qt::LeftButton, {}, row.cell(2).center());
        QCOMPARE(row.current(), 2);
        QTest::keyClick(&row, Qt::Key_Right);
        QCOMPARE(row.current(), 3);
        QTest::keyClick(&row, Qt::Key_Right); // no further
        QCOMPARE(chosen.count(), 2);
        row.resize(120, 24);
        QVERIFY(row.cell(3).top() > row.cell(0).top());
        QVERIFY(row.height() >= row.cell(3).bottom());
        row.set_current(0);
        QCOMPARE(chosen.count(), 2); // no signal
    }

    /// Digits of the tabular font are of one width, and another font is refused.
    void digits_are_tabular() {
        const QString family = add_tabular_inter();
        if (family.isEmpty()) QSKIP("Inter is not installed");
        for (const QFont::Weight weight : {QFont::Normal, QFont::DemiBold}) {
            QFont font = sized(QFont(family), 40, weight);
            font.setKerning(false);
            const QFontMetricsF metrics(font);
            for (const char c : std::string("0123456789"))
                QVERIFY(std::abs(metrics.horizontalAdvance(QChar(c)) - metrics.horizontalAdvance('0')) < 0.2);
            QVERIFY(metrics.horizontalAdvance('i') < metrics.horizontalAdvance('0'));
        }
        QVERIFY(with_tabular_digits("no font at all", "X").isEmpty());
        QVERIFY(with_tabular_digits(QByteArray(200, '\xff'), "X").isEmpty());
    }

    void commands_are_found_by_parts_of_their_names() {
        QWidget window;
        window.resize(800, 600);
        window.show();
        QAction save("Save the project"), measure("Log it"), off("Saved away");
        off.setEnabled(false);
        bool ran = false;
        QObject::connect(&measure, &QAction::triggered, &window, [&] { ran = true; });
        CommandList list(&window);
        list.open({&save, &measure, &off});
        auto* line = list.findChild<QLineEdit*>("command line");
        QCOMPARE(list.findChild<QListWidget*>()->count(), 2); // what cannot be done now is not offered
        QTest::keyClicks(line, "it lo");
        QCOMPARE(list.findChild<QListWidget*>()->count(), 1);
        QTest::keyClick(line, Qt::Key_Return);
        QVERIFY(ran && !list.isVisible());
    }

    void families_have_colours_of_their_own() {
        QSet<QRgb> seen;
        for (const char* family : {"depth", "opaque", "lights", "culling", "sky", "transparent", "finish"})
            seen.insert(family_color(family).rgb());
        QCOMPARE(seen.size(), 7);
    }

    void text_and_ground_keep_their_contrast_in_both_themes() {
        // WCAG 2.1 relative luminance and contrast ratio; 4.5 is its bound for text.
        auto luminance = [](const QColor& c) {
            auto linear = [](double v) { return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
            return 0.2126 * linear(c.redF()) + 0.7152 * linear(c.greenF()) + 0.0722 * linear(c.blueF());
        };
        for (const bool dark : {true, false}) {
            use_theme(*qApp, dark);
            for (const QColor& ground : {theme().window, theme().panel, theme().field})
                for (const QColor& text : {theme().text, theme().quiet}) {
                    const double a = luminance(ground), b = luminance(text);
                    const double contrast = (std::max(a, b) + 0.05) / (std::min(a, b) + 0.05);
                    QVERIFY2(contrast >= 4.5, qPrintable(QString("%1 on %2, %3 theme: %4")
                                                             .arg(text.name(), ground.name(), dark ? "dark" : "light")
                                                             .arg(contrast)));
                }
        }
        use_theme(*qApp, true);
    }

    /// Whether it had begun or not: a task that is stopped comes to rest and says so.
    void a_stopped_task_comes_to_rest() {
        std::atomic<int> rests = 0, begun = 0, told = 0;
        NewestTask task([&] { ++rests; });
        for (int i = 0; i < 200; ++i) {
            const int before = rests;
            task.ask([&](const NewestTask::GoesOn& goes_on) {
                ++begun;
                while (goes_on())
                    std::this_thread::yield();
                ++told;
            });
            if (i % 2) QTRY_VERIFY(begun > told);
            task.stop();
            QTRY_VERIFY(!task.busy() && rests > before);
        }
        QVERIFY(begun >= 100); // half of them were waited for
        QCOMPARE(told.load(), begun.load());
    }
};

MIROLUX_TEST(widgets_test)
#include "widgets_test.moc"
