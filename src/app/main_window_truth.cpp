#include "app/layer_strip.h"
#include "app/main_window.h"
#include "app/truth_bar.h"
#include "app/truth_engine.h"
#include "core/ambient/occlusion_audit.h"
#include "core/path/path_kind.h"

// Truth beside the frame: traced while one works elsewhere, shown as B is, with a number.
namespace mirolux::app {

namespace {

/// Whether a frame of a setup has what a layer of truth is held against.
bool frame_lays(truth::Layer layer, const Setup& setup) {
    const LayerInfo* info = find_layer(truth::frame_layer(layer));
    return info && shows(*info, setup, true);
}

} // namespace

void MainWindow::show_truth(bool on) {
    if (!document_.is_open() || truthShown_ == on) return;
    truthShown_ = on;
    if (on && !truth_) {
        truth_ = std::make_unique<TruthEngine>();
        connect(truth_.get(), &TruthEngine::refined, this, &MainWindow::take_truth);
        connect(truth_.get(), &TruthEngine::troubled, this, [this](const QString& words) {
            notice_ = words;
            refresh_status();
        });
        truthPause_.setSingleShot(true);
        truthPause_.setInterval(150); // a camera that moves asks once it stands
        connect(&truthPause_, &QTimer::timeout, this, &MainWindow::ask_truth);
        connect(&document_, &Document::changed, this, &MainWindow::forget_truth);
        connect(&document_, &Document::camera_moved, this, &MainWindow::forget_truth);
        connect(&document_, &Document::settled, this, &MainWindow::forget_truth);
        connect(bridge_.get(), &RenderBridge::resting_changed, this, &MainWindow::pause_truth);
        connect(selection_.get(), &Selection::changed, this, [this] {
            if (truthLayer_ == truth::Layer::visibility) forget_truth();
        });
        connect(bridge_.get(), &RenderBridge::values_ready, this,
                [this](const std::shared_ptr<const FloatImage>& values, const QImage& picture, ValueRange) {
                    // Of the layer that it is held against, and of no other that is peeked at.
                    if (!truthShown_ || bridge_->shown_target() || !truthLayer_ ||
                        bridge_->shown_layer().toStdString() != truth::frame_layer(*truthLayer_))
                        return;
                    const QImage rgba = picture.convertToFormat(QImage::Format_RGBX8888);
                    ByteImage shown{rgba.width(), rgba.height(), {}};
                    for (int y = 0; y < rgba.height(); ++y)
                        shown.rgba.insert(shown.rgba.end(), rgba.constScanLine(y),
                                          rgba.constScanLine(y) + 4 * rgba.width());
                    truth_->set_frame(values, shown);
                });
    }
    bridge_->set_values_wanted(on || viewport_->loupe());
    viewport_->name_sides(on ? tr("frame") : QString("A"), on ? tr("truth") : QString("B"));
    truthBar_->set_stage(document_.scene().stage());
    truthBar_->setVisible(on && !pictureAlone_);
    refresh_all(); // what can be done with two pictures
    if (on) {
        truthLayer_ = truth::truth_of(bridge_->shown_layer().toStdString());
        return ask_truth();
    }
    truth_->ask({});
    truthState_.reset();
    stop_truth(false);
    viewport_->show_b({});
    report_pair();
    bridge_->refresh(false); // B's own picture, if there is one
}

/// What is shown is of a state that is no more.
void MainWindow::forget_truth() {
    if (!truthShown_) return;
    truth_->ask({});
    truthState_.reset();
    viewport_->show_b({});
    say_truth(tr("not traced while this changes"), 0);
    pause_truth();
    if (!document_.interactive()) truthPause_.start();
}

void MainWindow::pause_truth() {
    if (truth_) truth_->pause(truthStopped_ || document_.interactive() || bridge_->measuring() || !bridge_->resting());
}

/// What is said of it, with no picture there.
void MainWindow::say_truth(const QString& words, double share) {
    truthBar_->set_layer(truthLayer_);
    truthBar_->set_progress(words, share);
    deck_->tape().set_pair_line(tr("truth: %1").arg(words));
}

void MainWindow::choose_truth(truth::Layer layer) {
    const bool laid = frame_lays(layer, document_.project().setup);
    layers_->set_held(laid ? truth::frame_layer(layer).c_str() : "final");
    truthLayer_ = layer; // holding a layer chose its own
    forget_truth();
}

void MainWindow::stop_truth(bool on) {
    truthStopped_ = on;
    truthBar_->set_stopped(on);
    pause_truth();
}

void MainWindow::ask_truth() {
    if (!truthShown_ || !document_.is_open() || document_.interactive()) return;
    const auto nothing = [this](const QString& words) {
        truth_->ask({});
        viewport_->show_b({});
        say_truth(words, 0);
    };
    if (!truthLayer_ || bridge_->shown_target()) return nothing(tr("this layer has none; choose one of these"));
    const Project& p = document_.project();
    TruthQuestion q{
        document_.scene(), bridge_->shown_setup(), eye_views(on_target(p.view, document_.target())).front(), {}};
    q.options.layer = *truthLayer_;
    q.options.radius = truthBar_->radius();
    if (truthLayer_ == truth::Layer::occlusion && occludes_ambient(p.setup)) // what the frame has it of
        q.options = occlusion_truth(p.setup);
    truthBar_->follow_radius(truthLayer_ == truth::Layer::occlusion && occludes_ambient(p.setup)
                                 ? std::optional(q.options.radius)
                                 : std::nullopt);
    if (truthLayer_ == truth::Layer::visibility) {
        const Light* light = document_.light(selection_->light());
        if (!light) return nothing(tr("select a light to see what reaches surfaces of it"));
        q.options.light = light->id;
    }
    truth_->ask(std::move(q));
    say_truth(tr("the first samples are on their way"), 0);
    pause_truth();
    bridge_->refresh(false); // the frame's own numbers
}

void MainWindow::take_truth(const std::shared_ptr<const TruthState>& state) {
    if (!truthShown_) return;
    truthState_ = state;
    const ByteImage& p = state->picture;
    const QImage image(p.rgba.data(), p.width, p.height, p.width * 4, QImage::Format_RGBX8888);
    viewport_->show_b(
        image.scaled(viewport_->picture_rect().size().toSize(), Qt::IgnoreAspectRatio, Qt::SmoothTransformation)
            .convertToFormat(QImage::Format_RGB32));
    viewport_->show_difference(state->maps);
    QString come = tr("%1 of %2 samples").arg(state->samples).arg(TruthEngine::mostSamples);
    if (!state->done && state->secondsLeft > 0)
        come += state->secondsLeft < 90 ? tr(", about %1 s more").arg(std::lround(state->secondsLeft))
                                        : tr(", about %1 min more").arg(std::lround(state->secondsLeft / 60));
    if (truthLayer_ == truth::Layer::visibility)
        if (const Light* light = document_.light(selection_->light()))
            come += tr("; of %1").arg(QString::fromStdString(light->name));
    truthBar_->set_layer(truthLayer_);
    truthBar_->set_progress(come, state->done ? 1 : state->share);
    QString words = tr("truth: %1 samples, error %2 %").arg(state->samples).arg(100 * state->error, 0, 'f', 1);
    if (state->distance)
        words += tr("; the frame against it: mean %1 %, bias %2 %")
                     .arg(100 * state->distance->mean, 0, 'f', 1)
                     .arg(QString::asprintf("%+.1f", 100 * state->distance->bias));
    else if (!frame_lays(state->layer, document_.project().setup))
        words += tr("; the frame has no such layer to hold against it");
    if (state->maps) words += tr(", as seen \u0394E %1").arg(state->maps->meanDeltaE, 0, 'f', 1);
    deck_->tape().set_pair_line(words);
    emit truth_refined();
}

} // namespace mirolux::app
