#include "app/main_window.h"
#include "app/command_list.h"
#include "app/theme.h"
#include "core/base/text.h"
#include "core/cost/report.h"
#include "core/scene/geometry.h"
#include <QApplication>
#include <QButtonGroup>
#include <QCloseEvent>
#include <QComboBox>
#include <QFileDialog>
#include <QMenu>
#include <QMessageBox>
#include <QPushButton>
#include <QScrollArea>
#include <QSplitter>
#include <QStackedWidget>
#include <QStatusBar>
#include <QToolButton>
#include <QVBoxLayout>
#include <filesystem>

namespace mirolux::app {

static QScrollArea* scrolled(QWidget* bench) {
    auto* area = new QScrollArea;
    area->setFrameShape(QFrame::NoFrame);
    area->setWidgetResizable(true);
    area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    area->setWidget(bench);
    return area;
}

MainWindow::MainWindow(WorkerOptions worker, QWidget* parent) : QMainWindow(parent) {
    setWindowTitle("Mirolux");
    resize(1280, 800);
    bridge_ = std::make_unique<RenderBridge>(document_, std::move(worker));

    viewport_ = new Viewport(document_, this);
    layers_ = new LayerStrip(this);
    deck_ = new CostDeck(document_, bridge_->history(), this);
    logbookPanel_ = new LogbookPanel(this);
    sceneBench_ = new SceneBench(document_);
    lightsBench_ = new LightsBench(document_);
    lightBench_ = new LightBench(document_);
    pathBench_ = new SettingsBench(document_, tr("Path"),
                                   tr("How surfaces meet lights. Changing it keeps everything else."), "Path");
    ambientBench_ = new SettingsBench(document_, tr("Ambient"),
                                      tr("Light that comes from everywhere, before any lamp."), "Ambient");
    finishBench_ = new SettingsBench(document_, tr("Finish"), tr("From scene-linear light to the display."), "Finish");
    passBench_ = new PassBench(document_, *bridge_);
    targetBench_ = new TargetBench(document_);
    tileBench_ = new TileBench;
    pixelBench_ = new PixelBench;
    bench_ = new QStackedWidget(this);
    for (QWidget* b : std::initializer_list<QWidget*>{sceneBench_, lightsBench_, lightBench_, pathBench_, ambientBench_,
                                                      finishBench_, passBench_, targetBench_, tileBench_, pixelBench_})
        bench_->addWidget(scrolled(b));

    auto* middle = new QWidget(this);
    auto* middleColumn = new QVBoxLayout(middle);
    middleColumn->setContentsMargins(0, 0, 0, 0);
    middleColumn->setSpacing(0);
    middleColumn->addWidget(layers_);
    middleColumn->addWidget(viewport_, 1);
    journal_ = new JournalView(this);
    middle_ = new QStackedWidget(this);
    middle_->addWidget(middle);
    middle_->addWidget(journal_);
    auto* across = new QSplitter(Qt::Horizontal, this);
    across->addWidget(logbookPanel_);
    across->addWidget(middle_);
    across->addWidget(bench_);
    across->setSizes({198, 768, 314});
    across->setStretchFactor(0, 0);
    across->setStretchFactor(1, 1);
    across->setStretchFactor(2, 0);
    across->setChildrenCollapsible(false);
    across->setHandleWidth(3);
    logbookPanel_->setMinimumWidth(196);
    bench_->setMinimumWidth(300);
    auto* down = new QSplitter(Qt::Vertical, this);
    down->addWidget(across);
    down->addWidget(deck_);
    down->setSizes({540, 182});
    down->setStretchFactor(0, 1);
    down->setStretchFactor(1, 0);
    down->setChildrenCollapsible(false);
    down->setHandleWidth(3);
    setCentralWidget(down);
    status_ = new QLabel(this);
    statusWorker_ = new QLabel(this);
    statusBar()->addWidget(status_, 1);
    statusBar()->addPermanentWidget(statusWorker_);
    statusBar()->setSizeGripEnabled(false);
    commandList_ = new CommandList(this);
    build_commands();
    build_bar();

    connect(viewport_, &Viewport::display_resized, this, [this](QSize s) {
        bridge_->set_display_size(s);
        if (document_.is_open()) bridge_->refresh(false);
    });
    connect(viewport_, &Viewport::light_picked, this, &MainWindow::select_light);
    connect(layers_, &LayerStrip::wanted, this, [this](const QString& layer) { bridge_->set_shown_layer(layer); });
    connect(&deck_->tape(), &PassTape::pass_picked, this, &MainWindow::select_pass);
    connect(&deck_->ledger(), &LedgerCut::light_picked, this, &MainWindow::select_light);
    connect(deck_, &CostDeck::cut_changed, this, [this](CostDeck::Cut cut) {
        bridge_->set_ledger_wanted(cut == CostDeck::Cut::light);
        if (cut != CostDeck::Cut::region) mark_lengths(-1, -1);
        show_bench();
    });
    connect(&deck_->region(), &RegionCut::lengths_picked, this, &MainWindow::mark_lengths);
    connect(&deck_->region(), &RegionCut::show_worst_wanted, this, [this] { show_worst(true); });
    connect(&deck_->region(), &RegionCut::next_worst_wanted, this, [this] { show_worst(false); });
    WalkCut& walkCut = deck_->walk();
    connect(&walkCut, &WalkCut::measure_wanted, this, &MainWindow::measure_walk);
    connect(&walkCut, &WalkCut::stop_wanted, this, [this] { bridge_->stop_measuring(); });
    connect(&walkCut, &WalkCut::play_wanted, this, &MainWindow::play_walk);
    connect(&walkCut, &WalkCut::place_picked, this, [this](const Camera& camera, double seconds) {
        document_.set_seconds(seconds);
        document_.move_camera(camera);
        emit document_.settled();
    });
    connect(bridge_.get(), &RenderBridge::walk_progress, &walkCut, &WalkCut::show_progress);
    connect(bridge_.get(), &RenderBridge::walked, this, [this](const std::vector<WalkMeasurement>& m) {
        deck_->walk().show_walk(m);
        nlohmann::json document = walk_document(m.front(), measured_budget_ms(document_.target()));
        if (m.size() > 1) document["b"] = walk_document(m[1], measured_budget_ms(document_.target()));
        keep_record("walk", document);
        refresh_all();
        emit walk_shown();
    });
    connect(bridge_.get(), &RenderBridge::b_ready, viewport_, &Viewport::show_b);
    connect(bridge_.get(), &RenderBridge::b_stale, this, [this] { viewport_->show_b({}); });
    connect(bridge_.get(), &RenderBridge::difference_ready, this,
            [this](const std::shared_ptr<const PairDifference>& d) {
                viewport_->show_difference(d);
                const PictureDifference& f = d->figures;
                pairPicture_ = tr("picture: mean %1 %, worst %2 % at %3, as seen \u0394E %5, worst %6")
                                   .arg(f.meanRelative * 100, 0, 'f', 2)
                                   .arg(f.worstRelative * 100, 0, 'f', 1)
                                   .arg(place_name({f.worstX, f.worstY}))
                                   .arg(d->meanDeltaE, 0, 'f', 2)
                                   .arg(d->worstDeltaE, 0, 'f', 1);
                tell_pair();
                emit difference_told();
                if (!pairTime_.isEmpty()) emit pair_told();
            });
    connect(bridge_.get(), &RenderBridge::ratio_progress, this, [this](int round, int rounds, const Interval& ratio) {
        pairTime_ = round == 0 ? tr("warming up") : tr("round %1 of up to %2").arg(round).arg(rounds);
        if (ratio.median > 0)
            pairTime_ += tr(", B takes %1 of A's time (%2 to %3)")
                             .arg(ratio.median, 0, 'f', 3)
                             .arg(ratio.low, 0, 'f', 3)
                             .arg(ratio.high, 0, 'f', 3);
        tell_pair();
    });
    connect(bridge_.get(), &RenderBridge::compared, this, [this](const PairedMeasurement& m) {
        pairTime_ = QString::fromStdString(comparison_words(m.frame));
        if (pairTime_.startsWith("B is ")) pairTime_ = pairTime_.mid(5); // the line begins with B
        keep_record("pair", measurement_document(m.a, &m, bridge_->device().value_or(DeviceInfo{}), measuredA_,
                                                 document_.scene_digest(), differences(measuredA_, measuredB_)));
        tell_pair();
        refresh_all();
        emit pair_measured();
    });
    walkTimer_.setInterval(50);
    connect(&walkTimer_, &QTimer::timeout, this, &MainWindow::walk_step);
    connect(viewport_, &Viewport::tile_picked, this, &MainWindow::select_tile);
    connect(viewport_, &Viewport::pixel_wanted, this, [this](QPoint pixel, bool hold) {
        if (hold)
            hold_pixel(pixel);
        else if (!pixelHeld_)
            bridge_->probe(pixel);
    });
    connect(viewport_, &Viewport::pixel_left, this, [this] {
        if (pixelHeld_) return;
        pixelShown_ = false;
        show_bench();
    });
    connect(tileBench_, &TileBench::light_picked, this, &MainWindow::select_light);
    connect(tileBench_, &TileBench::slice_picked, this, [this](int slice) {
        if (!selectedTile_) return;
        TileCell cell = *selectedTile_;
        cell.slice = slice;
        select_tile(cell);
    });
    connect(tileBench_, &TileBench::next_worst_wanted, this, [this] { show_worst(false); });
    connect(tileBench_, &TileBench::back_wanted, this, [this] { select_tile({}); });
    connect(pixelBench_, &PixelBench::light_picked, this, &MainWindow::select_light);
    connect(pixelBench_, &PixelBench::back_wanted, this, [this] {
        pixelHeld_ = pixelShown_ = false;
        viewport_->show_account(std::nullopt);
        show_bench();
    });
    connect(lightsBench_, &LightsBench::light_picked, this, &MainWindow::select_light);
    connect(lightsBench_, &LightsBench::add_wanted, this, &MainWindow::add_light);
    connect(lightBench_, &LightBench::duplicate_wanted, this, &MainWindow::duplicate_light);
    connect(lightBench_, &LightBench::delete_wanted, this, &MainWindow::delete_light);
    connect(lightBench_, &LightBench::back_wanted, this, [this] { select_light(-1); });
    connect(passBench_, &PassBench::back_wanted, this, [this] {
        deck_->tape().select({});
        select_pass({});
    });
    connect(targetBench_, &TargetBench::judge_wanted, this, [this] { judge_targets(); });
    connect(targetBench_, &TargetBench::back_wanted, this, [this] {
        targetsShown_ = false;
        show_bench();
    });

    connect(&document_, &Document::changed, this, [this] {
        sync_b();
        if (bridge_->b()) {
            pairTime_.clear(); // it was of the state before
            pairPicture_.clear();
            tell_pair();
        }
        forget_inspection();
        bridge_->refresh(document_.interactive());
        refresh_all();
    });
    connect(&document_, &Document::camera_moved, this, [this] {
        forget_inspection();
        bridge_->refresh(document_.interactive());
    });
    connect(&document_, &Document::settled, this, [this] {
        bridge_->refresh(false);
        refresh_all();
    });
    connect(&document_, &Document::autosave_failed, this, [this](const QString& text) {
        notice_ = tr("Unsaved work could not be kept aside: %1").arg(text);
        refresh_status();
    });
    connect(bridge_.get(), &RenderBridge::picture_ready, this, [this](const QImage& image, QSize size, bool quick) {
        viewport_->show_message({}, false);
        viewport_->show_picture(image, size, quick);
        refresh_status();
    });
    connect(bridge_.get(), &RenderBridge::costs_changed, this, [this] {
        const FrameRecord& r = bridge_->last_full();
        QString notice;
        if (r.droppedLights)
            notice = tr("path.maxLights drops %L1 lights over %2 objects: raise K, shorten ranges, or take the "
                        "additive path")
                         .arg(r.droppedLights)
                         .arg(r.droppedObjects);
        deck_->tape().set_prediction(prediction(notice));
        deck_->tape().refresh(QString::fromStdString(r.clock), notice);
        pathBench_->set_facts(
            tr("%1 of %2 enabled lights are active in this view%3.\n%4")
                .arg(r.lightsInView)
                .arg(r.lightsInScene)
                .arg(r.lightsFaded ? tr("; %1 are too far away").arg(r.lightsFaded) : QString())
                .arg(r.droppedLights
                         ? tr("%L1 lights are dropped over %2 objects.").arg(r.droppedLights).arg(r.droppedObjects)
                         : tr("No light is dropped.")));
        if (!selectedPass_.isEmpty()) passBench_->fill();
        refresh_status();
    });
    connect(bridge_.get(), &RenderBridge::inspection_ready, this,
            [this](const std::shared_ptr<const cull::Inspection>& inspection) {
                inspection_ = inspection;
                worst_.clear();
                worstAt_ = 0;
                viewport_->set_tile_map(TileMap(inspection));
                deck_->region().show_inspection(inspection);
                // The tile that was looked at stays, if it still is one.
                if (selectedTile_ &&
                    (!inspection || selectedTile_->column >= inspection->grid.columns ||
                     selectedTile_->row >= inspection->grid.rows || selectedTile_->slice >= inspection->grid.slices))
                    selectedTile_.reset();
                if (selectedTile_) select_tile(*selectedTile_);
                show_bench();
                emit inspected();
            });
    connect(bridge_.get(), &RenderBridge::ledger_ready, this, [this](const Ledger& ledger) {
        deck_->ledger().show_ledger(ledger);
        emit ledger_shown();
    });
    connect(bridge_.get(), &RenderBridge::pixel_ready, this, [this](const PixelAccount& account) {
        if (!pixelHeld_ && !viewport_->asks_for_pixel()) return; // Alt was let go meanwhile
        pixelShown_ = true;
        pixelBench_->show_account(account);
        pixelBench_->set_held(pixelHeld_);
        viewport_->show_account(account);
        show_bench();
        emit pixel_told();
    });
    connect(bridge_.get(), &RenderBridge::thumbnails_ready, this, [this](const QMap<QString, QImage>& t) {
        layers_->set_thumbnails(t);
        emit settled_down();
    });
    connect(bridge_.get(), &RenderBridge::worker_said, this, [this](const QString& text, bool trouble) {
        workerText_ = text;
        if (trouble) viewport_->show_message(tr("Rendering was interrupted: %1. Your setup is kept.").arg(text), true);
        refresh_status();
    });
    connect(bridge_.get(), &RenderBridge::failed, this,
            [this](const Error& e) { viewport_->show_message(QString::fromStdString(to_text(e)), true); });
    connect(bridge_.get(), &RenderBridge::device_known, this, &MainWindow::refresh_status);
    connect_logbook();
    connect(bridge_.get(), &RenderBridge::measure_failed, this, [this](const Error& e) {
        logbookPanel_->show_rest();
        logbookPanel_->show_trouble(QString::fromStdString(to_text(e)));
        refresh_all();
    });
    show_bench();
    refresh_all();
}

MainWindow::~MainWindow() {
    disconnect(&document_, nullptr, this, nullptr);
    bridge_.reset(); // its thread reports to what follows
}

void MainWindow::refresh_all() {
    const bool open = document_.is_open();
    title_->setText(open ? QString::fromStdString(document_.project().name) + (document_.dirty() ? " \u2022" : "") +
                               "  \u25be"
                         : "Mirolux  \u25be");
    setWindowTitle(open ? QString::fromStdString(document_.project().name) + (document_.dirty() ? " (changed)" : "") +
                              " - Mirolux"
                        : "Mirolux");
    if (open && !document_.interactive()) {
        QStringList items;
        for (const Target& t : document_.project().targets)
            items << QString::fromStdString(to_text(t));
        items << tr("Edit targets\u2026");
        QStringList now;
        for (int i = 0; i < target_->count(); ++i)
            now << target_->itemText(i);
        if (now != items) {
            target_->clear();
            target_->addItems(items);
        }
        target_->setCurrentIndex(document_.project().target);
    }
    command("undo")->setEnabled(document_.can_undo());
    command("redo")->setEnabled(document_.can_redo());
    command("undo")->setText(tr("Undo"));
    command("redo")->setText(tr("Redo"));
    for (const char* name : {"save", "save as", "frame", "targets", "add point", "add spot", "add directional"})
        command(name)->setEnabled(open);
    for (const char* name : {"duplicate", "delete", "switch", "let go"})
        command(name)->setEnabled(selectedLight_ >= 0);
    command("log")->setEnabled(open && !bridge_->measuring());
    command("stop")->setEnabled(bridge_->measuring());
    command("take b")->setEnabled(open);
    for (const char* name : {"swap", "drop b", "compare", "wipe", "blink", "absolute difference", "relative difference",
                             "seen difference", "turn wipe"})
        command(name)->setEnabled(open && bridge_->b());
    command("bring back")->setEnabled(!deletedEntries_.empty());
    refresh_status();
}

void MainWindow::refresh_status() {
    QString text;
    if (const auto& device = bridge_->device()) {
        text = QString::fromStdString(device->renderer) + "   " +
               QString::fromStdString(device->clock.gpuAccepted ? "GPU clock in use"
                                                                : "fenced clock in use: the GPU clock failed its test");
        status_->setToolTip(QString::fromStdString(device->clock.verdict + "\n" + device->version));
    } else
        text = tr("finding a device");
    if (document_.is_open())
        text += tr("   picture %1x%2").arg(document_.target().width).arg(document_.target().height) +
                (document_.target().stereo == Stereo::off ? QString() : tr(", the left eye of two"));
    if (!notice_.isEmpty()) text += "   " + notice_;
    status_->setText(text);
    statusWorker_->setText(workerText_);
}

QString MainWindow::status_text() const {
    return status_->text() + "   " + statusWorker_->text();
}

void MainWindow::show_error(const Error& error) {
    viewport_->show_message(QString::fromStdString(to_text(error)), true);
}

bool MainWindow::open(const QString& path, std::optional<bool> recover) {
    const std::filesystem::path file = path.toStdString();
    std::error_code ec;
    const bool project = file.extension() == ".mirolux";
    bool recovered = false;
    auto opened = open_project(file, {.decodeImages = false});
    if (project && std::filesystem::exists(autosave_path(file), ec)) {
        // The last run did not end cleanly: its unsaved work is beside the project.
        if (!recover) {
            QMessageBox box(QMessageBox::Question, tr("Unsaved work"),
                            tr("%1 has unsaved work from a run that did not end cleanly. Take it up again?").arg(path),
                            QMessageBox::NoButton, this);
            const QPushButton* take = box.addButton(tr("Take it up"), QMessageBox::AcceptRole);
            box.addButton(tr("Leave it out"), QMessageBox::RejectRole);
            box.exec();
            recover = box.clickedButton() == take;
        }
        if (*recover) {
            auto kept = open_autosave(file, {.decodeImages = false});
            if (kept) {
                if (opened) {
                    // Adopt what was saved, then the unsaved work as one edit: undo and the dirty mark then tell the
                    // truth.
                    const Project unsaved = kept->project;
                    document_.adopt(std::move(*opened));
                    document_.edit(tr("unsaved work"), [&](Project& p) { p = unsaved; });
                } else
                    document_.adopt(std::move(*kept));
                recovered = true;
            } else
                show_error(kept.error());
        }
    }
    if (!recovered) {
        if (!opened) {
            show_error(opened.error());
            return false;
        }
        document_.adopt(std::move(*opened));
    }
    select_light(-1);
    deletedEntries_.clear();
    logbook_.reset();
    open_logbook();
    return true;
}

std::optional<Prediction> MainWindow::prediction(QString& notice) {
    if (!document_.is_open() || document_.target().profile.empty()) return std::nullopt;
    Prediction out;
    if (!profile_ || profileOf_ != document_.target().profile) {
        auto found = find_profile(document_.target().profile);
        if (!found) {
            notice = QString::fromStdString(to_text(found.error()));
            return out;
        }
        profile_ = std::move(*found);
        profileOf_ = document_.target().profile;
    }
    FrameRecord counted;
    for (const auto& pass : bridge_->history().passes()) {
        if (!pass.counted) return out; // not yet
        counted.passes.push_back({pass.name, pass.family, {}, pass.work, true});
    }
    const View view = on_target(document_.project().view, document_.target());
    auto predicted = predict(*profile_, plan_frame(document_.scene(), document_.project().setup, view), counted);
    if (predicted) return std::move(*predicted);
    notice = QString::fromStdString(to_text(predicted.error()));
    return out;
}

bool MainWindow::save() {
    if (!document_.is_open()) return false;
    if (document_.project().path.empty()) return save_as();
    if (auto ok = document_.save(QString::fromStdString(document_.project().path)); !ok) {
        show_error(ok.error());
        return false;
    }
    return true;
}

bool MainWindow::save_as() {
    if (!document_.is_open()) return false;
    QString path = QFileDialog::getSaveFileName(this, tr("Save the project"),
                                                QString::fromStdString(document_.project().name) + ".mirolux",
                                                tr("Projects (*.mirolux)"));
    if (path.isEmpty()) return false;
    if (!path.endsWith(".mirolux")) path += ".mirolux";
    if (auto ok = document_.save(path); !ok) {
        show_error(ok.error());
        return false;
    }
    logbook_.reset();
    open_logbook();
    return true;
}

bool MainWindow::may_lose_work() {
    if (!document_.is_open() || !document_.dirty()) return true;
    const auto answer =
        QMessageBox::question(this, tr("Unsaved changes"),
                              tr("%1 has unsaved changes.").arg(QString::fromStdString(document_.project().name)),
                              QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, QMessageBox::Save);
    if (answer == QMessageBox::Cancel) return false;
    if (answer == QMessageBox::Save) return save();
    document_.forget_autosave();
    return true;
}

void MainWindow::closeEvent(QCloseEvent* e) {
    if (!may_lose_work()) {
        e->ignore();
        return;
    }
    if (document_.is_open()) document_.forget_autosave();
    bridge_->stop_measuring();
    e->accept();
}

void MainWindow::changeEvent(QEvent* e) {
    if (e->type() == QEvent::PaletteChange && logIt_)
        logIt_->setStyleSheet(QString("QToolButton{border:1px solid %1;padding:4px 12px}").arg(theme().accent.name()));
    QMainWindow::changeEvent(e);
}

} // namespace mirolux::app
