#include "app/main_window.h"
#include <QScreen>
#include <QSettings>
#include <QSplitter>
#include <QStatusBar>

// How the window is divided: folded panels, sizes that are kept, and a picture alone.
namespace mirolux::app {

static constexpr const char* keysOfPanels[] = {"layout/logbookFolded", "layout/benchFolded", "layout/deckFolded"};

QWidget* MainWindow::panel(Panel which) const {
    switch (which) {
    case Panel::logbook:
        return logbookPanel_;
    case Panel::bench:
        return bench_;
    case Panel::deck:
        break;
    }
    return deck_;
}

/// What the last run left, however it ended: sizes are kept as they come to rest, not at the end.
void MainWindow::restore_layout() {
    const QSettings kept;
    if (kept.contains("layout/size")) {
        resize(kept.value("layout/size").toSize().boundedTo(screen()->availableSize()));
        across_->restoreState(kept.value("layout/across").toByteArray());
        down_->restoreState(kept.value("layout/down").toByteArray());
    }
    for (const Panel p : {Panel::logbook, Panel::bench, Panel::deck})
        panel(p)->setVisible(!kept.value(keysOfPanels[static_cast<int>(p)], false).toBool());
    layoutChanged_.setSingleShot(true);
    layoutChanged_.setInterval(300);
    connect(&layoutChanged_, &QTimer::timeout, this, &MainWindow::keep_layout);
    for (QSplitter* splitter : {across_, down_})
        connect(splitter, &QSplitter::splitterMoved, &layoutChanged_, qOverload<>(&QTimer::start));
}

void MainWindow::keep_layout() {
    if (pictureAlone_) return; // that is for a while
    QSettings kept;
    kept.setValue("layout/size", size());
    kept.setValue("layout/across", across_->saveState());
    kept.setValue("layout/down", down_->saveState());
    for (const Panel p : {Panel::logbook, Panel::bench, Panel::deck})
        kept.setValue(keysOfPanels[static_cast<int>(p)], folded(p));
    kept.sync();
}

void MainWindow::resizeEvent(QResizeEvent* e) {
    QMainWindow::resizeEvent(e);
    if (isVisible()) layoutChanged_.start();
}

bool MainWindow::folded(Panel which) const {
    return panel(which)->isHidden();
}

void MainWindow::fold(Panel which, bool on) {
    if (pictureAlone_) show_picture_alone(false);
    panel(which)->setVisible(!on);
    layoutChanged_.start();
}

void MainWindow::show_picture_alone(bool on) {
    if (on == pictureAlone_) return;
    if (on) {
        keep_layout();
        pictureAlone_ = true;
        show_view(0);
        for (QWidget* w :
             {static_cast<QWidget*>(logbookPanel_), static_cast<QWidget*>(bench_), static_cast<QWidget*>(layers_),
              static_cast<QWidget*>(truthBar_), static_cast<QWidget*>(statusBar()), menuWidget()})
            w->hide();
        deck_->show();
        deck_->set_band(true);
        showFullScreen();
        down_->setSizes({100000, PassTape::bandHeight});
        viewport_->setFocus();
        return;
    }
    pictureAlone_ = false;
    deck_->set_band(false);
    showNormal();
    for (QWidget* w : {static_cast<QWidget*>(layers_), static_cast<QWidget*>(statusBar()), menuWidget()})
        w->show();
    truthBar_->setVisible(truthShown_);
    const QSettings kept;
    for (const Panel p : {Panel::logbook, Panel::bench, Panel::deck})
        panel(p)->setVisible(!kept.value(keysOfPanels[static_cast<int>(p)], false).toBool());
    across_->restoreState(kept.value("layout/across").toByteArray());
    down_->restoreState(kept.value("layout/down").toByteArray());
}

} // namespace mirolux::app
