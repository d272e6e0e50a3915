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
    emit walk_progress(0, 0);
    emit measuring_changed(false);
}

/// Tells the window's thread how far the measurement is, while there is one; false once it shall stop.
template <class... Progress, class Tell>
auto RenderBridge::progress(Tell tell) {
    return [this, tell](const Progress&... p) {
        QMetaObject::invokeMethod(
            this,
            [this, tell, p...] {
                if (measuring_) tell(p...);
            },
            Qt::QueuedConnection);
        return !stop_.load();
    };
}

/// Runs `measure` on the renderer's thread, and `done` with its result on the window's; then the picture goes on.
template <class Measured, class Measure, class Done>
void RenderBridge::run_measurement(Measure measure, Done done) {
    begin_measuring();
    renderer_->run([this, measure = std::move(measure), done](RenderSession& session) mutable {
        auto result = std::make_shared<Result<Measured>>(measure(session));
        QMetaObject::invokeMethod(
            this,
            [this, result, done] {
                end_measuring();
                if (*result)
                    done(**result);
                else
                    emit measure_failed(result->error());
                refresh(false);
            },
            Qt::QueuedConnection);
    });
}

MeasureOptions RenderBridge::options_of(int rounds) const {
    MeasureOptions o;
    o.rounds = rounds;
    o.gpuClock = device_ && device_->clock.gpuAccepted;
    return o;
}

void RenderBridge::measure(int rounds, const std::optional<KeepRounds>& keep) {
    if (measuring_ || !document_.is_open()) return;
    const RenderRequest r = request_for(Stage::full);
    // The lights' own switches, not those that the target leaves out: the entry's state can be restored.
    State state = state_of(document_.project());
    state.view = r.view;
    struct Measured {
        Measurement measurement;
        qint64 run = 0;
    };
    MeasureOptions o = options_of(rounds);
    o.progress = progress<MeasureProgress>([this](const MeasureProgress& p) { emit measure_progress(p); });
    run_measurement<Measured>(
        [r, o, state, keep, device = device_](RenderSession& session) mutable -> Result<Measured> {
            // Rounds are kept from this thread, over a connection of its own: none waits for the window.
            std::optional<Logbook> book;
            std::optional<RoundKeeper> keeper;
            if (keep)
                if (auto opened = Logbook::open(keep->logbook)) {
                    book.emplace(std::move(*opened));
                    keeper.emplace(*book,
                                   RunStart{state, device.value_or(DeviceInfo{}), keep->target, keep->sceneDigest});
                    o.kept = [&](const RoundSample& sample) { keeper->keep(sample); };
                }
            auto result = mirolux::measure(session, r.scene, r.setup, r.view, o);
            const qint64 run = keeper ? keeper->run() : 0;
            if (result) return Measured{std::move(*result), run};
            if (run) (void)book->drop_run(run);
            return tl::unexpected(result.error());
        },
        [this, state](const Measured& m) { emit measured(m.measurement, state, m.run); });
}

void RenderBridge::judge_targets(int rounds) {
    if (measuring_ || !document_.is_open()) return;
    MeasureOptions o = options_of(rounds);
    o.progress = progress<MeasureProgress>([this](const MeasureProgress& p) { emit measure_progress(p); });
    run_measurement<std::vector<TargetVerdict>>(
        [r = request_for(Stage::full), o, cases = target_cases(document_.project(), document_.asset())](
            RenderSession& session) { return mirolux::judge_targets(session, cases, r.view, o); },
        [this](const std::vector<TargetVerdict>& verdicts) { emit targets_judged(verdicts); });
}

void RenderBridge::measure_pair(int rounds) {
    if (measuring_ || !document_.is_open() || !b_) return;
    MeasureOptions o = options_of(rounds);
    o.untilClear = true;
    o.precision = 0.01;
    o.progress = progress<MeasureProgress>(
        [this](const MeasureProgress& p) { emit ratio_progress(p.round, p.rounds, p.ratio); });
    run_measurement<PairedMeasurement>(
        [r = request_for(Stage::full), b = *b_, o](RenderSession& session) {
            return measure_paired(session, r.scene, r.setup, b, r.view, o);
        },
        [this](const PairedMeasurement& m) { emit compared(m); });
}

void RenderBridge::walk(const Walk& walk, double everyMetres, int sweeps, int headings) {
    if (measuring_ || !document_.is_open()) return;
    std::vector<Setup> setups{document_.project().setup};
    if (b_) setups.push_back(*b_);
    WalkOptions o;
    o.headings = headings;
    o.everyMetres = everyMetres;
    o.sweeps = sweeps;
    o.gpuClock = options_of(0).gpuClock;
    o.progress = progress<int, int>([this](int done, int all) { emit walk_progress(done, all); });
    run_measurement<std::vector<WalkMeasurement>>(
        [r = request_for(Stage::full), setups, walk, o, headings](RenderSession& session) {
            auto result = measure_walk(session, r.scene, setups, r.view, walk, o);
            if (result && headings > 0)
                for (WalkMeasurement& m : *result)
                    m = worst_directions(m);
            return result;
        },
        [this](const std::vector<WalkMeasurement>& m) { emit walked(m); });
    emit walk_progress(0, 1);
}

} // namespace mirolux::app
