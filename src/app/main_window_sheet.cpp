#include "app/figures/figure_pages.h"
#include "app/figures/size_figure.h"
#include "app/finish_engine.h"
#include "app/main_window.h"
#include "app/sheet_view.h"
#include "core/finish/outline.h"
#include <QFileDialog>
#include <QStackedWidget>

// The frame by its layers, in the picture's place; the outline of what is selected.
namespace mirolux::app {

void MainWindow::connect_sheet() {
    sheetTimer_.setSingleShot(true);
    sheetTimer_.setInterval(500);
    connect(&sheetTimer_, &QTimer::timeout, this, &MainWindow::refresh_sheet);
    connect(sheet_, &SheetView::back_wanted, this, [this] { show_sheet(false); });
    connect(sheet_, &SheetView::look_changed, this, &MainWindow::refresh_sheet);
    connect(sheet_, &SheetView::save_wanted, this, [this] {
        const QString path = QFileDialog::getSaveFileName(
            this, tr("Save the sheet"), QString::fromStdString(document_.project().name) + tr(" layers.png"),
            tr("Pictures (*.png);;OpenEXR, a part for each layer (*.exr)"));
        if (!path.isEmpty()) save_sheet(path);
    });
    connect(&sheet_->canvas(), &SheetCanvas::layer_wanted, this, [this](const QString& layer) {
        show_sheet(false);
        layers_->set_held(layer);
    });
    connect(finishing_.get(), &FinishEngine::ready, this, [this](const std::shared_ptr<const LayerSheet>& sheet) {
        sheet_->show_sheet(sheet);
        emit sheet_drawn();
    });
    connect(finishing_.get(), &FinishEngine::saved, this, [this](const QString& path) {
        notice_ = tr("Saved %1").arg(path);
        refresh_status();
        emit sheet_saved();
    });
    connect(finishing_.get(), &FinishEngine::failed, this, [this](const QString& words) {
        sheet_->say(words);
        settingsBenches_["Finish"]->findChild<SizeFigure*>()->say(words);
        notice_ = words;
        refresh_status();
    });
    connect(&document_, &Document::changed, this, [this] {
        if (sheet_shown()) sheetTimer_.start();
    });
    auto* sizes = settingsBenches_["Finish"]->findChild<SizeFigure*>();
    connect(sizes, &SizeFigure::sizes_wanted, this, &MainWindow::measure_sizes);
    connect(finishing_.get(), &FinishEngine::sizes_progressed, sizes,
            [sizes](double share) { sizes->say(tr("measuring: %1 %").arg(100 * share, 0, 'f', 0)); });
    connect(finishing_.get(), &FinishEngine::sizes_ready, sizes, &SizeFigure::show_costs);
}

bool MainWindow::sheet_shown() const {
    return middle_->currentWidget() == sheet_;
}

void MainWindow::show_sheet(bool on) {
    show_view(on && document_.is_open() ? middle_->indexOf(sheet_) : 0);
    if (on) refresh_sheet();
}

static SheetQuestion question_of(const Document& document, int width, bool grey) {
    SheetQuestion q{document.scene(),
                    document.project().setup,
                    on_target(document.project().view, document.target()),
                    320,
                    180,
                    grey};
    q.view.stereo = Stereo::off; // of the eye between both
    const int whole = q.view.width, tall = q.view.height;
    if (width > 0 && whole > width) { // shown small: the same proportions and shadow maps
        q.view.wholeWidth = whole;
        q.view.wholeHeight = tall;
        q.view.width = width;
        q.view.height = std::max(1, width * tall / whole);
    }
    q.cellHeight = std::max(1, q.cellWidth * tall / whole);
    return q;
}

void MainWindow::refresh_sheet() {
    if (!sheet_shown() || !document_.is_open()) return;
    sheet_->say(tr("under way…"));
    finishing_->ask(question_of(document_, 640, sheet_->grey()));
}

void MainWindow::save_sheet(const QString& path) {
    finishing_->save(question_of(document_, 0, sheet_->grey()), path);
}

bool MainWindow::finishing() const {
    return finishing_->busy();
}

void MainWindow::measure_sizes() {
    if (!document_.is_open() || !document_.is_solid()) return; // a flat stage's bench has no such page
    set_station("Finish");
    settingsBenches_["Finish"]->findChild<FinishPages*>()->show_page(FinishPages::size);
    settingsBenches_["Finish"]->findChild<SizeFigure*>()->say(tr("measuring…"));
    finishing_->ask_sizes(document_.scene(), document_.project().setup,
                          on_target(document_.project().view, document_.target()));
}

void MainWindow::outline_selection() {
    if (!document_.is_open() || !document_.is_solid()) return;
    const std::vector<int> objects(selection_->objects().begin(), selection_->objects().end());
    if (objects.empty()) {
        notice_ = tr("Select objects in the picture first: the outline is drawn about them.");
        return refresh_status();
    }
    const Setup setup = outlining(document_.scene(), document_.project().setup, objects);
    document_.edit(tr("Outline the selection"), [&](Project& p) { p.setup = setup; });
}

} // namespace mirolux::app
