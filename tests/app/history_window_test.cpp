#include "core/io/file.h"
#include "window_fixture.h"
#include <QAction>
#include <QCheckBox>
#include <QElapsedTimer>
#include <QLabel>
#include <QPushButton>
#include <QScrollBar>
#include <QTableWidget>
#include <SQLiteCpp/SQLiteCpp.h>

using namespace mirolux;
using namespace mirolux::app;

/// Logbook, journal and targets in the window.
class history_window_test : public QObject, mirolux::test::WindowFixture {
    Q_OBJECT

    /// Two small entries with different setups, written as a measurement would.
    void log_two() {
        auto book = Logbook::open(logbook_path(project_.toStdString()));
        QVERIFY(book.has_value());
        State s = state_of(window_->document().project());
        for (const double ms : {60.0, 30.0}) {
            Measurement m;
            m.frame = {ms, ms - 1, ms + 1};
            m.whole = m.frame;
            m.rounds = 9;
            m.width = 320;
            m.height = 180;
            m.clock = "fenced";
            m.thumbnail = {176, 99, std::vector<std::uint8_t>(std::size_t(4) * 176 * 99, 120)};
            QVERIFY(book->add(s, m, {}, window_->document().target(), "d").has_value());
            QVERIFY(s.setup.set_text("path.kind", "tiled-deferred").has_value());
        }
        window_->document().forget_autosave();
        QVERIFY(window_->open(project_, false));
    }

private slots:
    void initTestCase() { use_theme(*qApp, true); }
    void init() { open_window(); }
    void cleanup() { close_window(); }

    void the_journal_names_steps_brings_states_back_and_writes_its_report() {
        log_two();
        window_->command("journal")->trigger();
        JournalView& journal = window_->journal();
        QTRY_VERIFY(journal.isVisible());
        journal.grab();
        QCOMPARE(journal.shown_labels(), std::size_t(2));
        for (const char* name : {"j.html", "j.csv", "j.json"}) {
            QVERIFY(window_->save_journal(folder_.filePath(name)));
            const auto text = read_file(folder_.filePath(name).toStdString());
            QVERIFY(text.has_value() &&
                    std::string(text->begin(), text->end()).find("Path forward \u2192 tiled-deferred") !=
                        std::string::npos);
        }
        QVERIFY(!window_->save_journal("/no/such/folder/j.html"));
        QTest::mouseDClick(&journal, Qt::LeftButton, {}, journal.place_of(1).toPoint());
        QTRY_VERIFY(!journal.isVisible());
        QCOMPARE(window_->document().project().setup.choice("path.kind"), std::string("tiled-deferred"));
    }

    void the_journal_goes_nearer_and_along() {
        log_two();
        window_->show_journal(true);
        JournalView& journal = window_->journal();
        const double before = journal.place_of(1).x() - journal.place_of(0).x();
        const QPointF at = journal.place_of(0);
        QWheelEvent wheel(at, journal.mapToGlobal(at), {}, {0, 360}, Qt::NoButton, {}, Qt::NoScrollPhase, false);
        QApplication::sendEvent(&journal, &wheel);
        QVERIFY(journal.place_of(1).x() - journal.place_of(0).x() >= before);
        journal.show_whole();
        QVERIFY(std::abs(journal.place_of(1).x() - journal.place_of(0).x() - before) < 1e-6);
    }

