#include "app/choice_row.h"
#include "app/figures/path_figure.h"
#include "core/cost/foresight.h"
#include "window_fixture.h"
#include <QFile>

using namespace mirolux;
using namespace mirolux::app;
using namespace mirolux::test;

/// What a choice would cost is told while the pointer rests on it, before anything is changed.
class foresight_window_test : public QObject, WindowFixture {
    Q_OBJECT
    QTemporaryDir data_;

    static void rest_on(QWidget* w, const QPointF& at) {
        QMouseEvent e(QEvent::MouseMove, at, w->mapToGlobal(at.toPoint()), Qt::NoButton, Qt::NoButton, {});
        QApplication::sendEvent(w, &e);
    }
    static void leave(QWidget* w) {
        QEvent e(QEvent::Leave);
        QApplication::sendEvent(w, &e);
    }
    PassTape& tape() { return window_->deck().tape(); }
    ForesightEngine& engine() { return window_->foresight(); }
    ChoiceRow* row(const char* key) {
        window_->set_station("Path");
        QTest::qWait(50);
        return window_->findChild<ChoiceRow*>(key);
    }
    static char state_of(int pid) {
        QFile stat(QString("/proc/%1/stat").arg(pid));
        return stat.open(QIODevice::ReadOnly) ? stat.readAll().split(' ').value(2).at(0) : '?';
    }
    /// A profile of round numbers in the place of this device's own.
    void keep_a_profile() {
        DeviceProfile p = *find_profile("handheld");
        p.name = "this device";
        p.madeUp = false;
        QVERIFY(keep_own_profile(*window_->bridge().device(), p).has_value());
    }
    void wait_for_counts() {
        wait_for_rest();
        QTRY_VERIFY_WITH_TIMEOUT(window_->bridge().resting(), 30000);
    }

private slots:
    void initTestCase() { qputenv("XDG_DATA_HOME", data_.path().toUtf8()); }
    void init() {
        QDir(data_.path()).removeRecursively();
        open_window();
        QVERIFY(window_->document().set("path.kind", std::string("tiled-deferred")).has_value());
        wait_for_counts();
    }
    void cleanup() { close_window(); }

    void resting_on_a_choice_draws_its_ghost_and_changes_nothing() {
        keep_a_profile();
        const Project before = window_->document().project();
        ChoiceRow* tiles = row("culling.tile");
        QVERIFY(tiles);
        const int other = tiles->current() == 0 ? 1 : 0;
        rest_on(tiles, tiles->cell(other).center());
        QVERIFY(!tape().ghost()); // passing over it is no wish
        QTRY_VERIFY_WITH_TIMEOUT(tape().ghost().has_value(), 60000);
        QVERIFY(window_->document().project() == before);
        const Foresight& f = *tape().ghost();
        QVERIFY2(tape().ghost_words().contains(tiles->words()[other]), qPrintable(tape().ghost_words()));
        QVERIFY(f.ms > 0 && f.lowMs < f.ms && f.ms < f.highMs);
        // What is measured now, pass by pass; what does the same work keeps its time to the digit.
        for (const ForeseenPass& p : f.passes)
            for (const auto& now : window_->bridge().history().passes())
                if (now.name == p.name) {
                    QCOMPARE(p.wasMs, now.median);
                    if (!p.changed) QCOMPARE(p.ms, now.median);
                }
        const auto changed = [&](const char* name) {
            return std::any_of(f.passes.begin(), f.passes.end(),
                               [&](const ForeseenPass& p) { return p.name == name && p.changed; });
        };
        QVERIFY(changed("culling") && !changed("sky") && !changed("g-buffer"));
        tape().grab();
        // The pointer goes: so does the ghost. It comes again without a count.
        leave(tiles);
        QVERIFY(!tape().ghost() && tape().ghost_words().isEmpty());
        QSignalSpy said(&engine(), &ForesightEngine::said);
        rest_on(tiles, tiles->cell(other).center());
        QTRY_VERIFY_WITH_TIMEOUT(tape().ghost().has_value(), 5000);
        QVERIFY(said.isEmpty()); // nothing was to be counted
        // The present choice has nothing to tell.
        rest_on(tiles, tiles->cell(tiles->current()).center());
        QVERIFY(!tape().ghost());
    }

