#include "core/plan/settings.h"
#include "window_fixture.h"
#include <QAbstractButton>
#include <QAccessible>
#include <QComboBox>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QTextBrowser>
#include <QToolButton>

using namespace mirolux;
using namespace mirolux::test;

/// Help where one is, names that a screen reader can say, and words that fit: over every control of every view.
class help_window_test : public QObject, WindowFixture {
    Q_OBJECT

    QList<QWidget*> controls() {
        QList<QWidget*> out;
        for (QWidget* w : window_->findChildren<QWidget*>())
            if (app::is_control(w) && !w->objectName().startsWith("qt_") && w->window() == window_.get()) out << w;
        return out;
    }
    static QString path_of(const QWidget* w) {
        QString path = QString("%1 \"%2\"").arg(w->metaObject()->className(), w->objectName());
        if (w->parentWidget()) path += QString(" in %1").arg(w->parentWidget()->metaObject()->className());
        return path;
    }
    /// Each view in its normal state.
    QList<std::pair<QString, std::function<void()>>> views() {
        QList<std::pair<QString, std::function<void()>>> all;
        for (const char* station : {"Scene", "Lights", "Path", "Shadows", "Ambient", "Air", "Finish"})
            all << std::pair(QString(station), [this, station] { window_->set_station(station); });
        all << std::pair("a light", [this] { window_->select_light(light_named("pier bollard 01").id); });
        all << std::pair("several lights", [this] {
            std::vector<int> ids;
            for (const Light& l : window_->document().project().lights)
                ids.push_back(l.id);
            window_->selection().set_lights(ids);
        });
        all << std::pair("objects", [this] { window_->show_objects(true); });
        all << std::pair("an object", [this] { window_->selection().set_objects({100}); });
        all << std::pair("a pass", [this] { window_->select_pass("finish"); });
        all << std::pair("targets", [this] { window_->command("targets")->trigger(); });
        all << std::pair("help", [this] { window_->show_help(&window_->viewport()); });
        for (const auto cut : {app::CostDeck::Cut::light, app::CostDeck::Cut::region, app::CostDeck::Cut::walk,
                               app::CostDeck::Cut::pass})
            all << std::pair(QString("cut %1").arg(int(cut)), [this, cut] { window_->deck().set_cut(cut); });
        return all;
    }

private slots:
    void init() {
        open_window();
        QApplication::setActiveWindow(window_.get());
    }
    void cleanup() { close_window(); }

    void every_control_has_a_page_and_a_name() {
        wait_for_rest();
        QStringList without, nameless;
        int count = 0;
        for (QWidget* w : controls()) {
            ++count;
            const HelpPage page = app::help_for(w);
            if (page.body.empty() || page.title.empty()) without << path_of(w);
            if (w->accessibleName().isEmpty() && app::name_of(w).isEmpty()) nameless << path_of(w);
        }
        QVERIFY2(count > 120, qPrintable(QString::number(count)));
        QVERIFY2(without.isEmpty(), qPrintable("no help: " + without.join(", ")));
        QVERIFY2(nameless.isEmpty(), qPrintable("no name: " + nameless.join(", ")));
    }

    /// Every setting's editor leads to the setting's own page, and so does the label beside it.
    void a_setting_leads_to_its_page() {
        wait_for_rest();
        for (const Setting& s : all_settings()) {
            const auto editors = window_->findChildren<QWidget*>(QString::fromStdString(s.key));
            for (QWidget* editor : editors)
                QCOMPARE(app::help_for(editor).id, s.key);
            for (QLabel* label : window_->findChildren<QLabel*>())
                if (label->buddy() && editors.contains(label->buddy())) QCOMPARE(app::help_for(label).id, s.key);
        }
    }

