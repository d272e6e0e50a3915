#include "app/benches.h"
#include "app/brush_row.h"
#include "app/figures/block_figures.h"
#include "app/flood_audit_row.h"
#include "app/main_window.h"
#include "app/make_blocks_row.h"
#include <QFileDialog>

// The Blocks stage in the window: cells by a brush, floods that go on, their audit, blocks of a Solid scene.
namespace mirolux::app {

void MainWindow::connect_blocks() {
    connect(sceneBench_->findChild<BrushRow*>(), &BrushRow::brush_changed, this, &MainWindow::take_brush);
    connect(bridge_.get(), &RenderBridge::flooding, this, [this](double cells) {
        gathering_ = cells > 0 ? tr("light spreads: %L1 cells wait").arg(qRound64(cells)) : QString();
        refresh_status();
    });
    auto* audit = new FloodAuditRow(document_, this);
    settingsBenches_["Path"]->add_row(audit);
    auto* slice = settingsBenches_["Path"]->findChild<SliceFigure*>();
    connect(audit, &FloodAuditRow::cell_chosen, slice, &SliceFigure::show_cell);
    auto* make = sceneBench_->findChild<MakeBlocksRow*>();
    connect(make, &MakeBlocksRow::path_wanted, this, &MainWindow::make_blocks);
    connect(make, &MakeBlocksRow::made, this, [this](const QString& path) {
        notice_ = tr("Saved %1").arg(path);
        refresh_status();
        if (may_lose_work()) open(path);
    });
}

/// Cells are changed at the Scene station; elsewhere a drag turns the view.
void MainWindow::take_brush() {
    viewport_->set_brush(station_ == "Scene" ? sceneBench_->findChild<BrushRow*>()->brush() : std::nullopt);
}

void MainWindow::make_blocks() {
    auto* row = sceneBench_->findChild<MakeBlocksRow*>();
    if (!document_.is_open() || !document_.is_solid() || row->running()) return;
    set_station("Scene");
    row->make(QFileDialog::getSaveFileName(this, tr("Save the blocks"),
                                           QString::fromStdString(document_.project().name) + tr(" in blocks.blocks"),
                                           tr("Blocks (*.blocks)")));
}

} // namespace mirolux::app
