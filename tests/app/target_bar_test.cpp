#include "app/choice_row.h"
#include "app/target_bar.h"
#include "app/theme.h"
#include "support/test_main.h"
#include <QApplication>
#include <QLabel>
#include <QToolButton>
#include <QtTest>

using namespace mirolux;
using namespace mirolux::app;

/// The bar over a held target offers what the target has, and nothing else.
class target_bar_test : public QObject {
    Q_OBJECT
    static PlannedResource resource(const char* name, Format format, int layers = 1, int mips = 1) {
        PlannedResource r;
        r.spec.name = name;
        r.spec.format = format;
        r.spec.mips = mips;
        r.width = 64;
        r.height = 36;
        r.layers = layers;
        return r;
    }
    static QStringList offered(TargetBar& bar) {
        QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
        QStringList words;
        for (const ChoiceRow* row : bar.findChildren<ChoiceRow*>())
            words << row->words();
        return words;
    }
    static ChoiceRow* row_with(TargetBar& bar, const QString& word) {
        for (ChoiceRow* row : bar.findChildren<ChoiceRow*>())
            if (row->words().contains(word)) return row;
        return nullptr;
    }

private slots:
    void initTestCase() { use_theme(*qApp, true); }

    void what_a_format_holds_is_offered() {
        TargetBar bar;
        bar.show();
        bar.show_target({"light"}, resource("light", Format::rgba16f));
        QCOMPARE(offered(bar), (QStringList{"all", "red", "green", "blue", "alpha"}));
        bar.show_target({"normal"}, resource("normal", Format::rg16));
        QCOMPARE(offered(bar), (QStringList{"all", "red", "green"}));
        bar.show_target({"depth"}, resource("depth", Format::depth32f));
        QVERIFY(offered(bar).isEmpty());
        bar.show_target({"depth"}, resource("depth", Format::depth32fStencil8, 2));
        QCOMPARE(offered(bar), (QStringList{"depth", "marks", "left", "right"}));
        bar.show_target({"pyramid"}, resource("pyramid", Format::r32f, 1, 3));
        QCOMPARE(offered(bar), (QStringList{"mip 0", "mip 1", "mip 2"}));
    }

    void choices_ask_for_another_part_of_the_target() {
        TargetBar bar;
        bar.show();
        bar.show_target({"depth", "g-buffer"}, resource("depth", Format::depth32fStencil8, 2, 2));
        offered(bar);
        std::vector<TargetRead> reads;
        connect(&bar, &TargetBar::read_changed, this, [&](const TargetRead& r) { reads.push_back(r); });
        const auto press = [&](const char* word) {
            ChoiceRow* row = row_with(bar, word);
            QVERIFY(row);
            QTest::mouseClick(row, Qt::LeftButton, {},
                              row->cell(static_cast<int>(row->words().indexOf(word))).center());
        };
        press("marks");
        press("right");
        press("mip 1");
        QCOMPARE(reads.size(), std::size_t(3));
        QVERIFY(reads[0].stencil && reads[1].layer == 1 && reads[2].mip == 1);
        for (const TargetRead& r : reads)
            QVERIFY(r.target == "depth" && r.after == "g-buffer");
    }

    /// Linear light is encoded, 8 bits are shown as they are, all else in the range of its own values.
    void each_format_is_looked_at_in_its_own_way() {
        TargetBar bar;
        std::vector<TargetLook> looks;
        connect(&bar, &TargetBar::look_changed, this, [&](const TargetLook& l) { looks.push_back(l); });
        bar.show_target({"light"}, resource("light", Format::rgba16f));
        QVERIFY(looks.back().encode && !looks.back().range);
        bar.show_target({"colour"}, resource("colour", Format::rgba8));
        QVERIFY(!looks.back().encode && looks.back().range == ValueRange{});
        bar.show_target({"depth"}, resource("depth", Format::depth32f));
        QVERIFY(!looks.back().encode && !looks.back().range);
        // A range of one's own, and back.
        bar.show_range({0.5f, 80});
        auto *low = bar.findChild<NumberField*>("low"), *high = bar.findChild<NumberField*>("high");
        QCOMPARE(high->value(), 80.0);
        high->set_value(40);
        emit high->edited(40);
        QVERIFY(looks.back().range && looks.back().range->high == 40 && looks.back().range->low == 0.5f);
        const std::size_t before = looks.size();
        low->set_value(50); // over the high one: until both are meant, nothing changes
        emit low->edited(50);
        QCOMPARE(looks.size(), before);
        auto* own = bar.findChild<QToolButton*>("own range");
        QVERIFY(!own->isChecked());
        QTest::mouseClick(own, Qt::LeftButton);
        QVERIFY(!looks.back().range && own->isChecked());
        QSignalSpy closed(&bar, &TargetBar::closed);
        QTest::mouseClick(bar.findChild<QToolButton*>("framed"), Qt::LeftButton);
        QCOMPARE(closed.count(), 1);
    }
};

MIROLUX_TEST(target_bar_test)
#include "target_bar_test.moc"
