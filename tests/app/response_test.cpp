#include "app/main_window.h"
#include "app/theme.h"
#include "core/blocks/volume.h"
#include "core/cost/statistics.h"
#include "support/hanging_shader.h"
#include "support/test_main.h"
#include <QApplication>
#include <QProcess>
#include <QtTest>

using namespace mirolux;
using namespace mirolux::app;

/// How quickly the window answers, whatever the renderer does.
class response_test : public QObject {
    Q_OBJECT
    // Machines are noisy: a promise holds if it holds in one of a few attempts; a real loss fails all of them.
    static constexpr int attempts = 8;

    static WorkerOptions options() {
        WorkerOptions o;
        o.workerPath = MIROLUX_BIN "/mirolux-worker";
        return o;
    }

    /// Posts an event each few milliseconds from another thread and notes how long the window's thread takes to come to
    /// it.
    static std::vector<double> probe(int ms, const std::function<void()>& meanwhile) {
        std::vector<double> waits;
        std::atomic<bool> end{false};
        QObject receiver;
        std::thread sender([&] {
            while (!end) {
                const auto posted = std::chrono::steady_clock::now();
                QMetaObject::invokeMethod(
                    &receiver,
                    [&waits, posted] {
                        waits.push_back(
                            std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - posted)
                                .count());
                    },
                    Qt::QueuedConnection);
                std::this_thread::sleep_for(std::chrono::milliseconds(7));
            }
        });
        QElapsedTimer clock;
        clock.start();
        while (clock.elapsed() < ms) {
            meanwhile();
            QEventLoop loop; // woken by each event, as the program's own is
            QTimer::singleShot(20, &loop, &QEventLoop::quit);
            loop.exec();
        }
        end = true;
        sender.join();
        QCoreApplication::processEvents();
        return waits;
    }

    static void open_demo(MainWindow& window) {
        window.show();
        QVERIFY(QTest::qWaitForWindowExposed(&window));
        QVERIFY(window.open(MIROLUX_DEMO, false));
        QSignalSpy settled(&window, &MainWindow::settled_down);
        QVERIFY(settled.wait(60000));
    }
    /// Median milliseconds from a request to its picture while something is moved sixty times a second, as a hand does;
    /// the best of some attempts, the first under `bound` ends them.
    template <class Move>
    static double best_of_drags(MainWindow& window, const char* what, int ms, double bound, Move move) {
        double best = 1e9;
        for (int attempt = 0; attempt < attempts && best >= bound; ++attempt) {
            const std::size_t before = window.bridge().quick_latencies().size();
            window.document().set_interactive(true);
            QElapsedTimer clock;
            clock.start();
            while (clock.elapsed() < ms) {
                move();
                QTest::qWait(16);
            }
            window.document().set_interactive(false);
            std::vector<double> latencies = window.bridge().quick_latencies();
            latencies.erase(latencies.begin(), latencies.begin() + static_cast<std::ptrdiff_t>(before));
            if (latencies.size() < 8) continue; // a full picture was under way for most of the time
            latencies.erase(latencies.begin(),
                            latencies.begin() +
                                static_cast<std::ptrdiff_t>(latencies.size() / 4)); // the scale finds itself first
            qInfo("%s: %zu pictures; request to picture: median %.1f ms, p95 %.1f ms; quick scale %.2f", what,
                  latencies.size(), median(latencies), quantile(latencies, 0.95), window.bridge().quick_scale());
            best = std::min(best, median(latencies));
        }
        return best;
    }

