#include "app/figures/path_figure.h"
#include "app/figures/shadow_figure.h"
#include "app/main_window.h"
#include "core/truth/truth_picture.h"
#include <QComboBox>
#include <QStackedWidget>

// The anatomy, and targets in the picture's place.
namespace mirolux::app {

void MainWindow::connect_anatomy() {
    connect(layers_, &LayerStrip::wanted, this, [this](const QString& layer) {
        if (!layer.isEmpty())
            bridge_->set_shown_layer(layer);
        else if (heldTarget_)
            bridge_->set_shown_target(*heldTarget_);
    });
    connect(layers_, &LayerStrip::layer_held, this, [this] {
        heldTarget_.reset();
        targetBar_->hide();
        anatomy().set_held({});
        viewport_->set_values(nullptr, {}, false);
        show_bench(); // what the picture wears
        truthLayer_ = truth::truth_of(layers_->held().toStdString());
        forget_truth(); // another layer has another
    });
    connect(anatomy_, &AnatomyView::back_wanted, this, [this] { show_anatomy(false); });
    connect(&anatomy(), &AnatomyCanvas::pass_wanted, this, &MainWindow::select_pass);
    connect(&anatomy(), &AnatomyCanvas::target_wanted, this, &MainWindow::hold_target);
    connect(targetBar_, &TargetBar::closed, this, &MainWindow::drop_target);
    connect(targetBar_, &TargetBar::look_changed, bridge_.get(), &RenderBridge::set_look);
    connect(targetBar_, &TargetBar::read_changed, this, &MainWindow::hold_target);
    connect(bridge_.get(), &RenderBridge::values_ready, this,
            [this](const std::shared_ptr<const FloatImage>& values, const QImage& picture, ValueRange range) {
                const bool target = bridge_->shown_target().has_value();
                if (target) targetBar_->show_range(range);
                viewport_->set_values(values, picture, target && heldWhole_);
            });
    connect(bridge_.get(), &RenderBridge::writes_ready, this,
            [this](const std::shared_ptr<const std::vector<WrittenTarget>>& writes, bool ofB) {
                anatomy().set_writes(*writes, ofB);
                emit anatomy_drawn();
            });
}

void MainWindow::connect_foresight() {
    PassTape& tape = deck_->tape();
    connect(foresight_.get(), &ForesightEngine::foreseen, this,
            [&tape](const QString& words, const Foresight& f) { tape.set_ghost(words, f); });
    connect(foresight_.get(), &ForesightEngine::said, this,
            [&tape](const QString& words, bool asksConsent) { tape.set_ghost(words, {}, asksConsent); });
    connect(foresight_.get(), &ForesightEngine::nothing, &tape, &PassTape::forget_ghost);
    connect(&tape, &PassTape::ghost_clicked, foresight_.get(), &ForesightEngine::calibrate);
    connect(foresight_.get(), &ForesightEngine::calibrated_now, this, [this](const QString& trouble) {
        notice_ = trouble.isEmpty() ? tr("This device is calibrated: rest on a choice to see what it would cost.")
                                    : tr("Calibrating: %1").arg(trouble);
        refresh_status();
    });
    connect(foresight_.get(), &ForesightEngine::missed, this, [this](const QString& words) {
        foresightMiss_ = words;
        show_costs();
    });
    connect(&document_, &Document::changed, this, [this] {
        foresightMiss_.clear();
        deck_->tape().forget_ghost();
    });
    auto* shadows = settingsBenches_["Shadows"]->findChild<ShadowFigure*>();
    connect(shadows, &ShadowFigure::light_wanted, this, &MainWindow::select_light);
    auto* paths = settingsBenches_["Path"]->findChild<PathFigure*>();
    connect(paths, &PathFigure::foresight_wanted, foresight_.get(), &ForesightEngine::prepare);
    connect(foresight_.get(), &ForesightEngine::prepared, paths,
            [paths](const Consideration& choice, const Foresight& f) { paths->set_foreseen(choice.setup, f); });
    connect(target_, &QComboBox::highlighted, &document_, &Document::consider_target);
    connect(target_, &QComboBox::activated, &document_, &Document::consider_nothing);
}

/// What stands in the middle: 0 the picture, 1 the journal, 2 the anatomy.
void MainWindow::show_view(int view) {
    middle_->setCurrentIndex(view);
    bridge_->set_writes_wanted(view == 2);
}

bool MainWindow::anatomy_shown() const {
    return middle_->currentIndex() == 2;
}

void MainWindow::show_anatomy(bool on) {
    show_view(on && document_.is_open() ? 2 : 0);
    refresh_anatomy();
    if (on) anatomy().setFocus();
}

FramePlan MainWindow::planned(const Setup& setup) const {
    return plan_frame(document_.scene(), setup, on_target(document_.project().view, document_.target()));
}

/// The plans anew where someone looks at them; a held target that the frame has no more makes room for the picture.
void MainWindow::refresh_anatomy() {
    if (!document_.is_open() || (!anatomy_shown() && !heldTarget_)) return;
    FramePlan plan = planned(document_.project().setup);
    if (heldTarget_) {
        const PlannedResource* r = plan.resource(heldTarget_->target);
        const PlannedPass* after = plan.pass(heldTarget_->after);
        const int at = after ? static_cast<int>(after - plan.passes.data()) : -1;
        if (!r || (!heldTarget_->after.empty() && (at < r->first || at > r->last)) || heldTarget_->layer >= r->layers)
            drop_target();
    }
    if (!anatomy_shown()) return;
    std::optional<FramePlan> b;
    if (bridge_->b()) b = planned(*bridge_->b());
    anatomy_->show_plans(std::move(plan), std::move(b));
    anatomy().set_held(heldTarget_);
    anatomy().set_times(bridge_->history(), bridge_->b() ? &bridge_->history_b() : nullptr);
}

void MainWindow::hold_target(const TargetRead& read) {
    if (!document_.is_open()) return;
    const FramePlan plan = planned(document_.project().setup);
    const PlannedResource* r = plan.resource(read.target);
    if (!r) return;
    show_view(0);
    heldTarget_ = read;
    heldWhole_ = read.stencil || r->spec.entries > 0;
    layers_->release();
    viewport_->set_values(nullptr, {}, false);
    bridge_->set_shown_target(read);
    targetBar_->show_target(read, *r);
    targetBar_->show();
    show_bench();
    anatomy().set_held(read);
}

void MainWindow::drop_target() {
    layers_->set_held("final");
}

} // namespace mirolux::app
