#include "app/main_window.h"
#include "app/command_list.h"
#include "app/theme.h"
#include "core/base/text.h"
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

static const char* const stationNames[] = {"Scene", "Lights", "Path", "Ambient", "Finish"};

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
    pathBench_ = new SettingsBench(document_, tr("Path"), tr("How surfaces meet lights. Changing it keeps everything else."), "Path");
    ambientBench_ = new SettingsBench(document_, tr("Ambient"), tr("Light that comes from everywhere, before any lamp."), "Ambient");
    finishBench_ = new SettingsBench(document_, tr("Finish"), tr("From scene-linear light to the display."), "Finish");
    passBench_ = new PassBench(document_, *bridge_);
    targetBench_ = new TargetBench(document_);
    bench_ = new QStackedWidget(this);
    for (QWidget* b : std::initializer_list<QWidget*>{sceneBench_, lightsBench_, lightBench_, pathBench_, ambientBench_, finishBench_, passBench_, targetBench_})
        bench_->addWidget(scrolled(b));

    auto* middle = new QWidget(this);
    auto* middleColumn = new QVBoxLayout(middle);
    middleColumn->setContentsMargins(0, 0, 0, 0);
    middleColumn->setSpacing(0);
    middleColumn->addWidget(layers_);
    middleColumn->addWidget(viewport_, 1);
    auto* across = new QSplitter(Qt::Horizontal, this);
    across->addWidget(logbookPanel_);
    across->addWidget(middle);
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
    connect(deck_, &CostDeck::pass_picked, this, &MainWindow::select_pass);
    connect(lightsBench_, &LightsBench::light_picked, this, &MainWindow::select_light);
    connect(lightsBench_, &LightsBench::add_wanted, this, &MainWindow::add_light);
    connect(lightBench_, &LightBench::duplicate_wanted, this, &MainWindow::duplicate_light);
    connect(lightBench_, &LightBench::delete_wanted, this, &MainWindow::delete_light);
    connect(lightBench_, &LightBench::back_wanted, this, [this] { select_light(-1); });
    connect(passBench_, &PassBench::back_wanted, this, [this] {
        deck_->select({});
        select_pass({});
    });
    connect(targetBench_, &TargetBench::back_wanted, this, [this] {
        targetsShown_ = false;
        show_bench();
    });
    connect(logbookPanel_, &LogbookPanel::stop_wanted, this, [this] { bridge_->stop_measuring(); });
    connect(logbookPanel_, &LogbookPanel::restore_wanted, this, &MainWindow::restore_entry);
    connect(logbookPanel_, &LogbookPanel::delete_wanted, this, [this](qint64 id) {
        if (!logbook_) return;
        if (auto ok = logbook_->remove(id); !ok) return show_error(ok.error());
        deletedEntries_.push_back(id);
        open_logbook();
    });
    connect(logbookPanel_, &LogbookPanel::annotated, this, [this](qint64 id, const QString& note) {
        if (!logbook_) return;
        if (auto ok = logbook_->annotate(id, note.toStdString()); !ok) show_error(ok.error());
    });

    connect(&document_, &Document::changed, this, [this] {
        viewport_->set_tile_map({});
        bridge_->refresh(document_.interactive());
        refresh_all();
    });
    connect(&document_, &Document::camera_moved, this, [this] {
        viewport_->set_tile_map({}); // it belongs to the view before
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
            notice = tr("path.maxLights drops %L1 lights over %2 objects: raise K, shorten ranges, or take the additive path").arg(r.droppedLights).arg(r.droppedObjects);
        deck_->refresh(QString::fromStdString(r.clock), notice);
        pathBench_->set_facts(tr("%1 of %2 enabled lights touch the view.\n%3")
                                  .arg(r.lightsInView)
                                  .arg(r.lightsInScene)
                                  .arg(r.droppedLights ? tr("%L1 lights are dropped over %2 objects.").arg(r.droppedLights).arg(r.droppedObjects) : tr("No light is dropped.")));
        if (!selectedPass_.isEmpty()) passBench_->fill();
        refresh_status();
    });
    connect(bridge_.get(), &RenderBridge::light_lists_ready, this, [this](const cull::LightGrid& grid) {
        if (grid.columns == 0) return viewport_->set_tile_map({});
        View view = document_.project().view;
        view.width = document_.target().width;
        view.height = document_.target().height;
        std::vector<std::string> names;
        for (const Light& l : build_draw_list(document_.scene(), document_.project().setup, view).lights)
            names.push_back(l.name);
        viewport_->set_tile_map(TileMap(grid, QSize(view.width, view.height), std::move(names)));
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
    connect(bridge_.get(), &RenderBridge::failed, this, [this](const Error& e) { viewport_->show_message(QString::fromStdString(to_text(e)), true); });
    connect(bridge_.get(), &RenderBridge::device_known, this, &MainWindow::refresh_status);
    connect(bridge_.get(), &RenderBridge::measure_progress, logbookPanel_, &LogbookPanel::show_progress);
    connect(bridge_.get(), &RenderBridge::measured, this, [this](const Measurement& m, const State& state) {
        logbookPanel_->show_rest();
        refresh_all();
        if (!logbook_) return;
        if (auto id = logbook_->add(state, m, bridge_->device().value_or(DeviceInfo{}), document_.target(), document_.scene_digest()); !id) {
            logbookPanel_->show_trouble(QString::fromStdString(to_text(id.error())));
            return;
        }
        open_logbook();
    });
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

QAction* MainWindow::add_command(const QString& name, const QString& text, const QKeySequence& key, const QString& help, const std::function<void()>& run) {
    auto* action = new QAction(text, this);
    action->setObjectName(name);
    action->setShortcut(key);
    action->setToolTip(key.isEmpty() ? help : help + " (" + key.toString(QKeySequence::NativeText) + ")");
    connect(action, &QAction::triggered, this, run);
    addAction(action);
    commands_ << action;
    return action;
}

QAction* MainWindow::command(const QString& name) const {
    for (QAction* a : commands_)
        if (a->objectName() == name) return a;
    return nullptr;
}

void MainWindow::build_commands() {
    add_command("open", tr("Open\u2026"), QKeySequence("Ctrl+O"), tr("Opens a project or a glTF 2.0 scene."), [this] {
        const QString path = QFileDialog::getOpenFileName(this, tr("Open"), {}, tr("Projects and scenes (*.mirolux *.gltf *.glb)"));
        if (!path.isEmpty() && may_lose_work()) open(path);
    });
    add_command("save", tr("Save"), QKeySequence("Ctrl+S"), tr("Saves the project."), [this] { save(); });
    add_command("save as", tr("Save as\u2026"), QKeySequence("Ctrl+Shift+S"), tr("Saves the project under another name."), [this] { save_as(); });
    add_command("undo", tr("Undo"), QKeySequence("Ctrl+Z"), tr("Takes the last edit back."), [this] { document_.undo(); });
    add_command("redo", tr("Redo"), QKeySequence("Ctrl+Shift+Z"), tr("Makes the edit again."), [this] { document_.redo(); });
    add_command("log", tr("Log it"), QKeySequence("L"), tr("Measures this state and keeps it in the logbook."), [this] { log_state(); });
    add_command("stop", tr("Stop measuring"), QKeySequence("Esc"), tr("Stops the measurement and keeps its rounds."), [this] { bridge_->stop_measuring(); });
    add_command("bring back", tr("Bring back the deleted logbook entry"), QKeySequence("Ctrl+B"), tr("Undoes the last deletion from the logbook."), [this] {
        if (!logbook_ || deletedEntries_.empty()) return;
        if (auto ok = logbook_->bring_back(deletedEntries_.back()); !ok) return show_error(ok.error());
        deletedEntries_.pop_back();
        open_logbook();
    });
    int n = 0;
    for (const char* station : stationNames)
        add_command(QString("station ") + station, tr("Station: %1").arg(station), QKeySequence(QString::number(++n)), tr("Goes to the station %1.").arg(station), [this, station] { set_station(station); });
    add_command("add point", tr("Add a point light"), QKeySequence("Alt+1"), tr("Adds a point light before the camera."), [this] { add_light(LightType::point); });
    add_command("add spot", tr("Add a spot light"), QKeySequence("Alt+2"), tr("Adds a spot light before the camera."), [this] { add_light(LightType::spot); });
    add_command("add directional", tr("Add a directional light"), QKeySequence("Alt+3"), tr("Adds a directional light."), [this] { add_light(LightType::directional); });
    add_command("duplicate", tr("Duplicate the light"), QKeySequence("Ctrl+D"), tr("A copy of the selected light, half a metre beside it."), [this] { duplicate_light(); });
    add_command("delete", tr("Delete the light"), QKeySequence("Del"), tr("Deletes the selected light."), [this] { delete_light(); });
    add_command("switch", tr("Switch the light on or off"), QKeySequence("O"), tr("Switches the selected light."), [this] {
        document_.edit_light(tr("switch"), selectedLight_, [](Light& l) { l.enabled = !l.enabled; });
    });
    add_command("frame", tr("Centre on the selection"), QKeySequence("C"), tr("Moves the camera so that the selected light, or the whole scene, fills the picture."), [this] { viewport_->frame_selection(); });
    add_command("let go", tr("Let go of the selection"), QKeySequence("X"), tr("Selects nothing."), [this] { select_light(-1); });
    add_command("tile map", tr("Show or hide the tile map"), QKeySequence("M"), tr("Path station, tiled and clustered paths: how many lights each tile lists. Rest on a tile for their names."), [this] {
        tileMapWanted_ = !tileMapWanted_;
        show_bench();
    });
    add_command("targets", tr("Edit targets"), QKeySequence("Alt+T"), tr("Sizes and budgets to measure against."), [this] {
        targetsShown_ = true;
        show_bench();
    });
    add_command("theme", tr("Dark or light theme"), QKeySequence("Ctrl+T"), tr("Changes the window's greys; the picture stays."), [this] { use_theme(*qApp, !theme().dark); });
    add_command("shaders", tr("Choose a shader folder\u2026"), QKeySequence("Alt+S"), tr("Shader files in it stand before the built-in ones and are read again when they change."), [this] {
        const QString folder = QFileDialog::getExistingDirectory(this, tr("Shader folder"));
        if (!folder.isEmpty()) bridge_->use_shader_folder(folder);
    });
    add_command("built-in shaders", tr("Use the built-in shaders"), QKeySequence("Alt+Shift+S"), tr("Lets go of the shader folder."), [this] { bridge_->use_shader_folder({}); });
    add_command("commands", tr("All commands"), QKeySequence("Ctrl+Space"), tr("Every command with its key, found by typing."), [this] {
        document_.set_interactive(false);
        command("undo")->setText(document_.can_undo() ? tr("Undo: %1").arg(document_.undo_label()) : tr("Undo"));
        command("redo")->setText(document_.can_redo() ? tr("Redo: %1").arg(document_.redo_label()) : tr("Redo"));
        commandList_->open(commands_);
    });
    add_command("quit", tr("Quit"), QKeySequence("Ctrl+Q"), tr("Closes Mirolux."), [this] { close(); });
}

void MainWindow::build_bar() {
    auto* bar = new QWidget(this);
    bar->setFixedHeight(44);
    auto* row = new QHBoxLayout(bar);
    row->setContentsMargins(8, 4, 8, 4);
    row->setSpacing(6);
    title_ = new QToolButton(bar);
    title_->setPopupMode(QToolButton::InstantPopup);
    title_->setToolTip(tr("The project: open, save, and all commands."));
    QFont strong = font();
    strong.setPixelSize(14);
    strong.setWeight(QFont::DemiBold);
    title_->setFont(strong);
    auto* menu = new QMenu(title_);
    for (const char* name : {"open", "save", "save as", "undo", "redo", "shaders", "built-in shaders", "theme", "commands", "quit"})
        menu->addAction(command(name));
    title_->setMenu(menu);
    row->addWidget(title_);
    target_ = new QComboBox(bar);
    target_->setObjectName("target");
    target_->setToolTip(tr("The target: picture size and frame budget."));
    target_->setMinimumWidth(250);
    row->addWidget(target_);
    connect(target_, &QComboBox::activated, this, [this](int index) {
        if (index >= static_cast<int>(document_.project().targets.size())) {
            targetsShown_ = true;
            show_bench();
            refresh_all();
            return;
        }
        document_.edit(tr("target"), [index](Project& p) {
            p.target = index;
            p.view.width = p.targets[static_cast<std::size_t>(index)].width;
            p.view.height = p.targets[static_cast<std::size_t>(index)].height;
        });
    });
    row->addSpacing(14);
    stations_ = new QButtonGroup(this);
    int n = 0;
    for (const char* station : stationNames) {
        auto* button = new QToolButton(bar);
        button->setText(tr(station));
        button->setCheckable(true);
        button->setChecked(station_ == station);
        button->setToolTip(tr("Station %1 (%2)").arg(station).arg(++n));
        stations_->addButton(button, n - 1);
        row->addWidget(button);
        connect(button, &QToolButton::clicked, this, [this, station] { set_station(station); });
    }
    row->addStretch();
    for (const char* name : {"undo", "redo"}) {
        auto* button = new QToolButton(bar);
        button->setDefaultAction(command(name));
        row->addWidget(button);
    }
    logIt_ = new QToolButton(bar);
    logIt_->setDefaultAction(command("log"));
    logIt_->setStyleSheet(QString("QToolButton{border:1px solid %1;padding:4px 12px}").arg(theme().accent.name()));
    row->addWidget(logIt_);
    setMenuWidget(bar);
}

void MainWindow::set_station(const QString& name) {
    station_ = name;
    for (int i = 0; i < 5; ++i)
        if (name == stationNames[i]) stations_->button(i)->setChecked(true);
    selectedPass_.clear();
    deck_->select({});
    targetsShown_ = false;
    if (name != "Lights" && selectedLight_ >= 0) {
        selectedLight_ = -1;
        viewport_->select_light(-1);
    }
    show_bench();
}

void MainWindow::select_light(int id) {
    selectedLight_ = document_.light(id) ? id : -1;
    viewport_->select_light(selectedLight_);
    if (selectedLight_ >= 0) {
        if (station_ != "Lights") {
            station_ = "Lights";
            stations_->button(1)->setChecked(true);
        }
        selectedPass_.clear();
        deck_->select({});
        targetsShown_ = false;
        lightBench_->set_light(selectedLight_);
    }
    show_bench();
    refresh_all();
}

void MainWindow::select_pass(const QString& name) {
    selectedPass_ = name;
    targetsShown_ = false;
    if (!name.isEmpty()) {
        deck_->select(name);
        passBench_->set_pass(name);
    }
    show_bench();
}

void MainWindow::show_bench() {
    QWidget* bench = station_ == "Scene" ? static_cast<QWidget*>(sceneBench_) : station_ == "Lights" ? static_cast<QWidget*>(lightsBench_) : station_ == "Path" ? pathBench_ : station_ == "Ambient" ? ambientBench_ : finishBench_;
    if (selectedLight_ >= 0) bench = lightBench_;
    if (!selectedPass_.isEmpty()) bench = passBench_;
    if (targetsShown_) bench = targetBench_;
    for (int i = 0; i < bench_->count(); ++i)
        if (static_cast<QScrollArea*>(bench_->widget(i))->widget() == bench) bench_->setCurrentIndex(i);
    viewport_->set_lights_shown(station_ == "Lights");
    viewport_->set_tile_map_shown(station_ == "Path" && tileMapWanted_);
}

void MainWindow::refresh_all() {
    const bool open = document_.is_open();
    title_->setText(open ? QString::fromStdString(document_.project().name) + (document_.dirty() ? " \u2022" : "") + "  \u25be" : "Mirolux  \u25be");
    setWindowTitle(open ? QString::fromStdString(document_.project().name) + (document_.dirty() ? " (changed)" : "") + " - Mirolux" : "Mirolux");
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
    command("bring back")->setEnabled(!deletedEntries_.empty());
    refresh_status();
}

void MainWindow::refresh_status() {
    QString text;
    if (const auto& device = bridge_->device()) {
        text = QString::fromStdString(device->renderer) + "   " + QString::fromStdString(device->clock.gpuAccepted ? "GPU clock in use" : "fenced clock in use: the GPU clock failed its test");
        status_->setToolTip(QString::fromStdString(device->clock.verdict + "\n" + device->version));
    } else text = tr("finding a device");
    if (document_.is_open()) text += tr("   picture %1x%2").arg(document_.target().width).arg(document_.target().height);
    if (!notice_.isEmpty()) text += "   " + notice_;
    status_->setText(text);
    statusWorker_->setText(workerText_);
}

QString MainWindow::status_text() const { return status_->text() + "   " + statusWorker_->text(); }

void MainWindow::show_error(const Error& error) { viewport_->show_message(QString::fromStdString(to_text(error)), true); }

bool MainWindow::open(const QString& path, std::optional<bool> recover) {
    const std::filesystem::path file = path.toStdString();
    std::error_code ec;
    const bool project = file.extension() == ".mirolux";
    bool recovered = false;
    auto opened = open_project(file, {.decodeImages = false});
    if (project && std::filesystem::exists(autosave_path(file), ec)) {
        // The last run did not end cleanly: its unsaved work is beside the project.
        if (!recover) {
            QMessageBox box(QMessageBox::Question, tr("Unsaved work"), tr("%1 has unsaved work from a run that did not end cleanly. Take it up again?").arg(path), QMessageBox::NoButton, this);
            const QPushButton* take = box.addButton(tr("Take it up"), QMessageBox::AcceptRole);
            box.addButton(tr("Leave it out"), QMessageBox::RejectRole);
            box.exec();
            recover = box.clickedButton() == take;
        }
        if (*recover) {
            auto kept = open_autosave(file, {.decodeImages = false});
            if (kept) {
                if (opened) {
                    // Adopt what was saved, then the unsaved work as one edit: undo and the dirty mark then tell the truth.
                    const Project unsaved = kept->project;
                    document_.adopt(std::move(*opened));
                    document_.edit(tr("unsaved work"), [&](Project& p) { p = unsaved; });
                } else document_.adopt(std::move(*kept));
                recovered = true;
            } else show_error(kept.error());
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

void MainWindow::open_logbook() {
    entries_.clear();
    if (!logbook_ && document_.is_open() && !document_.project().path.empty()) {
        auto book = Logbook::open(logbook_path(document_.project().path));
        if (book) logbook_.emplace(std::move(*book));
        else logbookPanel_->show_trouble(QString::fromStdString(to_text(book.error())));
    }
    if (logbook_) {
        auto entries = logbook_->entries();
        if (entries) entries_ = std::move(*entries);
        else logbookPanel_->show_trouble(QString::fromStdString(to_text(entries.error())));
    }
    logbookPanel_->show_entries(entries_);
    refresh_all();
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
    QString path = QFileDialog::getSaveFileName(this, tr("Save the project"), QString::fromStdString(document_.project().name) + ".mirolux", tr("Projects (*.mirolux)"));
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

void MainWindow::log_state(int rounds) {
    if (!document_.is_open() || bridge_->measuring()) return;
    if (document_.project().path.empty() && !save_as()) {
        logbookPanel_->show_trouble(tr("The logbook lies beside the project: save the project first, then log."));
        return;
    }
    document_.set_interactive(false);
    logbookPanel_->show_progress(0, rounds, 0);
    bridge_->measure(rounds);
    refresh_all();
}

void MainWindow::restore_entry(qint64 id) {
    if (!logbook_) return;
    auto state = logbook_->state(id);
    if (!state) return show_error(state.error());
    document_.edit(tr("restore"), [&](Project& p) {
        p.setup = state->setup;
        p.lights = state->lights;
        // The picture's size belongs to a target: one of that size is chosen, or made.
        auto fits = [&](const Target& t) { return t.width == state->view.width && t.height == state->view.height; };
        const auto it = std::find_if(p.targets.begin(), p.targets.end(), fits);
        if (!fits(p.targets[static_cast<std::size_t>(p.target)])) {
            if (it != p.targets.end()) p.target = static_cast<int>(it - p.targets.begin());
            else {
                Target t = p.targets[static_cast<std::size_t>(p.target)];
                t.name += " as logged";
                t.width = state->view.width;
                t.height = state->view.height;
                p.targets.push_back(t);
                p.target = static_cast<int>(p.targets.size()) - 1;
            }
        }
        p.view = state->view;
    });
    bridge_->refresh(false);
}

void MainWindow::add_light(LightType type) {
    if (!document_.is_open()) return;
    const View view = document_.project().view;
    const Ray ray = ray_through(view, view.width * 0.5, view.height * 0.5);
    const RayHit hit = nearest_hit(*document_.asset(), ray.origin, ray.direction);
    const float distance = hit.object >= 0 ? std::min(hit.distance, 30.0f) : 8.0f;
    const glm::vec3 surface = ray.origin + ray.direction * distance;
    Light l;
    l.type = type;
    l.kelvin = 3500;
    l.position = surface + (hit.object >= 0 ? hit.normal * 1.2f : glm::vec3(0)) + glm::vec3(0, 1.2f, 0);
    l.direction = glm::vec3(0, -1, 0);
    l.range = std::clamp(distance, 4.0f, 20.0f);
    l.intensity = 120;
    l.name = type == LightType::point ? "point light" : type == LightType::spot ? "spot light" : "directional light";
    if (type == LightType::spot) {
        l.intensity = 400;
        l.innerConeAngle = glm::radians(20.0f);
        l.outerConeAngle = glm::radians(35.0f);
    } else if (type == LightType::directional) {
        l.intensity = 0.3f;
        l.range = 0;
        l.unit = IntensityUnit::lux;
        l.direction = glm::normalize(glm::vec3(0.4f, -1, -0.3f));
    }
    select_light(document_.add_light(l));
}

void MainWindow::duplicate_light() {
    const Light* l = document_.light(selectedLight_);
    if (!l) return;
    Light copy = *l;
    copy.name += " copy";
    copy.position.x += 0.5f;
    select_light(document_.add_light(copy));
}

void MainWindow::delete_light() {
    const int id = selectedLight_;
    if (id < 0) return;
    select_light(-1);
    document_.edit(tr("delete light"), [id](Project& p) { std::erase_if(p.lights, [id](const Light& l) { return l.id == id; }); });
}

bool MainWindow::may_lose_work() {
    if (!document_.is_open() || !document_.dirty()) return true;
    const auto answer = QMessageBox::question(this, tr("Unsaved changes"), tr("%1 has unsaved changes.").arg(QString::fromStdString(document_.project().name)),
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
