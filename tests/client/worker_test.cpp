#include "client/async_renderer.h"
#include "core/cost/statistics.h"
#include "core/scene/project.h"
#include "support/hanging_shader.h"
#include "support/test_main.h"
#include <QtTest>
#include <csignal>

using namespace mirolux;

class worker_test : public QObject {
    Q_OBJECT
    std::optional<OpenProject> open_;

    static WorkerOptions options() {
        WorkerOptions o;
        o.workerPath = MIROLUX_BIN "/mirolux-worker";
        return o;
    }
    View view(int width, int height) const {
        View v = open_->project.view;
        v.width = width;
        v.height = height;
        return v;
    }

private slots:
    void initTestCase() {
        auto open = open_project(MIROLUX_DEMO, {.decodeImages = false});
        QVERIFY2(open.has_value(), open ? "" : to_text(open.error()).c_str());
        open_ = std::move(*open);
    }

    void pictures_layers_and_thumbnails_cross_the_wire() {
        WorkerClient worker(options());
        RenderOptions o;
        o.floatLayers = {"final", "depth"};
        o.thumbnails = {"albedo"};
        const auto r = worker.render(scene_of(*open_), open_->project.setup, view(160, 90), o);
        QVERIFY2(r.has_value(), r ? "" : to_text(r.error()).c_str());
        QCOMPARE(r->picture.rgba.size(), std::size_t(160 * 90 * 4));
        QCOMPARE(r->floats.at("final").data.size(), std::size_t(160 * 90 * 4));
        QCOMPARE(r->floats.at("depth").channels, 1);
        QVERIFY(!r->thumbnails.at("albedo").empty());
        QVERIFY(worker.device().has_value());
    }

    /// An edit sent as a difference gives the picture that a fresh worker gives for the whole.
    void an_edit_sent_as_a_difference_gives_the_same_picture() {
        WorkerClient one(options()), other(options());
        Scene scene = scene_of(*open_);
        QVERIFY(one.render(scene, Setup(), view(96, 54), {}).has_value());
        scene.lights[20].intensity *= 30;
        scene.lights.erase(scene.lights.begin() + 40);
        const auto a = one.render(scene, Setup(), view(96, 54), {}), b = other.render(scene, Setup(), view(96, 54), {});
        QVERIFY(a.has_value() && b.has_value());
        QVERIFY(a->picture == b->picture);
    }

    void a_missing_worker_is_one_clear_error() {
        WorkerOptions o;
        o.workerPath = "/nowhere/mirolux-worker";
        WorkerClient worker(o);
        const auto r = worker.render(scene_of(*open_), Setup(), view(16, 9), {});
        QVERIFY(!r.has_value() && !r.error().remedy.empty());
    }

    void a_killed_worker_comes_back() {
        WorkerClient worker(options());
        QVERIFY(worker.render(scene_of(*open_), Setup(), view(32, 18), {}).has_value());
        kill(worker.worker_pid(), SIGKILL);
        const auto lost = worker.render(scene_of(*open_), Setup(), view(32, 18), {});
        QVERIFY(!lost.has_value());
        QVERIFY(worker.render(scene_of(*open_), Setup(), view(32, 18), {}).has_value());
    }

    /// A shader that does not end: the watchdog ends the worker, a new one renders with the folder set aside.
    void a_hanging_shader_is_ended_by_the_watchdog() {
        QTemporaryDir folder;
        WorkerOptions o = options();
        o.shaderFolder = folder.path().toStdString();
        o.watchdogSeconds = 2;
        WorkerClient worker(o);
        std::vector<WorkerEvent::Kind> events;
        worker.on_event([&](const WorkerEvent& e) { events.push_back(e.kind); });
        QVERIFY(worker.render(scene_of(*open_), Setup(), view(64, 36), {}).has_value());
        QVERIFY(test::write_hanging_shader(folder.path()));
        QElapsedTimer clock;
        clock.start();
        const auto hung = worker.render(scene_of(*open_), Setup(), view(64, 36), {});
        QVERIFY(!hung.has_value());
        QVERIFY(hung.error().what.find("no sign of life") != std::string::npos);
        QVERIFY(hung.error().remedy.find("set aside") != std::string::npos);
        QVERIFY(clock.elapsed() < 8000);
        QVERIFY(worker.render(scene_of(*open_), Setup(), view(64, 36), {}).has_value());
        QVERIFY(std::find(events.begin(), events.end(), WorkerEvent::Kind::restarted) != events.end());
    }

    /// Sixty requests at once: the first and the newest are rendered, what lay between is replaced.
    void the_newest_request_wins() {
        std::mutex mutex;
        std::vector<std::uint64_t> answered;
        AsyncRenderer::Listener listener;
        listener.answered = [&](const RenderRequest& r, Result<FrameRecord> record) {
            std::lock_guard lock(mutex);
            if (record) answered.push_back(r.id);
        };
        AsyncRenderer renderer(options(), listener);
        auto request = [&](std::uint64_t id) {
            RenderRequest r;
            r.id = id;
            r.scene = scene_of(*open_);
            r.view = view(320, 180);
            renderer.submit(r);
        };
        request(1);
        QTRY_VERIFY_WITH_TIMEOUT((std::lock_guard(mutex), answered.size() == 1), 20000);
        for (std::uint64_t id = 2; id <= 60; ++id) {
            request(id);
            QTest::qSleep(2);
        }
        QTRY_VERIFY_WITH_TIMEOUT((std::lock_guard(mutex), answered.back() == 60), 20000);
        QVERIFY2(answered.size() < 12, qPrintable(QString::number(answered.size())));
        QVERIFY(renderer.replaced() > 45);
    }
};

MIROLUX_TEST(worker_test)
#include "worker_test.moc"