    /// F1 over what has the focus, search by keys, and back.
    void f1_tells_and_search_finds() {
        wait_for_rest();
        window_->set_station("Finish");
        auto* exposure = window_->findChild<QWidget*>("exposure.ev100");
        QVERIFY(exposure && exposure->isVisible());
        QCursor::setPos(window_->mapToGlobal(QPoint(-40, -40))); // nowhere
        exposure->setFocus();
        window_->show_help(exposure);
        app::HelpBench& help = window_->help();
        QVERIFY(help.isVisible());
        QCOMPARE(help.page().id, std::string("exposure.ev100"));
        QVERIFY(help.findChild<QTextBrowser*>("help page")->toPlainText().contains("1.2 * 2^EV100"));
        auto* query = help.findChild<QLineEdit*>("find help");
        query->setFocus();
        QTest::keyClicks(query, "two-step");
        const auto found = help.found();
        QVERIFY(std::find(found.begin(), found.end(), "volumes.form") != found.end());
        query->clear();
        QTest::keyClicks(query, "isolate");
        QVERIFY(!help.found().empty());
        query->clear();
        QTest::keyClicks(query, "only the selected lights"); // a command
        QCOMPARE(help.found().front(), std::string("command:isolate"));
        query->clear();
        QTest::keyClicks(query, "qwertzuiop");
        QVERIFY(help.found().empty());
        QVERIFY(help.findChild<QTextBrowser*>("help page")->toPlainText().contains("No page"));
        QTest::mouseClick(help.findChild<QPushButton*>("close help"), Qt::LeftButton);
        QVERIFY(!help.isVisible() && exposure->isVisible());
        window_->command("help")->trigger();
        QVERIFY(help.isVisible());
        window_->set_station("Path");
        QVERIFY(!help.isVisible());
    }

    /// The drawn cuts of the cost are walked by keys and say what they have come to; a number field tells its value.
    void keys_walk_and_tell() {
        wait_for_rest();
        app::PassTape& tape = window_->deck().tape();
        tape.setFocus();
        const auto passes = window_->bridge().history().passes();
        QStringList told;
        QTest::keyClick(&tape, Qt::Key_Home);
        for (std::size_t i = 0; i < passes.size(); ++i) {
            told << tape.accessibleDescription();
            QTest::keyClick(&tape, Qt::Key_Right);
        }
        for (std::size_t i = 0; i < passes.size(); ++i)
            QVERIFY2(told[int(i)].startsWith(QString::fromStdString(passes[i].name) + ": ") &&
                         told[int(i)].contains(" ms"),
                     qPrintable(told[int(i)]));
        QSignalSpy picked(&tape, &app::PassTape::pass_picked);
        QTest::keyClick(&tape, Qt::Key_Return);
        QCOMPARE(picked.at(0).at(0).toString(), QString::fromStdString(passes.back().name));

        QSignalSpy counted(window_.get(), &app::MainWindow::ledger_shown);
        window_->deck().set_cut(app::CostDeck::Cut::light);
        QVERIFY(counted.wait(60000));
        app::LedgerCut& ledger = window_->deck().ledger();
        ledger.setFocus();
        QTest::keyClick(&ledger, Qt::Key_Home);
        QTest::keyClick(&ledger, Qt::Key_Down);
        const int second = ledger.lights()[1];
        QVERIFY(ledger.accessibleDescription().startsWith(
            QString::fromStdString(window_->document().light(second)->name) + ":"));
        QTest::keyClick(&ledger, Qt::Key_Space);
        QVERIFY(!window_->document().light(second)->enabled);
        window_->document().undo();
        QTest::keyClick(&ledger, Qt::Key_Down, Qt::ShiftModifier);
        QCOMPARE(window_->selection().lights().size(), std::size_t(2));
        QTest::keyClick(&ledger, Qt::Key_End);
        if (const std::size_t rows = ledger.ledger().ambient.size()) { // told like the lights before them
            QVERIFY(ledger.accessibleDescription().contains("of the picture's luminance") ||
                    ledger.accessibleDescription().contains("gathering"));
            QTest::keyClick(&ledger, Qt::Key_Return);
            QCOMPARE(window_->selection().lights().size(), std::size_t(2)); // nothing to select
            for (std::size_t i = 0; i < rows; ++i)
                QTest::keyClick(&ledger, Qt::Key_Up);
        }
        QTest::keyClick(&ledger, Qt::Key_Return);
        QCOMPARE(window_->selection().light(), ledger.lights().back());

        window_->document().set("path.kind", std::string("tiled-deferred"));
        QSignalSpy inspected(window_.get(), &app::MainWindow::inspected);
        window_->deck().set_cut(app::CostDeck::Cut::region);
        QVERIFY(inspected.wait(60000));
        app::RegionCut& region = window_->deck().region();
        region.setFocus();
        QTest::keyClick(&region, Qt::Key_Home);
        QTest::keyClick(&region, Qt::Key_Right);
        QVERIFY(region.accessibleDescription().contains("tiles list 1"));
        QTest::keyClick(&region, Qt::Key_Return);
        QCOMPARE(region.selected_length(), 1);

        window_->set_station("Finish");
        auto* exposure = window_->findChild<app::NumberField*>("exposure.ev100");
        QAccessibleInterface* heard = QAccessible::queryAccessibleInterface(exposure);
        QVERIFY(heard && heard->valueInterface());
        QCOMPARE(heard->text(QAccessible::Name), QString("Exposure"));
        QCOMPARE(heard->valueInterface()->currentValue().toDouble(), exposure->value());
        heard->valueInterface()->setCurrentValue(3.5);
        QCOMPARE(window_->document().project().setup.number("exposure.ev100"), 3.5);
        QVERIFY(heard->text(QAccessible::Value).contains("3.5"));
    }

