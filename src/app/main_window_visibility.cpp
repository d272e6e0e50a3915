#include "app/bake_row.h"
#include "app/help_bench.h"
#include "app/light_map_bench.h"
#include "app/main_window.h"
#include "app/outside_view.h"
#include "app/patch_bench.h"
#include "app/visibility_row.h"
#include <QApplication>
#include <QPointer>
#include <QStackedWidget>

// Visibility in the window: what it needs beforehand, and the scene from outside.
namespace mirolux::app {

void MainWindow::connect_visibility(const WorkerOptions& worker) {
    visibilityRow_ = new VisibilityRow(document_, this);
    settingsBenches_["Path"]->add_row(visibilityRow_);
    connect(visibilityRow_, &VisibilityRow::computed, this, [this] {
        if (document_.is_open()) emit document_.changed(); // frames leave out what is known now
    });
    connect(visibilityRow_, &VisibilityRow::said, this, [this](const QString& words) {
        notice_ = words;
        refresh_status();
    });
    lightMapBench_ = new LightMapBench(document_, worker, this);
    settingsBenches_["Ambient"]->add_row(lightMapBench_);
    connect(lightMapBench_, &LightMapBench::baked, this, [this] {
        if (document_.is_open()) emit document_.changed(); // surfaces take it
    });
    maskRow_ = new BakeRow(document_, mask_subject(), this);
    settingsBenches_["Shadows"]->add_row(maskRow_);
    occlusionRow_ = new BakeRow(document_, occlusion_subject(), this);
    settingsBenches_["Ambient"]->add_row(occlusionRow_);
    for (BakeRow* row : {maskRow_, occlusionRow_})
        connect(row, &BakeRow::baked, this, [this] {
            if (document_.is_open()) emit document_.changed(); // surfaces take it
        });
    patchBench_ = new PatchBench(document_, this);
    settingsBenches_["Ambient"]->add_row(patchBench_);
    for (const auto& [widget, topic] : {std::pair<QWidget*, const char*>{lightMapBench_, "light-maps"},
                                        {patchBench_, "patches"},
                                        {maskRow_, "baked-shadows"},
                                        {occlusionRow_, "baked-occlusion"}})
        set_help_topic(widget, topic);
    connect(patchBench_, &PatchBench::shot, this, [this] { viewport_->show_shot(patchBench_->last()); });
    connect(patchBench_, &PatchBench::kept, this, [this] {
        if (document_.is_open()) emit document_.changed(); // the picture takes the light so far
    });
    // The window does not wait while a map is read.
    read_maps_beside([window = QPointer<MainWindow>(this)] {
        QMetaObject::invokeMethod(qApp, [window] {
            if (window && window->document_.is_open()) emit window->document_.changed();
        });
    });
    connect(outside_, &OutsideView::back_wanted, this, [this] { show_outside(false); });
    connect(outside_, &OutsideView::answered, this, &MainWindow::outside_drawn);
}

bool MainWindow::baking() const {
    return maskRow_->working() || occlusionRow_->working() || lightMapBench_->working() || patchBench_->working();
}

bool MainWindow::outside_shown() const {
    return middle_->currentWidget() == outside_;
}

void MainWindow::show_outside(bool on) {
    show_view(on && document_.is_open() && document_.is_solid() ? middle_->indexOf(outside_) : 0);
}

} // namespace mirolux::app