private slots:
    void cleanup() { QSettings().clear(); }
    void initTestCase() { use_theme(*qApp, true); }

    void input_is_answered_while_frames_take_half_a_second() {
        MainWindow window(options());
        window.show();
        QVERIFY(QTest::qWaitForWindowExposed(&window));
        QVERIFY(window.open(MIROLUX_DEMO, false));
        Document& d = window.document();
        // Heavy enough: the additive path at the desk's size takes over 500 ms a frame on the software renderer.
        QVERIFY(d.set("path.kind", std::string("additive")).has_value());
        QTRY_VERIFY_WITH_TIMEOUT(window.bridge().last_full().answerMs > 500, 120000);
        std::size_t requests = 0;
        double best = 1e9;
        for (int attempt = 0; attempt < attempts && best >= 16.0; ++attempt) {
            const auto waits = probe(6000, [&] {
                if (++requests % 20 == 0)
                    (void)d.set("exposure.ev100", 0.1 * static_cast<double>(requests % 7)); // edits go on meanwhile
            });
            const double p99 = quantile(waits, 0.99);
            qInfo("%zu events; p50 %.2f ms, p99 %.2f ms, worst %.2f ms, frames of %.0f ms", waits.size(), median(waits),
                  p99, quantile(waits, 1), window.bridge().last_full().answerMs);
            QVERIFY(waits.size() > 300);
            best = std::min(best, p99);
        }
        QVERIFY2(best < 16.0, qPrintable(QString::number(best)));
        d.forget_autosave();
    }

    /// A world of 512 cells an edge opens soon, and the window answers while lamps come and go and all is lit anew.
    void input_is_answered_while_a_large_world_is_lit() {
        QTemporaryDir folder;
        QVERIFY(QProcess::execute(MIROLUX_BIN "/mirolux-make-demo", {folder.path(), "--edge", "512"}) == 0);
        MainWindow window(options());
        window.show();
        QVERIFY(QTest::qWaitForWindowExposed(&window));
        double opened = 1e9;
        for (int attempt = 0; attempt < 3 && opened >= 10000; ++attempt) {
            QSignalSpy pictures(&window.bridge(), &RenderBridge::picture_ready);
            QElapsedTimer clock;
            clock.start();
            QVERIFY(window.open(folder.filePath("islet-512.blocks"), false));
            QTRY_VERIFY_WITH_TIMEOUT(pictures.count() > 0, 60000);
            opened = double(clock.elapsed());
        }
        qInfo("512^3: open and seen in %.1f s", opened / 1000);
        QVERIFY2(opened < 10000, qPrintable(QString::number(opened)));
        Document& d = window.document();
        QVERIFY(d.is_blocks() && d.project().blocks->still.size() == glm::ivec3(512));
        const std::uint8_t lamp = [&] {
            for (std::size_t m = 1; m < d.project().blocks->palette.size(); ++m)
                if (d.project().blocks->palette[m].shines()) return std::uint8_t(m);
            return std::uint8_t(0);
        }();
        QVERIFY(lamp > 0);
        std::size_t ticks = 0;
        double best = 1e9;
        for (int attempt = 0; attempt < 3 * attempts && best >= 16.0; ++attempt) {
            const auto waits = probe(8000, [&] {
                if (++ticks % 12 == 0) // a lamp is put, or taken away
                    d.edit_blocks("lamp", [&](blocks::World& w) {
                        const glm::ivec3 at(200 + int(ticks % 97), 60, 250 + int(ticks % 31));
                        w.still.set(at, w.still.at(at) == lamp ? 0 : lamp);
                    });
                if (ticks % 150 == 149) (void)d.set("flood.loss", 1 + int(ticks / 150 % 3)); // all is lit anew
            });
            const double p99 = quantile(waits, 0.99);
            qInfo("512^3: %zu events; p50 %.2f ms, p99 %.2f ms, worst %.2f ms", waits.size(), median(waits), p99,
                  quantile(waits, 1));
            QVERIFY(waits.size() > 300);
            best = std::min(best, p99);
        }
        QVERIFY2(best < 16.0, qPrintable(QString::number(best)));
        d.forget_autosave();
    }

    /// Figures redraw, thumbnails of every write arrive, and choices are counted and foreseen, all at once.
    void input_is_answered_while_figures_thumbnails_and_foresight_are_at_work() {
        QTemporaryDir data;
        qputenv("XDG_DATA_HOME", data.path().toUtf8());
        MainWindow window(options());
        window.show();
        QVERIFY(QTest::qWaitForWindowExposed(&window));
        QVERIFY(window.open(MIROLUX_DEMO, false));
        window.set_station("Path");
        QTRY_VERIFY_WITH_TIMEOUT(window.bridge().resting(), 60000);
        DeviceProfile profile = *find_profile("desktop");
        QVERIFY(keep_own_profile(*window.bridge().device(), profile).has_value());
        window.show_anatomy(true);
        Document& d = window.document();
        QSignalSpy thumbnails(&window, &MainWindow::anatomy_drawn),
            foreseen(&window.foresight(), &ForesightEngine::foreseen);
        static const char* const tiles[] = {"8", "16", "32"};
        (void)d.set("path.kind", std::string("tiled-deferred"));
        (void)d.set("shadow.maps", false); // the drag below has them; here it is what the window does that counts
        double best = 1e9;
        for (int attempt = 0; attempt < attempts && best >= 16.0; ++attempt) {
            std::size_t ticks = 0;
            const auto waits = probe(9000, [&] {
                ++ticks;
                if (ticks % 200 == 0) (void)d.set("culling.tile", std::string(tiles[ticks / 200 % 3]));
                if (ticks % 40 == 0) d.consider("path.maxLights", int(ticks / 40 % 9) + 2);
                if (ticks % 60 == 0) d.consider("culling.tile", std::string(tiles[ticks / 60 % 3]));
            });
            const double p99 = quantile(waits, 0.99);
            qInfo("%zu events; p50 %.2f ms, p99 %.2f ms, worst %.2f ms; %d sets of thumbnails, %d foresights",
                  waits.size(), median(waits), p99, quantile(waits, 1), int(thumbnails.count()), int(foreseen.count()));
            QVERIFY(waits.size() > 400);
            best = std::min(best, p99);
        }
        QVERIFY2(best < 16.0, qPrintable(QString::number(best)));
        QVERIFY(thumbnails.count() > 0);
        QTRY_VERIFY_WITH_TIMEOUT(foreseen.count() > 0, 60000);
        qunsetenv("XDG_DATA_HOME");
        d.forget_autosave();
    }

    void a_light_drag_is_answered_within_100_ms() {
        MainWindow window(options());
        open_demo(window);
        Document& d = window.document();
        const int id = d.project().lights[30].id;
        int moves = 0;
        const double best = best_of_drags(window, "a light", 7000, 100.0, [&] {
            d.edit_light(
                "drag", id, [&](Light& l) { l.position.x += 0.02f * ((++moves / 40) % 2 ? 1 : -1); }, "handle");
        });
        QVERIFY2(best < 100.0, qPrintable(QString::number(best)));
        d.forget_autosave();
    }

    /// Sun, sky and the light of both: without shadows a drag is answered as any other; with them all that the sun
    /// lights is drawn once more each time, and with cells of air every one of them is lit anew: how long that takes is
    /// told, and bounded well above.
    void dragging_the_sun_is_answered_within_100_ms() {
        MainWindow window(options());
        open_demo(window);
        QSignalSpy settled(&window, &MainWindow::settled_down);
        Document& d = window.document();
        for (const auto& [key, word] : {std::pair("sky.kind", "atmosphere"), {"ambient.kind", "environment"}})
            QVERIFY(d.set(key, std::string(word)).has_value());
        QVERIFY(d.set("exposure.ev100", 13.0).has_value());
        struct Case {
            const char *name, *shadows, *air;
            double bound; // ms
        };
        for (const auto& [name, shadows, air, bound] : {Case{"the sun, with shadows", "on", "none", 250},
                                                        {"the sun", "off", "none", 100},
                                                        {"the sun, with cells of air", "off", "froxels", 1500}}) {
            QVERIFY(d.set("shadow.maps", std::string(shadows) == "on").has_value());
            if (d.project().setup.choice("air.kind") != air) QVERIFY(d.set("air.kind", std::string(air)).has_value());
            QVERIFY(settled.wait(60000));
            double elevation = 20;
            const double best = best_of_drags(window, name, 5000, bound, [&] {
                elevation = elevation > 60 ? 20 : elevation + 0.1;
                (void)d.set("sun.elevation", elevation, "drag");
            });
            // In a slow hour of the machine it is held against what a lamp's drag takes in the same minute.
            const double pace = best < bound ? 0 : best_of_drags(window, "a lamp, for its pace", 5000, 1e9, [&] {
                d.edit_light(
                    "drag", d.project().lights[30].id, [](Light& l) { l.intensity *= 1.01f; }, "pace");
            });
            const double allowed = std::max(bound, 1.35 * pace);
            QVERIFY2(best < allowed, qPrintable(QString("%1: %2 of %3 ms").arg(name).arg(best).arg(allowed)));
        }
        d.forget_autosave();
    }

    void first_picture_of_the_demo_comes_within_three_seconds() {
        double best = 1e9;
        for (int i = 0; i < 3; ++i) { // warm: the first start fills the caches
            QProcess p;
            QTemporaryDir folder;
            p.start(QString(MIROLUX_BIN) + "/mirolux",
                    {"--startup-times", "--screenshot", folder.filePath("x.png"), MIROLUX_DEMO});
            QVERIFY(p.waitForFinished(120000));
            const QString out = p.readAllStandardOutput();
            const auto match = QRegularExpression("first picture painted\\s+(\\d+) ms").match(out);
            QVERIFY2(match.hasMatch(), qPrintable(out));
            best = std::min(best, match.captured(1).toDouble());
            if (i == 2) qInfo("%s", qPrintable(out));
        }
        QVERIFY2(best < 3000, qPrintable(QString::number(best)));
    }

    /// A shader that hangs: the window stays alive, the worker comes back, setup and edits are intact.
    void a_hanging_shader_leaves_window_and_setup_intact() {
        QTemporaryDir folder;
        WorkerOptions o = options();
        o.shaderFolder = folder.path().toStdString();
        MainWindow window(o);
        auto* longest = window.findChild<NumberField*>("watchdog");
        emit longest->edited(2); // the limit is the user's, and holds at once
        window.show();
        QVERIFY(QTest::qWaitForWindowExposed(&window));
        QVERIFY(window.open(MIROLUX_DEMO, false));
        QSignalSpy settled(&window, &MainWindow::settled_down);
        QVERIFY(settled.wait(60000));
        Document& d = window.document();
        QVERIFY(d.set("path.maxLights", 5).has_value());
        const int before = window.bridge().worker_pid();
        QVERIFY(test::write_hanging_shader(folder.path()));
        QVERIFY(d.set("exposure.ev100", 0.4).has_value());
        QSignalSpy said(&window.bridge(), &RenderBridge::worker_said);
        const auto waits = probe(7000, [] {});
        QVERIFY2(quantile(waits, 0.99) < 50.0,
                 qPrintable(QString::number(quantile(waits, 0.99)))); // the strict bound has a test of its own
        QVERIFY(said.count() >= 2);                                   // lost, and started again
        QVERIFY(window.bridge().worker_pid() != before);
        QCOMPARE(d.project().setup.whole("path.maxLights"), 5);
        QVERIFY(d.can_undo());
        // And it renders again.
        QVERIFY(d.set("exposure.ev100", 0.6).has_value());
        QSignalSpy picture(&window.bridge(), &RenderBridge::picture_ready);
        QVERIFY(picture.wait(30000));
        d.forget_autosave();
    }
};

MIROLUX_TEST(response_test)
#include "response_test.moc"