    /// At 1280x800 and at 1280x720 no words are cut off, in any view.
    void no_label_is_cut_off_data() {
        QTest::addColumn<int>("height");
        QTest::newRow("800") << 800;
        QTest::newRow("720") << 720;
    }
    void no_label_is_cut_off() {
        QFETCH(int, height);
        window_->resize(1280, height);
        wait_for_rest();
        QCOMPARE(window_->size(), QSize(1280, height));
        QStringList cut;
        for (const auto& [name, show] : views()) {
            show();
            QTest::qWait(60);
            for (QWidget* w : window_->findChildren<QWidget*>()) {
                if (!w->isVisible() || w->window() != window_.get()) continue;
                const auto too_wide = [&](const QString& text, int room) {
                    if (w->fontMetrics().horizontalAdvance(text) > room + 1)
                        cut << QString("%1: %2 \"%3\" needs %4, has %5")
                                   .arg(name, path_of(w), text)
                                   .arg(w->fontMetrics().horizontalAdvance(text))
                                   .arg(room);
                };
                if (auto* area = qobject_cast<QScrollArea*>(w); area && area->widget()) {
                    if (area->widget()->minimumSizeHint().width() > area->viewport()->width())
                        cut << QString("%1: %2 needs %3 across, has %4")
                                   .arg(name, path_of(area->widget()))
                                   .arg(area->widget()->minimumSizeHint().width())
                                   .arg(area->viewport()->width());
                } else if (auto* label = qobject_cast<QLabel*>(w)) {
                    if (label->wordWrap() || label->text().contains('<') || label->text().isEmpty()) continue;
                    for (const QString& line : label->text().split('\n'))
                        too_wide(line, label->contentsRect().width());
                } else if (auto* button = qobject_cast<QAbstractButton*>(w)) {
                    too_wide(button->text().remove('&'), button->width() - (qobject_cast<QPushButton*>(w) ? 4 : 0));
                } else if (auto* box = qobject_cast<QComboBox*>(w)) {
                    if (!box->isEditable()) too_wide(box->currentText(), box->width() - 12);
                } else if (auto* line = qobject_cast<QLineEdit*>(w)) {
                    if (line->text().isEmpty()) too_wide(line->placeholderText(), line->contentsRect().width() - 10);
                } else if (auto* header = qobject_cast<QHeaderView*>(w)) {
                    if (header->orientation() == Qt::Horizontal)
                        for (int i = 0; i < header->count(); ++i)
                            too_wide(header->model()->headerData(i, Qt::Horizontal).toString(),
                                     header->sectionSize(i) - 8);
                }
            }
        }
        QVERIFY2(cut.isEmpty(), qPrintable("\n" + cut.join("\n")));
    }
};

MIROLUX_TEST(help_window_test)
#include "help_window_test.moc"
