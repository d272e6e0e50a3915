#include "app/main_window.h"
#include "app/truth_engine.h"

// Truth beside the frame: traced while one works elsewhere, shown as B is, with a number.
namespace mirolux::app {

/// The layer of truth that a layer of the frame is held against.
static std::optional<truth::Layer> truth_of(const QString& layer) {
    if (layer == "final") return truth::Layer::final;
    if (layer == "ambient") return truth::Layer::indirect;
    return std::nullopt;
}

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
        connect(bridge_.get(), &RenderBridge::values_ready, this,
                [this](const std::shared_ptr<const FloatImage>& values, const QImage& picture, ValueRange) {
                    if (!truthShown_ || bridge_->shown_target()) return;
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
    if (on) return ask_truth();
    truth_->ask({});
    truthState_.reset();
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
    deck_->tape().set_pair_line(tr("truth: not traced while this changes"));
    pause_truth();
    if (!document_.interactive()) truthPause_.start();
}

void MainWindow::pause_truth() {
    if (truth_) truth_->pause(document_.interactive() || bridge_->measuring() || !bridge_->resting());
}

void MainWindow::ask_truth() {
    if (!truthShown_ || !document_.is_open() || document_.interactive()) return;
    const auto layer = truth_of(bridge_->shown_layer());
    if (!layer || bridge_->shown_target()) {
        truth_->ask({});
        viewport_->show_b({});
        return deck_->tape().set_pair_line(
            tr("truth: of the layers Final and Ambient so far; hold one of them to see its truth"));
    }
    const Project& p = document_.project();
    TruthQuestion q{document_.scene(), p.setup, eye_views(on_target(p.view, document_.target())).front(), {}};
    q.options.layer = *layer;
    truth_->ask(std::move(q));
    deck_->tape().set_pair_line(tr("truth: the first samples are on their way"));
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
    QString words = tr("truth: %1 samples, error %2 %").arg(state->samples).arg(100 * state->error, 0, 'f', 1);
    if (state->done)
        words += tr(", done");
    else if (state->secondsLeft > 0)
        words +=
            state->secondsLeft < 90
                ? tr(", about %1 s to %2").arg(std::lround(state->secondsLeft)).arg(TruthEngine::mostSamples)
                : tr(", about %1 min to %2").arg(std::lround(state->secondsLeft / 60)).arg(TruthEngine::mostSamples);
    if (state->distance)
        words += tr("; the frame against it: mean %1 %, bias %2 %")
                     .arg(100 * state->distance->mean, 0, 'f', 1)
                     .arg(QString::asprintf("%+.1f", 100 * state->distance->bias));
    if (state->maps) words += tr(", as seen \u0394E %1").arg(state->maps->meanDeltaE, 0, 'f', 1);
    deck_->tape().set_pair_line(words);
    emit truth_refined();
}

} // namespace mirolux::app
