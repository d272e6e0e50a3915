#include "app/truth_engine.h"
#include "core/base/text.h"
#include "core/blocks/drawn_scene.h"
#include "core/finish/exposure.h"
#include "core/finish/histogram.h"
#include "core/flat/flat_import.h"
#include "core/flat/plane_tracer.h"
#include "core/light/tone.h"
#include "core/truth/remarks.h"
#include <chrono>

namespace mirolux::app {

TruthEngine::TruthEngine(QObject* parent) : QObject(parent), thread_([this] { work(); }) {}

TruthEngine::~TruthEngine() {
    {
        const std::lock_guard lock(mutex_);
        ending_ = true;
        question_.reset();
        ++number_;
    }
    changed_.notify_all();
    thread_.join();
}

void TruthEngine::ask(std::optional<TruthQuestion> question) {
    {
        const std::lock_guard lock(mutex_);
        question_ = std::move(question);
        ++number_;
        frameValues_.reset(); // of another question
    }
    changed_.notify_all();
}

void TruthEngine::set_frame(std::shared_ptr<const FloatImage> values, const ByteImage& picture) {
    const std::lock_guard lock(mutex_);
    frameValues_ = std::move(values);
    framePicture_ = picture;
}

void TruthEngine::pause(bool on) {
    paused_ = on;
    changed_.notify_all();
}

/// Waits while it is to stand still; false: there is another question.
bool TruthEngine::goes_on(std::uint64_t number) {
    std::unique_lock lock(mutex_);
    changed_.wait(lock, [&] { return !paused_ || number != number_; });
    return number == number_;
}

void TruthEngine::work() {
    for (std::uint64_t done = 0;;) {
        TruthQuestion question;
        {
            std::unique_lock lock(mutex_);
            changed_.wait(lock, [&] { return ending_ || (question_ && number_ != done); });
            if (ending_) return;
            question = *question_;
            done = number_;
            tracing_ = true;
        }
        trace(question, done);
        tracing_ = false;
    }
}

/// The window holds no pictures: they are read once for the rays.
Scene TruthEngine::with_pictures(const Scene& scene) {
    Scene out = scene;
    auto whole = mirolux::with_pictures(scene.asset, whole_);
    if (whole)
        out.asset = std::move(*whole);
    else
        emit troubled(tr("Truth is traced without textures: %1").arg(QString::fromStdString(to_text(whole.error()))));
    return out;
}

/// What is traced of a Solid scene, or of a flat stage.
TruthEngine::Tracing TruthEngine::tracing_of(const TruthQuestion& q) {
    Tracing t;
    if (q.scene.is_flat()) {
        t.digest = flat::plane_digest(q.scene, q.setup, q.view, q.options.bounces, q.options.seed);
        const auto tracer =
            std::make_shared<const flat::PlaneTracer>(q.scene, q.setup, q.view, q.options.bounces, q.options.seed);
        t.sample = [tracer](int x, int y, std::uint32_t n, std::uint64_t& r) { return tracer->sample(x, y, n, r); };
        t.picture = [scene = q.scene, setup = q.setup, view = q.view](FloatImage light) {
            return flat::lit_picture(scene, setup, view, light);
        };
        return t;
    }
    if (q.scene.is_blocks()) { // the faces that it draws, under an even sky
        const blocks::DrawnScene drawn = blocks::drawn_scene(q.scene, q.setup, q.view);
        truth::Options options = q.options;
        options.skyAround = true;
        const auto rays = std::make_shared<RayScene>(drawn.scene);
        t.digest = truth::digest_of(drawn.scene, drawn.setup, q.view, options);
        const auto tracer = std::make_shared<const truth::PathTracer>(drawn.scene, drawn.setup, q.view, options, rays);
        t.sample = [tracer](int x, int y, std::uint32_t n, std::uint64_t& r) { return tracer->sample(x, y, n, r); };
        t.picture = [](FloatImage mean) { return mean; };
        return t;
    }
    if (rays_ && rays_->asset() == q.scene.asset)
        rays_->place(q.scene); // what moved, or casts otherwise; nothing traces with them now
    else
        rays_ = std::make_shared<RayScene>(q.scene);
    std::vector<std::string> remarks = truth::remarks(q.scene, q.setup, *rays_, q.options.housing);
    if (remarks != remarks_ && !remarks.empty()) // said once, not with every camera
        emit troubled(tr("Truth: %1.").arg(QString::fromStdString(joined(remarks, "; "))));
    remarks_ = std::move(remarks);
    const auto tracer = std::make_shared<const truth::PathTracer>(q.scene, q.setup, q.view, q.options, rays_);
    t.digest = truth::digest_of(q.scene, q.setup, q.view, q.options);
    t.sample = [tracer](int x, int y, std::uint32_t n, std::uint64_t& r) { return tracer->sample(x, y, n, r); };
    t.picture = [](FloatImage mean) { return mean; };
    return t;
}

void TruthEngine::trace(const TruthQuestion& asked, std::uint64_t number) {
    TruthQuestion q = asked;
    q.scene = with_pictures(asked.scene);
    const Tracing tracing = tracing_of(q);
    const std::string& digest = tracing.digest;
    const std::filesystem::path path = truth::kept_path(digest);
    truth::Resumed from = truth::resumed(digest, q.view.width, q.view.height);
    if (from.trouble) emit troubled(QString::fromStdString(to_text(*from.trouble)));
    truth::Picture picture = std::move(from.picture);
    using Clock = std::chrono::steady_clock;
    auto told = Clock::now(), kept = told;
    const auto keep = [&] {
        if (auto ok = truth::write_picture(path, picture, digest); !ok)
            emit troubled(QString::fromStdString(to_text(ok.error())));
    };
    if (picture.fewest() > 0)
        tell(picture, q, tracing, double(picture.fewest()) / mostSamples, picture.fewest() >= mostSamples, number);
    const std::uint32_t before = picture.fewest();
    truth::refine(tracing.sample, picture, {mostSamples, 0}, [&](double share) {
        const auto now = Clock::now();
        // Often in the beginning, when each sample shows; then once a second.
        if (picture.fewest() > 0 && now - told > std::chrono::milliseconds(picture.fewest() < 8 ? 250 : 1000)) {
            tell(picture, q, tracing, share, false, number);
            told = Clock::now();
        }
        if (paused_ || now - kept > std::chrono::seconds(15)) {
            keep();
            kept = Clock::now();
        }
        return goes_on(number);
    });
    if (picture.fewest() > before) keep();
    if (picture.fewest() >= mostSamples) tell(picture, q, tracing, 1, true, number);
}

void TruthEngine::tell(const truth::Picture& picture, const TruthQuestion& q, const Tracing& tracing, double share,
                       bool done, std::uint64_t number) {
    auto state = std::make_shared<TruthState>();
    state->values = tracing.picture(picture.image());
    state->picture = truth::shown(state->values, q.options.layer, q.setup);
    state->layer = q.options.layer;
    state->samples = picture.fewest();
    state->error = picture.relative_error();
    state->share = share;
    state->secondsLeft = share > 0 && !done ? picture.seconds * (1 - share) / share : 0;
    state->done = done;
    std::shared_ptr<const FloatImage> frame;
    ByteImage shown;
    {
        const std::lock_guard lock(mutex_);
        if (number != number_) return;
        frame = frameValues_;
        shown = framePicture_;
    }
    if (frame && frame->width == state->values.width && frame->height == state->values.height && frame->channels >= 3) {
        if (q.options.layer == truth::Layer::visibility && frame->channels == 4) {
            FloatImage held = *frame, truth = state->values;
            if (truth::hold_where_lit(held, truth)) {
                state->distance = truth::distance(held, truth);
                state->maps = std::make_shared<const PairDifference>(
                    pair_difference(held, truth, truth::shown(held, q.options.layer, q.setup),
                                    truth::shown(truth, q.options.layer, q.setup), 1));
            }
        } else {
            state->distance = truth::distance(*frame, state->values);
            state->maps = std::make_shared<const PairDifference>(pair_difference(
                *frame, state->values, shown, state->picture, tone::exposure_scale(hand_ev100(q.setup))));
        }
    }
    QMetaObject::invokeMethod(
        this,
        [this, state, number] {
            {
                const std::lock_guard lock(mutex_);
                if (number != number_) return;
            }
            emit refined(state);
        },
        Qt::QueuedConnection);
}

} // namespace mirolux::app
