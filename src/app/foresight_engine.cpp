#include "app/foresight_engine.h"
#include "core/base/text.h"
#include <csignal>

namespace mirolux::app {

static constexpr int restMs = 220; // passing over a choice is not a wish
static constexpr std::size_t mostKnown = 32;

ForesightEngine::ForesightEngine(Document& document, const RenderBridge& bridge, WorkerOptions options, QObject* parent)
    : QObject(parent), document_(document), bridge_(bridge), options_(std::move(options)) {
    rest_.setSingleShot(true);
    rest_.setInterval(restMs);
    connect(&rest_, &QTimer::timeout, this, &ForesightEngine::rested);
    lingering_.setSingleShot(true);
    lingering_.setInterval(12000);
    connect(&lingering_, &QTimer::timeout, this, [this] {
        asksConsent_ = false;
        if (!choice_) emit nothing();
    });
    connect(this, &ForesightEngine::said, this, [this](const QString&, bool asks) { asksConsent_ = asks; });
    connect(&document_, &Document::considered, this, &ForesightEngine::consider);
    connect(&bridge_, &RenderBridge::resting_changed, this, [this](bool resting) {
        pause(!resting);
        if (!resting) return;
        check_taken();
        if (choice_) rested();
        go_on();
    });
    options_.watchdogSeconds = 86400; // it stands still for as long as someone works
    paused_ = !bridge_.resting();
}

ForesightEngine::~ForesightEngine() {
    for (auto* r : {&counter_, &calibrator_})
        if (*r && (*r)->worker_pid()) ::kill((*r)->worker_pid(), SIGKILL); // what it is at is of no use any more
}

void ForesightEngine::pause(bool on) {
    paused_ = on;
    for (auto* r : {&counter_, &calibrator_})
        if (*r && (*r)->worker_pid()) ::kill((*r)->worker_pid(), on ? SIGSTOP : SIGCONT);
}

void ForesightEngine::consider(const std::optional<Consideration>& choice) {
    if (choice_ && choice && choice_->setup == choice->setup && choice_->view == choice->view) return;
    const bool had = choice_.has_value();
    choice_ = choice;
    rest_.stop();
    if (choice_) rest_.start();
    if (!had) return;
    if (choice_ || !asksConsent_) return emit nothing();
    lingering_.start(); // the question stays until the pointer has come to it
}

PassTimes ForesightEngine::times() const {
    PassTimes out;
    for (const auto& pass : bridge_.history().passes())
        out[pass.name] = pass.median;
    return out;
}

/// The present frame, once it is counted and measured.
const CountedFrame* ForesightEngine::now() {
    const FrameHistory& history = bridge_.history();
    if (history.frames() < 3) return nullptr;
    forget_other_scenes();
    const Setup& setup = document_.project().setup;
    const View view = on_target(document_.project().view, document_.target());
    if (!now_ || !(now_->setup == setup) || !(now_->view == view))
        now_ = Known{setup, view, {plan_frame(document_.scene(), setup, view), {}}};
    CountedFrame& frame = now_->frame;
    frame.work.clear();
    for (const PlannedPass& pass : frame.plan.passes) {
        const auto& passes = history.passes();
        const auto it = std::find_if(passes.begin(), passes.end(), [&](const auto& p) { return p.name == pass.name; });
        if (it == passes.end() || !it->counted) return nullptr;
        frame.work.push_back(it->work);
    }
    return &frame;
}

const CountedFrame* ForesightEngine::known(const Consideration& choice) const {
    for (const Known& k : known_)
        if (k.setup == choice.setup && k.view == choice.view) return &k.frame;
    return nullptr;
}

bool ForesightEngine::take_profile() {
    if (!profile_ && bridge_.device())
        if (auto own = own_profile(*bridge_.device())) profile_ = std::move(*own);
    return profile_.has_value();
}

/// Counts hold for one scene with its lights only.
void ForesightEngine::forget_other_scenes() {
    const Scene scene = document_.scene();
    if (scene.asset == scene_.asset && scene.lights == scene_.lights && scene.motions == scene_.motions &&
        scene.sky == scene_.sky)
        return;
    scene_ = scene;
    known_.clear();
    now_.reset();
    asked_.clear();
}

void ForesightEngine::rested() {
    if (!choice_ || !document_.is_open() || document_.interactive() || bridge_.measuring()) return;
    if (!document_.target().profile.empty()) return; // the tape itself is a prediction then
    if (calibrating())
        return emit said(tr("%1: foresight comes once this device is calibrated").arg(choice_->words), false);
    if (!bridge_.device()) return;
    if (!take_profile())
        return emit said(tr("%1: no foresight yet. Calibrate this device, beside your work, for about two minutes?")
                             .arg(choice_->words),
                         true);
    forget_other_scenes();
    if (const CountedFrame* next = known(*choice_)) return show_known(*next);
    emit said(tr("%1: counting its work").arg(choice_->words), false);
    if (bridge_.resting()) count(*choice_);
}

void ForesightEngine::show_known(const CountedFrame& next) {
    const CountedFrame* present = now();
    if (!present) return emit said(tr("%1: the present frame is not measured yet").arg(choice_->words), false);
    const auto foreseen = foresee(*profile_, *present, times(), next);
    if (!foreseen) return emit said(QString::fromStdString(to_text(foreseen.error())), false);
    last_ = Taken{choice_->setup, choice_->view, *foreseen};
    emit this->foreseen(choice_->words + ": " + QString::fromStdString(foresight_words(*foreseen)), *foreseen);
}

std::unique_ptr<AsyncRenderer> ForesightEngine::started(WorkerOptions options) {
    AsyncRenderer::Listener listener;
    listener.answered = [this](const RenderRequest& request, Result<FrameRecord> record) {
        auto frame = std::make_shared<std::optional<CountedFrame>>();
        if (record) *frame = counted_frame(plan_frame(request.scene, request.setup, request.view), *record);
        QMetaObject::invokeMethod(
            this,
            [this, id = request.id, frame] {
                const auto it = asked_.find(id);
                if (it == asked_.end()) return;
                Known k = std::move(it->second);
                asked_.erase(asked_.begin(), std::next(it)); // older ones were replaced
                if (!*frame) return;                         // the choice itself will say what is wrong with it
                ++counts_;
                k.frame = std::move(**frame);
                known_.push_back(std::move(k));
                if (known_.size() > mostKnown) known_.erase(known_.begin());
                if (choice_ && choice_->setup == known_.back().setup && choice_->view == known_.back().view)
                    show_known(known_.back().frame);
                go_on();
            },
            Qt::QueuedConnection);
    };
    listener.event = [this](const WorkerEvent& e) {
        if (e.kind != WorkerEvent::Kind::lost)
            QMetaObject::invokeMethod(
                this, [this] { pause(paused_); }, Qt::QueuedConnection);
    };
    return std::make_unique<AsyncRenderer>(std::move(options), std::move(listener));
}

void ForesightEngine::count(const Consideration& choice) {
    for (const auto& [id, k] : asked_)
        if (k.setup == choice.setup && k.view == choice.view && id == newest_) return; // under way
    if (!counter_) {
        WorkerOptions o = options_;
        o.background = true;
        counter_ = started(std::move(o));
    }
    RenderRequest r;
    r.id = ++newest_;
    r.scene = document_.scene();
    r.setup = choice.setup;
    r.view = choice.view;
    r.options.picture = false;
    r.options.fencedSamples = 0;
    r.options.count = true;
    asked_[r.id] = {r.setup, r.view, {}};
    counter_->submit(std::move(r));
}

void ForesightEngine::use_shader_folder(const QString& folder) {
    options_.shaderFolder = folder.toStdString();
    if (counter_) counter_->use_shader_folder(options_.shaderFolder);
    known_.clear();
    asked_.clear();
}

void ForesightEngine::calibrate() {
    if (calibrator_ || !bridge_.device()) return;
    calibrator_ = started(options_);
    emit said(tr("Calibrating this device beside your work; it waits while you work"), false);
    calibrator_->run([this, device = *bridge_.device()](RenderSession& session) {
        constexpr int sweeps = 5; // a workload that was stopped in the middle is outvoted
        auto workloads = session.calibrate(sweeps);
        auto profile = std::make_shared<std::optional<DeviceProfile>>();
        Result<void> kept;
        if (workloads) {
            *profile = fit_profile(std::move(*workloads), "this device", device.renderer + ", " + device.version);
            (*profile)->created = utc_now();
            kept = keep_own_profile(device, **profile);
        } else
            kept = tl::unexpected(workloads.error());
        const QString trouble = kept ? QString() : QString::fromStdString(to_text(kept.error()));
        QMetaObject::invokeMethod(
            this,
            [this, profile, trouble] {
                if (*profile) profile_ = std::move(**profile);
                calibrator_.reset();
                emit calibrated_now(trouble);
                if (choice_) rested();
                go_on();
            },
            Qt::QueuedConnection);
    });
}

void ForesightEngine::prepare(std::vector<Consideration> choices) {
    prepared_ = std::move(choices);
    go_on();
}

/// The next prepared choice whose work is not known; what the pointer rests on comes first.
void ForesightEngine::go_on() {
    if (!bridge_.resting() || !document_.is_open() || !document_.target().profile.empty() || calibrating() ||
        !take_profile())
        return;
    forget_other_scenes();
    if (choice_ && !known(*choice_)) return;
    const CountedFrame* present = now();
    for (const Consideration& c : prepared_) {
        const CountedFrame* next = known(c);
        if (!next) return count(c);
        if (!present) continue;
        if (const auto foreseen = foresee(*profile_, *present, times(), *next)) emit prepared(c, *foreseen);
    }
}

/// Whether what was foreseen of the present choice came true.
void ForesightEngine::check_taken() {
    if (!last_ || !document_.is_open() || !(document_.project().setup == last_->setup)) return;
    if (!(on_target(document_.project().view, document_.target()) == last_->view) || !now()) return;
    emit missed(QString::fromStdString(foresight_miss(last_->foresight, times())));
    last_.reset();
}

} // namespace mirolux::app