    void a_path_of_the_figure_a_number_and_a_target_are_foreseen() {
        keep_a_profile();
        window_->set_station("Path");
        QTest::qWait(50);
        auto* paths = window_->findChild<PathFigure*>();
        rest_on(paths, paths->row(0).center());
        QTRY_VERIFY_WITH_TIMEOUT(tape().ghost().has_value(), 60000);
        QCOMPARE(tape().ghost()->passes.front().name, std::string("skinning"));
        QCOMPARE(tape().ghost()->passes[1].name, std::string("opaque"));
        QCOMPARE(tape().ghost()->passes[1].wasMs, 0.0); // there is none now
        leave(paths);
        auto* capacity = window_->findChild<NumberField*>("culling.listCapacity");
        QVERIFY(capacity);
        const QRectF g = capacity->gauge();
        rest_on(capacity, {g.left() + g.width() * 0.9, g.center().y()});
        QTRY_VERIFY_WITH_TIMEOUT(tape().ghost().has_value(), 60000);
        QEvent away(QEvent::Leave);
        QApplication::sendEvent(capacity, &away);
        QVERIFY(!tape().ghost());
        window_->document().consider_target(1); // 16 times the pixels
        QTRY_VERIFY_WITH_TIMEOUT(tape().ghost().has_value(), 60000);
        QVERIFY(tape().ghost()->ms > 2 * tape().ghost()->nowMs);
    }

    /// The other paths are counted one by one while there is nothing else to do.
    void every_path_is_foreseen_beside_the_measured_one() {
        keep_a_profile();
        window_->set_station("Path");
        auto* paths = window_->findChild<PathFigure*>();
        (void)window_->document().set("culling.tile", std::string("32"));
        wait_for_counts();
        for (int i = 0; i < 8; ++i)
            if (i == 4)
                QVERIFY(!paths->foreseen(i) && paths->measured_ms(i) > 0);
            else
                QTRY_VERIFY_WITH_TIMEOUT(paths->foreseen(i), 60000);
        QVERIFY2(paths->words(0).startsWith("foreseen: "), qPrintable(paths->words(0)));
        QVERIFY(engine().counts() >= 7);
        (void)window_->document().set("culling.tile", std::string("8")); // another state: forgotten
        QVERIFY(!paths->foreseen(0));
    }

    void without_a_profile_it_asks_once_and_in_one_line() {
        ChoiceRow* tiles = row("culling.tile");
        rest_on(tiles, tiles->cell(tiles->current() == 0 ? 1 : 0).center());
        QTRY_VERIFY_WITH_TIMEOUT(tape().ghost_words().contains("Calibrate"), 5000);
        QVERIFY(!tape().ghost() && !engine().calibrated() && engine().worker_pid() == 0);
        leave(tiles); // the question waits for the pointer
        QVERIFY(tape().ghost_words().contains("Calibrate"));
        QTest::mouseClick(&tape(), Qt::LeftButton, {}, tape().ghost_line().center().toPoint());
        QVERIFY(engine().calibrating());
        // The window is closed in the middle of it, at once.
    }

    void counting_stands_still_while_the_picture_is_worked_on() {
        keep_a_profile();
        ChoiceRow* tiles = row("culling.tile");
        rest_on(tiles, tiles->cell(tiles->current() == 0 ? 1 : 0).center());
        QTRY_VERIFY_WITH_TIMEOUT(engine().worker_pid() > 0, 5000);
        Document& d = window_->document();
        d.set_interactive(true);
        for (int i = 0; i < 20; ++i) {
            (void)d.set("exposure.ev100", 0.1 * i, "drag");
            QTest::qWait(16);
        }
        QVERIFY(engine().paused());
        QTRY_COMPARE_WITH_TIMEOUT(state_of(engine().worker_pid()), 'T', 2000);
        d.set_interactive(false);
        QTRY_VERIFY_WITH_TIMEOUT(!engine().paused(), 30000);
        QVERIFY(state_of(engine().worker_pid()) != 'T');
    }

    void a_choice_that_came_out_otherwise_is_told() {
        keep_a_profile(); // of another device: it is far off
        window_->set_station("Path");
        QTest::qWait(50);
        auto* paths = window_->findChild<PathFigure*>();
        rest_on(paths, paths->row(1).center()); // additive
        QTRY_VERIFY_WITH_TIMEOUT(tape().ghost().has_value(), 60000);
        QSignalSpy missed(&engine(), &ForesightEngine::missed);
        const Foresight said = *tape().ghost();
        QTest::mouseClick(paths, Qt::LeftButton, {}, paths->row(1).center().toPoint());
        QVERIFY(tape().ghost_words().isEmpty());
        QVERIFY(missed.wait(60000));
        PassTimes times;
        for (const auto& p : window_->bridge().history().passes())
            times[p.name] = p.median;
        QCOMPARE(missed.front().front().toString().isEmpty(), foresight_miss(said, times).empty());
    }
};

MIROLUX_TEST(foresight_window_test)
#include "foresight_window_test.moc"
