#include "client/async_renderer.h"
#include "core/cost/statistics.h"
#include "core/scene/project.h"
#include "support/hanging_shader.h"
#include "support/test_main.h"
#include <QtTest>
#include <csignal>
#include <thread>

using namespace mirolux;

class worker_test : public QObject {
    Q_OBJECT
    std::optional<OpenProject> open_;

    static WorkerOptions options() { return {}; } // the worker beside this program, or MIROLUX_WORKER
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

    /// Clouds and cheap lights reach the worker, and leave it again.
    void clouds_and_cheap_lights_cross_the_wire() {
        WorkerClient worker(options());
        const Scene plain = scene_of(*open_);
        Scene cloudy = plain, tinted = plain;
        AirVolume cloud;
        cloud.id = 1;
        cloud.center = open_->project.view.camera.aim;
        cloud.size = glm::vec3(12);
        cloud.extinction = 0.5f;
        cloudy.volumes = {cloud};
        tinted.cheapLights = {starter(CheapStart::sky, 5, {}), starter(CheapStart::ball, 5, cloud.center)};
        tinted.cheapLights[0].id = 0;
        tinted.cheapLights[1].id = 1;
        tinted.cheapLights[1].reach = 30;
        Setup air, cheap;
        QVERIFY(air.set_text("air.kind", "froxels") && air.set_text("air.extinction", "0.001"));
        QVERIFY(cheap.set_text("viewLights.kind", "ramp") && cheap.set_text("solidLights.kind", "stencil"));
        for (const auto& [scene, setup] : {std::pair(&cloudy, &air), std::pair(&tinted, &cheap)}) {
            Scene without = *scene;
            without.volumes.clear();
            without.cheapLights.clear();
            const auto before = worker.render(without, *setup, view(96, 54), {}),
                       with = worker.render(*scene, *setup, view(96, 54), {}),
                       after = worker.render(without, *setup, view(96, 54), {});
            QVERIFY(before && with && after);
            QVERIFY(before->picture == after->picture);
            QVERIFY(!(before->picture == with->picture));
        }
    }

    void a_missing_worker_is_one_clear_error() {
        WorkerOptions o;
        o.workerPath = "/nowhere/mirolux-worker";
        WorkerClient worker(o);
        const auto r = worker.render(scene_of(*open_), Setup(), view(16, 9), {});
        QVERIFY(!r.has_value() && !r.error().remedy.empty());
    }

    /// A worker that dies while idle costs nothing: the next request is answered by a new one, with the lights that it
    /// was never sent a difference for.
    void a_worker_killed_while_idle_is_replaced_unseen() {
        WorkerClient worker(options());
        std::vector<WorkerEvent> events;
        worker.on_event([&](const WorkerEvent& e) { events.push_back(e); });
        Scene scene = scene_of(*open_);
        scene.lights[20].intensity *= 30;
        const auto before = worker.render(scene, Setup(), view(32, 18), {});
        QVERIFY(before.has_value());
        kill(worker.worker_pid(), SIGKILL);
        QTest::qSleep(200);
        const auto after = worker.render(scene, Setup(), view(32, 18), {});
        QVERIFY2(after.has_value(), after ? "" : to_text(after.error()).c_str());
        QVERIFY(after->picture == before->picture);
        QVERIFY(std::any_of(events.begin(), events.end(), [](const WorkerEvent& e) {
            return e.kind == WorkerEvent::Kind::lost && e.text.find("signal 9") != std::string::npos;
        }));
    }

    /// Ending a client whose worker is gone neither throws nor waits.
    void a_client_ends_at_once_when_its_worker_is_gone() {
        QElapsedTimer clock;
        {
            WorkerClient worker(options());
            QVERIFY(worker.render(scene_of(*open_), Setup(), view(32, 18), {}).has_value());
            kill(worker.worker_pid(), SIGKILL);
            clock.start();
        }
        QVERIFY2(clock.elapsed() < 1500, qPrintable(QString::number(clock.elapsed())));
    }

    void a_worker_that_ends_at_its_start_is_an_error_that_says_how() {
        WorkerOptions o;
        o.workerPath = "/bin/false";
        WorkerClient worker(o);
        QElapsedTimer clock;
        clock.start();
        const auto r = worker.render(scene_of(*open_), Setup(), view(16, 9), {});
        QVERIFY(!r.has_value());
        QVERIFY2(r.error().what.find("ended with code 1") != std::string::npos, to_text(r.error()).c_str());
        QVERIFY(clock.elapsed() < 5000);
    }

    /// Pictures cross in memory without a name: whatever is killed when, nothing stays in /dev/shm.
    void nothing_is_left_in_shared_memory() {
        const auto segments = [] { return QDir("/dev/shm").entryList({"mirolux*"}, QDir::Files).size(); };
        const auto level = segments();
        for (int i = 0; i < 5; ++i) {
            WorkerClient worker(options());
            std::thread killer([&] {
                QTest::qSleep(150 + 60 * i);
                if (const int pid = worker.worker_pid()) kill(pid, SIGKILL);
            });
            RenderOptions o;
            o.floatLayers = {"final", "depth", "albedo"};
            for (int k = 0; k < 4; ++k)
                (void)worker.render(scene_of(*open_), Setup(), view(320, 180), o);
            killer.join();
        }
        QCOMPARE(segments(), level);
    }

    /// The file that the worker reads is no longer the one that was opened: an error, and never a wrong picture.
    void a_scene_file_that_changed_is_found_out() {
        QTemporaryDir folder;
        const QString copy = folder.filePath("quay.glb");
        QVERIFY(QFile::copy(QString::fromStdString(open_->project.scenePath), copy));
        auto open = open_project(copy.toStdString(), {.decodeImages = false});
        QVERIFY(open.has_value());
        QFile file(copy);
        QVERIFY(file.open(QIODevice::ReadWrite));
        QByteArray bytes = file.readAll();
        const auto at = bytes.indexOf("\"intensity\":");
        QVERIFY(at > 0);
        bytes[at + 12] = bytes[at + 12] == '9' ? '8' : '9';
        file.seek(0);
        file.write(bytes);
        file.close();
        WorkerClient worker(options());
        const auto r = worker.render(scene_of(*open), Setup(), view(16, 9), {});
        QVERIFY(!r.has_value());
        QVERIFY2(r.error().what.find("has changed") != std::string::npos, to_text(r.error()).c_str());
        auto again = open_project(copy.toStdString(), {.decodeImages = false});
        QVERIFY(again.has_value());
        Scene scene = scene_of(*again);
        scene.lights[3].intensity *= 5; // the edits of before
        const auto reloaded = worker.render(scene, Setup(), view(32, 18), {});
        QVERIFY(reloaded.has_value());
        WorkerClient fresh(options());
        QVERIFY(fresh.render(scene, Setup(), view(32, 18), {})->picture == reloaded->picture);
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
        QVERIFY2(hung.error().what.find("while rendering 64x36") != std::string::npos,
                 hung.error().what.c_str()); // what was going on
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
