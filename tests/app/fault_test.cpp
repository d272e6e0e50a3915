#include "core/cost/logbook.h"
#include "support/processes.h"
#include "window_fixture.h"
#include <QProcess>
#include <csignal>
#include <random>

using namespace mirolux;
using namespace mirolux::app;
using namespace mirolux::test;

/// Worker, command and window are killed at random moments: what is left is whole, and nothing is left running.
class fault_test : public QObject, WindowFixture {
    Q_OBJECT
    std::mt19937 random_{29};
    int wait(int low, int high) { return low + static_cast<int>(random_() % static_cast<unsigned>(high - low)); }

    /// Runs a program on the project, kills it (a measurement while it runs, a window while it draws), and looks at
    /// what it left behind.
    void kill_at_random(const QString& program, const QStringList& arguments, int low, int high) {
        const QString project = fresh_project("killed");
        QFile file(project);
        QVERIFY(file.open(QIODevice::ReadOnly));
        const QByteArray whole = file.readAll();
        file.close();
        const auto before = workers();
        const auto segments = shared_memory_files();
        for (int round = 0; round < rounds(5, 40); ++round) {
            QProcess p;
            QStringList a = arguments;
            p.start(QString(MIROLUX_BIN) + "/" + program, a.replaceInStrings("PROJECT", project));
            QVERIFY(p.waitForStarted());
            QVERIFY(!p.waitForFinished(wait(low, high)));
            p.kill();
            QVERIFY(p.waitForFinished(5000));
            // The worker notices by itself that nobody is there any more.
            QTRY_COMPARE_WITH_TIMEOUT(workers(), before, 15000);
            QVERIFY(file.open(QIODevice::ReadOnly));
            QVERIFY(file.readAll() == whole);
            file.close();
            const auto open = open_project(project.toStdString(), {.decodeImages = false});
            QVERIFY2(open.has_value(), open ? "" : to_text(open.error()).c_str());
            const auto logbook = logbook_path(open->project.path);
            if (std::filesystem::exists(logbook)) {
                auto book = Logbook::open(logbook);
                QVERIFY2(book.has_value(), book ? "" : to_text(book.error()).c_str());
                const auto entries = book->entries();
                QVERIFY(entries.has_value());
                for (const Entry& e : *entries)
                    QVERIFY(book->state(e.id).has_value() && book->measurement_json(e.id).has_value());
            }
        }
        QCOMPARE(shared_memory_files(), segments);
    }

private slots:
    void a_killed_worker_costs_the_window_one_picture() {
        open_window();
        wait_for_rest();
        Document& d = window_->document();
        QSignalSpy picture(&window_->bridge(), &RenderBridge::picture_ready);
        for (int round = 0; round < rounds(6, 60); ++round) {
            const double ev = 0.1 * (round % 20);
            QVERIFY(d.set("exposure.ev100", ev).has_value());
            QTest::qWait(wait(0, 250));
            if (const int pid = window_->bridge().worker_pid()) kill(pid, SIGKILL);
            picture.clear();
            QVERIFY(d.set("exposure.ev100", ev + 0.05).has_value());
            QVERIFY2(picture.wait(30000), qPrintable(QString("no picture after kill %1").arg(round)));
            QCOMPARE(d.project().setup.number("exposure.ev100"), ev + 0.05);
        }
        close_window();
    }
    void a_killed_measurement_leaves_whole_files() {
        kill_at_random("mirolux-cli", {"measure", "PROJECT", "--size", "64x36", "--rounds", "100000", "--log"}, 50,
                       3500);
    }
    void a_killed_window_leaves_whole_files() {
        kill_at_random("mirolux", {"PROJECT", "--log", "--set", "path.kind=tiled-forward"}, 100, 5000);
    }
};

MIROLUX_TEST(fault_test)
#include "fault_test.moc"
