#include "app/render_bridge.h"
#include <QMetaObject>

// Measurements: of the state, of every target, of A against B, along a walk.
namespace mirolux::app {

void RenderBridge::begin_measuring() {
    measuring_ = true;
    set_resting(false);
    stop_ = false;
    emit measuring_changed(true);
}

void RenderBridge::end_measuring() {
    measuring_ = false;
    emit measuring_changed(false);
}

void RenderBridge::measure(int rounds, const std::optional<KeepRounds>& keep) {
    if (measuring_ || !document_.is_open()) return;
    begin_measuring();
    const RenderRequest r = request_for(Stage::full);
    State state{r.setup, r.scene.lights, r.view};
    renderer_->run([this, r, rounds, state, keep, device = device_](RenderSession& session) {
        MeasureOptions o;
        o.rounds = rounds;
        o.gpuClock = device && device->clock.gpuAccepted;
        o.progress = [this](const MeasureProgress& p) {
            QMetaObject::invokeMethod(
                this,
                [this, p] {
                    if (measuring_) emit measure_progress(p);
                },
                Qt::QueuedConnection);
            return !stop_.load();
        };
        // Rounds are kept from this thread, over a connection of its own: none waits for the window.
        std::optional<Logbook> book;
        std::optional<RoundKeeper> keeper;
        if (keep)
            if (auto opened = Logbook::open(keep->logbook)) {
                book.emplace(std::move(*opened));
                keeper.emplace(*book, RunStart{state, device.value_or(DeviceInfo{}), keep->target, keep->sceneDigest});
                o.kept = [&](const RoundSample& sample) { keeper->keep(sample); };
            }
        auto result = std::make_shared<Result<Measurement>>(mirolux::measure(session, r.scene, r.setup, r.view, o));
        const qint64 run = keeper ? keeper->run() : 0;
        if (!*result && run) (void)book->drop_run(run);
        QMetaObject::invokeMethod(
            this,
            [this, result, state, run] {
                end_measuring();
                if (*result)
                    emit measured(**result, state, run);
                else
                    emit measure_failed(result->error());
                refresh(false);
            },
            Qt::QueuedConnection);
    });
}

void RenderBridge::judge_targets(int rounds) {
    if (measuring_ || !document_.is_open()) return;
    begin_measuring();
    const bool gpuClock = device_ && device_->clock.gpuAccepted;
    renderer_->run([this, r = request_for(Stage::full), targets = document_.project().targets, rounds,
                    gpuClock](RenderSession& session) {
        MeasureOptions o;
        o.rounds = rounds;
        o.gpuClock = gpuClock;
        o.progress = [this](const MeasureProgress& p) {
            QMetaObject::invokeMethod(
                this,
                [this, p] {
                    if (measuring_) emit measure_progress(p);
                },
                Qt::QueuedConnection);
            return !stop_.load();
        };
        auto result = std::make_shared<Result<std::vector<TargetVerdict>>>(
            mirolux::judge_targets(session, r.scene, r.setup, r.view, targets, o));
        QMetaObject::invokeMethod(
            this,
            [this, result] {
                end_measuring();
                if (*result)
                    emit targets_judged(**result);
                else
                    emit measure_failed(result->error());
                refresh(false);
            },
            Qt::QueuedConnection);
    });
}

void RenderBridge::measure_pair(int rounds) {
    if (measuring_ || !document_.is_open() || !b_) return;
    begin_measuring();
    const bool gpuClock = device_ && device_->clock.gpuAccepted;
    renderer_->run([this, r = request_for(Stage::full), b = *b_, rounds, gpuClock](RenderSession& session) {
        MeasureOptions o;
        o.rounds = rounds;
        o.gpuClock = gpuClock;
        o.untilClear = true;
        o.precision = 0.01;
        o.progress = [this](const MeasureProgress& p) {
            QMetaObject::invokeMethod(
                this,
                [this, p] {
                    if (measuring_) emit ratio_progress(p.round, p.rounds, p.ratio);
                },
                Qt::QueuedConnection);
            return !stop_.load();
        };
        auto result =
            std::make_shared<Result<PairedMeasurement>>(measure_paired(session, r.scene, r.setup, b, r.view, o));
        QMetaObject::invokeMethod(
            this,
            [this, result] {
                end_measuring();
                if (*result)
                    emit compared(**result);
                else
                    emit measure_failed(result->error());
                refresh(false);
            },
            Qt::QueuedConnection);
    });
}

void RenderBridge::walk(const Walk& walk, double everyMetres, int sweeps, int headings) {
    if (measuring_ || !document_.is_open()) return;
    begin_measuring();
    emit walk_progress(0, 1);
    const bool gpuClock = device_ && device_->clock.gpuAccepted;
    std::vector<Setup> setups{document_.project().setup};
    if (b_) setups.push_back(*b_);
    renderer_->run([this, r = request_for(Stage::full), setups, walk, everyMetres, sweeps, headings,
                    gpuClock](RenderSession& session) {
        WalkOptions o;
        o.headings = headings;
        o.everyMetres = everyMetres;
        o.sweeps = sweeps;
        o.gpuClock = gpuClock;
        o.progress = [this](int done, int all) {
            QMetaObject::invokeMethod(
                this,
                [this, done, all] {
                    if (measuring_) emit walk_progress(done, all);
                },
                Qt::QueuedConnection);
            return !stop_.load();
        };
        auto result = std::make_shared<Result<std::vector<WalkMeasurement>>>(
            measure_walk(session, r.scene, setups, r.view, walk, o));
        if (*result && headings > 0)
            for (WalkMeasurement& m : **result)
                m = worst_directions(m);
        QMetaObject::invokeMethod(
            this,
            [this, result] {
                end_measuring();
                emit walk_progress(0, 0);
                if (*result)
                    emit walked(**result);
                else
                    emit measure_failed(result->error());
                refresh(false);
            },
            Qt::QueuedConnection);
    });
}

} // namespace mirolux::app
