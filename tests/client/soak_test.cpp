#include "client/worker_client.h"
#include "core/scene/project.h"
#include "support/processes.h"
#include "support/test_main.h"
#include <QtTest>
#include <random>

using namespace mirolux;

/// Random setups, one after the other, on one worker: it answers each, and its memory finds a level.
class soak_test : public QObject {
    Q_OBJECT
private slots:
    void a_worker_lives_through_random_setups() {
        auto open = open_project(MIROLUX_DEMO, {.decodeImages = false});
        QVERIFY(open.has_value());
        WorkerClient worker({});
        std::mt19937 random(41);
        const int frames = test::rounds(40, 600);
        double level = 0, most = 0;
        Setup setup = open->project.setup;
        for (int i = 0; i < frames; ++i) {
            const Setting& s = all_settings()[random() % all_settings().size()];
            if (s.kind == SettingKind::choice)
                QVERIFY(setup.set(s.key, s.choices[random() % s.choices.size()]).has_value());
            else if (s.kind == SettingKind::toggle)
                QVERIFY(setup.set(s.key, random() % 2 == 0).has_value());
            View view = open->project.view;
            view.width = 32 + static_cast<int>(random() % 160);
            view.height = 32 + static_cast<int>(random() % 90);
            const auto r = worker.render(scene_of(*open), setup, view, {});
            QVERIFY2(r.has_value(), r ? "" : to_text(r.error()).c_str());
            const double mb = test::resident_mb(worker.worker_pid());
            (i < frames / 2 ? level : most) = std::max(i < frames / 2 ? level : most, mb);
        }
        qInfo("%d frames: %.0f MB at most in the first half, %.0f MB in the second", frames, level, most);
        QVERIFY2(most < 1.25 * level + 40, qPrintable(QString("%1 MB after %2 MB").arg(most).arg(level)));
    }
};

MIROLUX_TEST(soak_test)
#include "soak_test.moc"
