#include "app/main_window.h"
#include "app/command_list.h"
#include "app/finish_engine.h"
#include "app/outside_view.h"
#include "app/read_out.h"
#include "app/sheet_view.h"
#include "app/stations.h"
#include "app/theme.h"
#include "app/truth_engine.h"
#include "core/base/text.h"
#include "core/cost/report.h"
#include "core/flat/flat_import.h"
#include "core/scene/geometry.h"
#include "core/scene/starter.h"
#include <QApplication>
#include <QButtonGroup>
#include <QCloseEvent>
#include <QComboBox>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QMenu>
#include <QMessageBox>
#include <QMimeData>
#include <QPushButton>
#include <QScrollArea>
#include <QSettings>
#include <QSplitter>
#include <QStackedWidget>
#include <QStatusBar>
#include <QToolButton>
#include <QVBoxLayout>
#include <filesystem>
#include <sched.h>
#include <sys/syscall.h>
#include <unistd.h>

namespace mirolux::app {

static QScrollArea* scrolled(QWidget* bench) {
    auto* area = new QScrollArea;
    area->setFrameShape(QFrame::NoFrame);
    area->setWidgetResizable(true);
    area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    area->setWidget(bench);
    return area;
}

/// Asks the scheduler to run this thread soon whenever it wakes, in short turns: input is answered while a software
/// renderer keeps every core busy. A wish (Linux 6.12 and later); elsewhere nothing changes.
static void answer_soon() {
    struct {
        std::uint32_t size = sizeof(*this), policy = SCHED_OTHER;
        std::uint64_t flags = 0;
        std::int32_t nice = 0;
        std::uint32_t priority = 0;
        std::uint64_t runtime = 200000, deadline = 0, period = 0; // ns; runtime: of a turn
    } attributes;
    (void)syscall(SYS_sched_setattr, 0, &attributes, 0);
}

MainWindow::MainWindow(WorkerOptions worker, QWidget* parent) : QMainWindow(parent) {
    answer_soon();
    tell_number_fields();
    setAcceptDrops(true);
    setWindowTitle("Mirolux");
    resize(1280, 800);
    const double watchdog = QSettings().value("watchdogSeconds", worker.watchdogSeconds).toDouble();
    if (worker.watchdogSeconds == WorkerOptions().watchdogSeconds) worker.watchdogSeconds = watchdog;
    const double limit = worker.watchdogSeconds;
    const WorkerOptions workerOptions = worker;
    bridge_ = std::make_unique<RenderBridge>(document_, worker);
    shadowAudit_ = std::make_unique<ShadowAuditEngine>(worker);
    finishing_ = std::make_unique<FinishEngine>(worker);
    outside_ = new OutsideView(document_, worker, this);
    foresight_ = std::make_unique<ForesightEngine>(document_, *bridge_, std::move(worker));
    sceneBench_ = new SceneBench(document_, *bridge_, limit);
    connect(sceneBench_, &SceneBench::watchdog_changed, this, [this](double seconds) {
        bridge_->set_watchdog(seconds);
        QSettings().setValue("watchdogSeconds", seconds);
    });

    selection_ = std::make_unique<Selection>(document_);
    viewport_ = new Viewport(document_, *selection_, this);
    layers_ = new LayerStrip(this);
    deck_ = new CostDeck(document_, bridge_->history(), this);
    logbookPanel_ = new LogbookPanel(this);
    lightsBench_ = new LightsBench(document_, *selection_);
    objectsBench_ = new ObjectsBench(document_, *selection_);
    helpBench_ = new HelpBench;
    lightBench_ = new LightBench(document_);
    flatLightBench_ = new FlatLightBench(document_);
    stageBench_ = new StageBench(document_, *selection_);
    cheapBench_ = new CheapLightsBench(document_, *selection_);
    for (const Station& s : stations())
        if (!s.bench) settingsBenches_[s.name] = new SettingsBench(document_, *bridge_, tr(s.name), tr(s.line), s.name);
    passBench_ = new PassBench(document_, *bridge_);
    targetBench_ = new TargetBench(document_);
    tileBench_ = new TileBench;
    pixelBench_ = new PixelBench;
    bench_ = new QStackedWidget(this);
    for (QWidget* b : std::initializer_list<QWidget*>{helpBench_, sceneBench_, objectsBench_, lightsBench_, lightBench_,
                                                      cheapBench_, passBench_, targetBench_, tileBench_, pixelBench_,
                                                      flatLightBench_, stageBench_})
        bench_->addWidget(scrolled(b));
    for (SettingsBench* b : settingsBenches_)
        bench_->addWidget(scrolled(b));

    setCentralWidget(laid_out());
    status_ = new QLabel(this);
    statusWorker_ = new QLabel(this);
    statusBar()->addWidget(status_, 1);
    statusBar()->addPermanentWidget(statusWorker_);
    statusBar()->setSizeGripEnabled(false);
    statusBar()->setContentsMargins(12, 0, 12, 0);
    commandList_ = new CommandList(this);
    build_commands();
    build_bar();

    connect_views();
    connect_walk();
    connect_pair();
    connect_details();
    connect_document();
    connect_frames();
    connect_logbook();
    connect_anatomy();
    connect_blocks();
    connect_sheet();
    connect_visibility(workerOptions);
    connect_foresight();
    connect_shadows();
    connect_building();
    connect_air();
    connect_probes();
    name_help_topics();
    show_bench();
    restore_layout();
    refresh_all();
}

/// The logbook, the picture and the bench side by side, over the cost deck.
QWidget* MainWindow::laid_out() {
    auto* middle = new QWidget(this);
    auto* middleColumn = new QVBoxLayout(middle);
    middleColumn->setContentsMargins(0, 0, 0, 0);
    middleColumn->setSpacing(0);
    middleColumn->addWidget(layers_);
    targetBar_ = new TargetBar(this);
    targetBar_->hide();
    middleColumn->addWidget(targetBar_);
    truthBar_ = new TruthBar(this);
    truthBar_->hide();
    middleColumn->addWidget(truthBar_);
    connect(truthBar_, &TruthBar::chosen, this, &MainWindow::choose_truth);
    connect(truthBar_, &TruthBar::radius_changed, this, &MainWindow::forget_truth);
    connect(truthBar_, &TruthBar::stop_wanted, this, &MainWindow::stop_truth);
    middleColumn->addWidget(viewport_, 1);
    journal_ = new JournalView(this);
    middle_ = new QStackedWidget(this);
    middle_->addWidget(middle);
    middle_->addWidget(journal_);
    anatomy_ = new AnatomyView(this);
    middle_->addWidget(anatomy_);
    sheet_ = new SheetView(this);
    middle_->addWidget(sheet_);
    middle_->addWidget(outside_);
    across_ = new QSplitter(Qt::Horizontal, this);
    QSplitter* across = across_;
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
    down_ = new QSplitter(Qt::Vertical, this);
    QSplitter* down = down_;
    down->addWidget(across);
    down->addWidget(deck_);
    down->setSizes({540, 182});
    down->setStretchFactor(0, 1);
    down->setStretchFactor(1, 0);
    down->setChildrenCollapsible(false);
    down->setHandleWidth(3);
    return down;
}

MainWindow::~MainWindow() {
    disconnect(&document_, nullptr, this, nullptr);
    foresight_.reset();
    bridge_.reset(); // its thread reports to what follows
}

void MainWindow::refresh_all() {
    show_layers();
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
    for (const char* name :
         {"save", "save as", "frame", "targets", "add point", "add spot", "add directional", "objects"})
        command(name)->setEnabled(open);
    const bool proxies = !selected_proxies().empty();
    command("switch")->setEnabled(!selection_->lights().empty());
    command("delete")->setEnabled(!selection_->lights().empty() || proxies || !selected_things().empty());
    command("duplicate")->setEnabled(selection_->light() >= 0 || !selection_->objects().empty());
    command("stand in")->setEnabled(selection_->objects().size() > (proxies ? selected_proxies().size() : 0));
    command("draw proxy")->setEnabled(open);
    command("isolate")->setEnabled(!selection_->lights().empty() || !document_.isolated().empty());
    for (const char* name : {"hide", "price objects"})
        command(name)->setEnabled(!selection_->objects().empty());
    for (const char* name : {"clear selection", "off on target"})
        command(name)->setEnabled(!selection_->empty());
    command("log")->setEnabled(open && !bridge_->measuring());
    command("stop")->setEnabled(bridge_->measuring() || taken_);
    command("take b")->setEnabled(open);
    for (const char* name : {"swap", "drop b", "compare"})
        command(name)->setEnabled(open && bridge_->b());
    for (const char* name :
         {"wipe", "blink", "absolute difference", "relative difference", "seen difference", "turn wipe"})
        command(name)->setEnabled(open && (bridge_->b() || truthShown_));
    command("truth")->setEnabled(open && !document_.is_blocks());
    command("stop truth")->setEnabled(open && truthShown_);
    command("bring back")->setEnabled(!deletedEntries_.empty());
    if (!document_.is_solid()) { // what only a Solid stage has
        for (const char* name :
             {"objects", "draw proxy", "stand in", "hide", "head lamp", "cheap lights", "audit shadows", "find bias",
              "try spots", "working spaces", "furnace", "capture probes"})
            command(name)->setEnabled(false);
        for (QAction* build : buildCommands_)
            build->setEnabled(false);
        const bool piece = !selection_->piece().none();
        command("delete")->setEnabled(piece || !selection_->lights().empty());
        command("duplicate")->setEnabled(piece || selection_->light() >= 0);
    } else if (open)
        for (const char* name : {"head lamp", "cheap lights", "audit shadows", "find bias", "try spots",
                                 "working spaces", "furnace", "capture probes"})
            command(name)->setEnabled(true);
    if (document_.is_solid())
        for (QAction* build : buildCommands_)
            build->setEnabled(open);
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
    if (!gathering_.isEmpty()) text += "   " + gathering_;
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
    FileLock probe; // another window's unsaved work is its own
    const bool own = document_.is_open() && std::filesystem::equivalent(document_.project().path, file, ec);
    const bool elsewhere = project && !own && std::filesystem::exists(file, ec) && !probe.take(file);
    probe.release();
    if (project && !elsewhere && std::filesystem::exists(autosave_path(file), ec)) {
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
    if (const auto& device = bridge_->device()) document_.suit_device(device->software());
    if (!recovered) start_scene();
    remember_file(path);
    objectsShown_ = cheapShown_ = false;
    select_light(-1);
    deletedEntries_.clear();
    logbook_.reset();
    open_logbook();
    watch_scene();
    if (document_.shared()) notice_ = tr("The project is open in another window as well: what is saved last stays.");
    refresh_status();
    return true;
}

/// A scene file that nobody has set up opens lit and exposed, by edits that can be undone.
void MainWindow::start_scene() {
    notice_.clear();
    const Starter starter = starter_of({document_.project(), document_.asset(), {}});
    if (starter.empty()) return;
    bridge_->meter();
    starterSky_ = starter.light;
    if (starter.light)
        document_.edit(tr("starter light"), [](Project& p) { add_starter_light(p); });
    else
        bridge_->refresh(false);
    notice_ = tr("Added: %1. Undo takes it back.").arg(QString::fromStdString(words_of(starter)));
}

/// Files that were opened lately, the newest first.
QStringList MainWindow::recent_files() const {
    return QSettings().value("recentFiles").toStringList();
}

void MainWindow::remember_file(const QString& path) {
    constexpr int most = 8;
    QStringList files = recent_files();
    const QString whole = QFileInfo(path).absoluteFilePath();
    files.removeAll(whole);
    files.prepend(whole);
    QSettings().setValue("recentFiles", QStringList(files.mid(0, most)));
}

static QString dropped_file(const QMimeData* data) {
    for (const QUrl& url : data->urls())
        for (const char* ending : {".mirolux", ".gltf", ".glb"})
            if (url.isLocalFile() && url.toLocalFile().endsWith(ending, Qt::CaseInsensitive)) return url.toLocalFile();
    return {};
}

void MainWindow::dragEnterEvent(QDragEnterEvent* e) {
    if (!dropped_file(e->mimeData()).isEmpty()) e->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* e) {
    const QString file = dropped_file(e->mimeData());
    if (!file.isEmpty() && may_lose_work()) open(file);
}

void MainWindow::watch_scene() {
    if (!sceneWatcher_.files().isEmpty()) sceneWatcher_.removePaths(sceneWatcher_.files());
    const QString path = QString::fromStdString(document_.project().scenePath);
    if (QFile::exists(path)) sceneWatcher_.addPath(path);
}

/// The scene file was saved anew: its new state is taken, with the user's edits kept. One that cannot be read (half
/// written, say) leaves everything as it is.
void MainWindow::reload_scene() {
    if (!document_.is_open()) return;
    watch_scene(); // a file that was put in place of the old one is another one to watch
    const SceneChoice& choice = document_.project().choice;
    auto asset = import_scene(document_.project().scenePath, {.decodeImages = false, .choice = choice});
    refused_ = asset ? SceneChoice{} : choice;
    if (!asset) return show_error(asset.error());
    if ((*asset)->fileDigest == document_.asset()->fileDigest && choice == document_.asset()->choice) return;
    if (choice != document_.asset()->choice)
        document_.take_choice(*asset);
    else
        document_.reload(*asset, notice_);
    bridge_->refresh(false);
    refresh_status();
    emit scene_reloaded();
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

} // namespace mirolux::app
