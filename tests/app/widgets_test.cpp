#include "app/command_list.h"
#include "app/cost_deck.h"
#include "app/scrub_field.h"
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
        ScrubField field({0, 10, 0.1, 2, false}, "m");
        field.resize(120, 24);
        field.show();
        field.set_value(5);
        QSignalSpy edited(&field, &ScrubField::edited), scrubbing(&field, &ScrubField::scrubbing);
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
        ScrubField field({0.01, 1000, 0.01, 2, true}, "cd");
        field.resize(120, 24);
        field.show();
        field.set_value(10);
        QTest::keyClick(&field, Qt::Key_Up);
        QVERIFY(std::abs(field.value() - 10 * std::pow(1.01, 10)) < 1e-9);
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
};

MIROLUX_TEST(widgets_test)
#include "widgets_test.moc"