    void targets_are_judged_and_changed_in_the_table() {
        wait_for_rest();
        Document& d = window_->document();
        d.edit("test", [](Project& p) {
            p.targets[1].profile = "desktop";
            p.targets[1].lightingShare = 0.5;
            p.targets.push_back(plain_target("Roomy", 64, 36, 100000));
        });
        window_->command("targets")->trigger();
        TargetBench& bench = window_->target_bench();
        QCOMPARE(bench.table().rowCount(), 3);
        QVERIFY(bench.table().item(0, 2)->text().contains("not judged"));
        QTest::mouseClick(bench.findChild<QPushButton*>("judge targets"), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(!bench.table().item(2, 2)->text().contains("not judged"), 120000);
        QVERIFY(bench.table().item(0, 1)->text().contains("measured"));
        QVERIFY(bench.table().item(1, 1)->text().contains("predicted") &&
                bench.table().item(1, 0)->toolTip().contains("made up"));
        QVERIFY(bench.table().item(2, 2)->text().contains("inside"));
        // Choosing one keeps the verdicts; a changed setup makes them void.
        emit bench.table().cellClicked(2, 0);
        QCOMPARE(d.project().target, 2);
        QCOMPARE(d.project().view.width, 64);
        QVERIFY(!bench.table().item(0, 2)->text().contains("not judged"));
        QVERIFY(d.set("path.maxLights", 3).has_value());
        QVERIFY(bench.table().item(0, 2)->text().contains("not judged"));
    }

    /// A setup and what is off for one target, by its box, keys and one click; the others keep theirs.
    void a_target_has_a_setup_and_lights_of_its_own() {
        wait_for_rest();
        Document& d = window_->document();
        const std::string was = d.project().setup.choice("path.kind");
        window_->command("targets")->trigger();
        TargetBench& bench = window_->target_bench();
        QTest::mouseClick(bench.findChild<QCheckBox*>("own setup"), Qt::LeftButton, {}, QPoint(8, 8));
        QVERIFY(d.target().setup.has_value());
        QVERIFY(d.set("path.kind", std::string("deferred")).has_value());
        QVERIFY(bench.findChild<QLabel*>("differs on target")->text().contains("deferred"));
        QVERIFY(bench.table().item(0, 0)->text().contains("own setup"));
        const int lamp = d.project().lights[3].id;
        window_->selection().set({lamp}, {12});
        window_->command("off on target")->trigger();
        QVERIFY(!d.scene().lights[3].enabled && d.project().lights[3].enabled);
        QVERIFY(d.scene().objects()[12].hidden && d.project().objects.empty());
        window_->command("targets")->trigger();
        emit bench.table().cellClicked(1, 0);
        QCOMPARE(d.project().setup.choice("path.kind"), was);
        QVERIFY(d.scene().lights[3].enabled && !d.scene().objects()[12].hidden);
        // The other one's setup, at one click; then its own way again.
        auto* take = bench.findChild<QPushButton*>("take setup 0");
        QVERIFY(take);
        QTest::mouseClick(take, Qt::LeftButton);
        QCOMPARE(d.project().setup.choice("path.kind"), std::string("deferred"));
        d.undo();
        QCOMPARE(d.project().setup.choice("path.kind"), was);
        emit bench.table().cellClicked(0, 0);
        QCOMPARE(d.project().setup.choice("path.kind"), std::string("deferred"));
        QVERIFY(window_->save());
        const auto again = open_project(project_.toStdString(), {.decodeImages = false});
        QVERIFY(again.has_value() && again->project.targets == d.project().targets);
        while (d.can_undo())
            d.undo();
        QVERIFY(!d.target().setup && d.target().offLights.empty());
        QCOMPARE(d.project().setup.choice("path.kind"), was);
    }

    void a_target_of_another_device_shows_a_prediction_and_no_measured_time() {
        wait_for_rest();
        window_->document().edit("test", [](Project& p) {
            p.targets[0].profile = "headset";
            p.targets[0].stereo = Stereo::onePass;
            p.view = on_target(p.view, p.targets[0]);
        });
        wait_for_rest();
        QString notice;
        PassTape& tape = window_->deck().tape();
        QTRY_VERIFY_WITH_TIMEOUT(tape.prediction() && !tape.prediction()->passes.empty(), 60000);
        QVERIFY(tape.prediction()->madeUp && tape.prediction()->frameMs > 0);
        QVERIFY(tape.segment("finish").width() > 0);
        QVERIFY(window_->status_text().contains("left eye"));
        window_->document().undo();
        wait_for_rest();
        QVERIFY(!tape.prediction());
    }

    /// A running measurement tells its interval, moves nothing else, and takes no pictures.
    void the_window_is_quiet_while_it_measures() {
        wait_for_rest();
        window_->log_state(12);
        QSignalSpy pictures(&window_->bridge(), &RenderBridge::picture_ready);
        QSignalSpy progress(&window_->bridge(), &RenderBridge::measure_progress);
        QVERIFY(window_->document().set("path.maxLights", 5).has_value()); // even an edit waits
        bool intervalSeen = false;
        while (window_->bridge().measuring()) {
            QTest::qWait(5);
            intervalSeen = intervalSeen || window_->logbook_panel().progress_text().contains(" to ");
            if (window_->bridge().measuring()) QCOMPARE(pictures.count(), 0);
        }
        QVERIFY(intervalSeen);
        QVERIFY(progress.count() >= 12);
        QTRY_VERIFY_WITH_TIMEOUT(pictures.count() > 0, 60000); // afterwards the picture catches up
        QTRY_COMPARE_WITH_TIMEOUT(window_->entries().size(), std::size_t(1), 60000);
    }

    void a_hundred_thousand_entries_appear_at_once_and_scroll() {
        log_two();
        {
            SQLite::Database raw(logbook_path(project_.toStdString()).string(), SQLite::OPEN_READWRITE);
            raw.exec("WITH RECURSIVE n(i) AS (SELECT 3 UNION ALL SELECT i+1 FROM n WHERE i<100000) INSERT INTO entry "
                     "SELECT i, created, at+i*60, '', 0, changes, target, budget_ms, device, clock,"
                     "20+10*sin(i/900.0), 19.5+10*sin(i/900.0), 20.5+10*sin(i/900.0), whole_ms, rounds, width, height, "
                     "scene_digest, setup_digest, 0 FROM n, entry WHERE entry.id=2");
            raw.exec("WITH RECURSIVE n(i) AS (SELECT 3 UNION ALL SELECT i+1 FROM n WHERE i<100000) INSERT INTO detail "
                     "SELECT i, setup, '[]', view, measurement, thumbnail FROM n, detail WHERE detail.entry=2");
        }
        wait_for_rest(); // nothing else is at work
        double best = 1e9;
        for (int attempt = 0; attempt < 4; ++attempt) {
            QElapsedTimer timer;
            timer.start();
            window_->reload_logbook();
            window_->show_journal(true);
            window_->logbook_panel().list().viewport()->repaint();
            window_->journal().repaint();
            best = std::min(best, static_cast<double>(timer.nsecsElapsed()) * 1e-6);
            window_->show_journal(false);
        }
        QCOMPARE(window_->logbook_panel().list().rows(), 100000);
        qInfo("logbook and journal of 100,000 entries: %.0f ms", best);
        QVERIFY2(best < 300, qPrintable(QString("%1 ms").arg(best)));
        std::vector<double> frames;
        EntryList& list = window_->logbook_panel().list();
        for (int i = 0; i < 200; ++i) {
            QElapsedTimer timer;
            timer.start();
            list.verticalScrollBar()->setValue(i < 150 ? i * 40 : i * 30011); // along, then far jumps
            list.viewport()->repaint();
            frames.push_back(static_cast<double>(timer.nsecsElapsed()) * 1e-6);
        }
        qInfo("scrolling: median %.2f ms, 95th percentile %.2f ms, worst %.2f ms a frame", median(frames),
              quantile(frames, 0.95), quantile(frames, 1));
        QVERIFY2(quantile(frames, 0.95) < 16, qPrintable(QString::number(quantile(frames, 0.95))));
        std::vector<double> journal;
        window_->show_journal(true);
        for (int attempt = 0; attempt < 3 && (journal.empty() || quantile(journal, 0.95) >= 16);
             ++attempt) { // the machine may be busy for one of them
            journal.clear();
            window_->journal().show_whole();
            for (int i = 0; i < 40; ++i) {
                QElapsedTimer timer;
                timer.start();
                const QPointF at(300, 300);
                QWheelEvent wheel(at, window_->journal().mapToGlobal(at), {}, {0, i < 30 ? 240 : -240}, Qt::NoButton,
                                  {}, Qt::NoScrollPhase, false);
                QApplication::sendEvent(&window_->journal(), &wheel);
                window_->journal().repaint();
                journal.push_back(static_cast<double>(timer.nsecsElapsed()) * 1e-6);
            }
        }
        qInfo("the journal, wheel: median %.2f ms, 95th percentile %.2f ms a frame", median(journal),
              quantile(journal, 0.95));
        QVERIFY2(quantile(journal, 0.95) < 16, qPrintable(QString::number(quantile(journal, 0.95))));
    }
};

MIROLUX_TEST(history_window_test)
#include "history_window_test.moc"
