#include "app/bake_row.h"
#include "app/clip_row.h"
#include "app/command_list.h"
#include "app/figures/figure_pages.h"
#include "app/light_map_bench.h"
#include "app/main_window.h"
#include "app/patch_bench.h"
#include "app/stations.h"
#include "app/theme.h"
#include "app/visibility_row.h"
#include "core/scene/geometry.h"
#include <QApplication>
#include <QButtonGroup>
#include <QComboBox>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QMenu>
#include <QToolButton>
#include <set>

// The commands, the bar that holds some of them, and what they do to lights.
namespace mirolux::app {

QAction* MainWindow::add_command(const QString& name, const QString& text, const QKeySequence& key, const QString& help,
                                 const std::function<void()>& run) {
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
    build_project_commands();
    build_view_commands();
    build_layout_commands();
    build_pair_commands();
    build_walk_commands();
    build_light_commands();
}

void MainWindow::build_project_commands() {
    add_command("open", tr("Open\u2026"), QKeySequence("Ctrl+O"), tr("Opens a project or a glTF 2.0 scene."), [this] {
        const QString path = QFileDialog::getOpenFileName(
            this, tr("Open"), {}, tr("Projects and scenes (*.mirolux *.gltf *.glb *.blocks *.json)"));
        if (!path.isEmpty() && may_lose_work()) open(path);
    });
    add_command("save", tr("Save"), QKeySequence("Ctrl+S"), tr("Saves the project."), [this] { save(); });
    add_command("save as", tr("Save as\u2026"), QKeySequence("Ctrl+Shift+S"),
                tr("Saves the project under another name."), [this] { save_as(); });
    add_command("undo", tr("Undo"), QKeySequence("Ctrl+Z"), tr("Takes the last edit back."),
                [this] { document_.undo(); });
    add_command("redo", tr("Redo"), QKeySequence("Ctrl+Shift+Z"), tr("Makes the edit again."),
                [this] { document_.redo(); });
    add_command("log", tr("Log it"), QKeySequence("L"), tr("Measures this state and keeps it in the logbook."),
                [this] { log_state(); });
    add_command("stop", tr("Stop measuring"), QKeySequence("Esc"),
                tr("Stops the measurement and keeps its rounds; lays down what is taken up to build with."), [this] {
                    lay_down();
                    bridge_->stop_measuring();
                });
    add_command("judge targets", tr("Judge all targets"), QKeySequence("Shift+T"),
                tr("Measures or predicts every target of the project."), [this] {
                    targetsShown_ = true;
                    show_bench();
                    judge_targets();
                });
    add_command("journal", tr("Journal"), QKeySequence("J"),
                tr("All entries of the logbook on one axis of time against the budget; again: the picture."),
                [this] { show_journal(middle_->currentIndex() != 1); });
    add_command("latest entries", tr("Journal: the latest entries"), QKeySequence("Shift+J"),
                tr("The journal near its last dozen entries."), [this] {
                    show_journal(true);
                    journal_->show_latest();
                });
    add_command("anatomy", tr("Anatomy of the frame"), QKeySequence("Y"),
                tr("Passes in order, targets over their lives, memory; again: the picture."),
                [this] { show_anatomy(!anatomy_shown()); });
    add_command("layer sheet", tr("The frame by its layers"), QKeySequence("Shift+S"),
                tr("Every layer and the sum so far on one sheet, to look at and to save; again: the picture."),
                [this] { show_sheet(!sheet_shown()); });
    add_command("outside", tr("From outside"), QKeySequence("K"),
                tr("What this frame draws and what it leaves out, seen from above; again: the picture."),
                [this] { show_outside(!outside_shown()); });
    add_command("compute visibility", tr("Compute visibility"), QKeySequence("Ctrl+K"),
                tr("Cells or rooms for the Path station's visibility, beside the window."),
                [this] { visibilityRow_->compute(); });
    add_command("place door", tr("Door ahead"), QKeySequence("Alt+K"),
                tr("A door in the opening that the camera looks through."), [this] { visibilityRow_->place_door(); });
    add_command(
        "bake light map", tr("Bake light"), QKeySequence("Ctrl+L"),
        tr("The light map, or probes in space, beside the window: as the Ambient station's indirect light has it."),
        [this] {
            if (patchBench_->wanted())
                patchBench_->shoot();
            else
                uses_light_map(document_.project().setup) ? lightMapBench_->bake() : lightMapBench_->bake_probes();
        });
    add_command("bake masks", tr("Bake shadow masks"), QKeySequence("Alt+D"),
                tr("Masks of lamps that stay where they are, where the Shadows station asks for them."),
                [this] { maskRow_->bake(); });
    add_command("bake occlusion", tr("Bake occlusion"), QKeySequence("Alt+U"),
                tr("By texel or by vertex, where the Ambient station asks for it."), [this] { occlusionRow_->bake(); });
    add_command("place space probe", tr("Probe in space here"), QKeySequence("Alt+G"),
                tr("A probe placed by hand where the camera stands, for the Ambient station's indirect light."),
                [this] { lightMapBench_->place_probe(); });
    add_command("one shot", tr("One shot of a patch"), QKeySequence("Alt+N"),
                tr("The patch with most light left shoots, where light maps are computed by patches."),
                [this] { patchBench_->one_shot(); });
    add_command("look at patch", tr("Look at the patch that shot"), QKeySequence("Alt+J"),
                tr("Moves the camera to where it is seen well."), [this] { patchBench_->look(); });
    add_command("compare light maps", tr("Compare light maps"), QKeySequence("Alt+M"),
                tr("This view with every way of keeping what was baked."), [this] { lightMapBench_->compare(); });
    add_command("measure sizes", tr("Measure sizes of rendering"), QKeySequence("Shift+Z"),
                tr("What a frame costs at a quarter to twice the shown width and height, at the Finish station."),
                [this] { measure_sizes(); });
    add_command("outline selection", tr("Outline the selection"), QKeySequence("Shift+D"),
                tr("Draws a line about the selected objects, as a setting of the finish."),
                [this] { outline_selection(); });
    add_command("loupe", tr("Loupe"), QKeySequence("Z"),
                tr("The texels under the pointer enlarged, and the numbers of the middle one."), [this] {
                    viewport_->set_loupe(!viewport_->loupe());
                    bridge_->set_values_wanted(viewport_->loupe() || truthShown_);
                });
    add_command("bring back", tr("Bring back the deleted logbook entry"), QKeySequence("Ctrl+B"),
                tr("Undoes the last deletion from the logbook."), [this] {
                    if (!logbook_ || deletedEntries_.empty()) return;
                    if (auto ok = logbook_->bring_back(deletedEntries_.back()); !ok) return show_error(ok.error());
                    deletedEntries_.pop_back();
                    open_logbook();
                });
}

void MainWindow::build_view_commands() {
    int n = 0;
    for (const Station& s : stations()) {
        const QString station = s.name;
        add_command("station " + station, tr("Station: %1").arg(station), QKeySequence(QString::number(++n)),
                    tr("Goes to the station %1.").arg(station), [this, station] { set_station(station); });
    }
    const struct {
        const char* name;
        QString text;
        const char* key;
        CostDeck::Cut cut;
    } cuts[] = {{"cut by pass", tr("Cost by pass"), "Alt+P", CostDeck::Cut::pass},
                {"cut by light", tr("Cost by light: the ledger"), "Alt+L", CostDeck::Cut::light},
                {"cut by region", tr("Cost by region"), "Alt+R", CostDeck::Cut::region},
                {"cut over the walk", tr("Cost over the walk"), "Alt+W", CostDeck::Cut::walk}};
    for (const auto& c : cuts)
        add_command(c.name, c.text, QKeySequence(c.key), tr("Shows this cut of the cost deck."),
                    [this, cut = c.cut] { deck_->set_cut(cut); });
}

void MainWindow::build_layout_commands() {
    const struct {
        const char* name;
        QString text;
        const char* key;
        Panel panel;
    } panels[] = {{"fold logbook", tr("Fold or show the logbook"), "F2", Panel::logbook},
                  {"fold bench", tr("Fold or show the bench"), "F3", Panel::bench},
                  {"fold deck", tr("Fold or show the cost deck"), "F4", Panel::deck}};
    for (const auto& p : panels)
        add_command(p.name, p.text, QKeySequence(p.key), tr("More room for the picture; kept between runs."),
                    [this, which = p.panel] { fold(which, !folded(which)); });
    add_command("picture alone", tr("The picture alone"), QKeySequence("F11"),
                tr("The picture takes the screen, the tape a thin band under it; again: the window."),
                [this] { show_picture_alone(!pictureAlone_); });
}

void MainWindow::build_pair_commands() {
    add_command("take b", tr("Take this state as B"), QKeySequence("B"),
                tr("Keeps the present setup as B; change A, and both stand side by side."),
                [this] { set_b(document_.project().setup); });
    add_command("swap", tr("Swap A and B"), QKeySequence("Shift+B"), tr("B becomes the setup that is edited."),
                [this] { swap_with_b(); });
    add_command("drop b", tr("Clear B"), QKeySequence("Alt+B"), tr("A alone again."), [this] { set_b(std::nullopt); });
    add_command("compare", tr("Compare A and B"), QKeySequence("Shift+K"),
                tr("Measures both in paired rounds until the difference is clear."), [this] { compare_pair(); });
    const struct {
        const char* name;
        QString text;
        const char* key;
        PairView view;
    } views[] = {{"wipe", tr("A|B: wipe"), "Alt+5", PairView::wipe},
                 {"blink", tr("A|B: blink"), "Alt+6", PairView::blink},
                 {"absolute difference", tr("A|B: absolute difference"), "Alt+7", PairView::absolute},
                 {"relative difference", tr("A|B: relative difference"), "Alt+8", PairView::relative},
                 {"seen difference", tr("A|B: difference that the eye sees"), "Alt+9", PairView::perceptual}};
    for (const auto& v : views)
        add_command(v.name, v.text, QKeySequence(v.key), tr("How A and B share the picture."),
                    [this, view = v.view] { viewport_->set_pair_view(view); });
    add_command(
        "truth", tr("Truth beside the frame"), QKeySequence("U"),
        tr("What light would do, traced by paths while you work elsewhere, in the place of B: wipe, differences, a "
           "number. Again: without."),
        [this] { show_truth(!truthShown_); });
    add_command("stop truth", tr("Stop or go on tracing truth"), QKeySequence("Shift+U"),
                tr("What has come is kept; going on needs nothing again."), [this] {
                    if (truthShown_) stop_truth(!truthStopped_);
                });
    add_command("turn wipe", tr("A|B: turn the wipe"), QKeySequence("Alt+0"),
                tr("Between a wipe across and one from top to bottom."), [this] { viewport_->turn_wipe(); });
}

void MainWindow::build_walk_commands() {
    add_command("measure walk", tr("Measure the walk"), QKeySequence("Shift+M"),
                tr("Measures the frame at each place of the chosen walk."), [this] { measure_walk(); });
    add_command("play walk", tr("Play or end the walk"), QKeySequence("Shift+P"),
                tr("Goes along the chosen walk without measuring."), [this] { play_walk(); });
    add_command("record walk", tr("Record a walk, or end it"), QKeySequence("Shift+R"),
                tr("Keeps the camera's path while you fly."), [this] { record_walk(); });
    add_command("walk of cameras", tr("Make a walk of the named cameras"), QKeySequence("Shift+C"),
                tr("A path through the project's cameras, in their order, at 4 m/s."), [this] { walk_of_cameras(); });
}

void MainWindow::build_light_commands() {
    add_command("worst tile", tr("Show the worst tile"), QKeySequence("W"),
                tr("Goes to the tile with most missed, else most needless lights."), [this] { show_worst(true); });
    add_command("next worst tile", tr("Next worst tile"), QKeySequence("Shift+W"),
                tr("Goes on to the next worse tile."), [this] { show_worst(false); });
    add_command("add point", tr("Add a point light"), QKeySequence("Alt+1"),
                tr("Adds a point light before the camera."), [this] { add_light(LightType::point); });
    add_command("add spot", tr("Add a spot light"), QKeySequence("Alt+2"), tr("Adds a spot light before the camera."),
                [this] { add_light(LightType::spot); });
    add_command("add directional", tr("Add a directional light"), QKeySequence("Alt+3"),
                tr("Adds a directional light."), [this] { add_light(LightType::directional); });
    add_command("duplicate", tr("Duplicate what is selected"), QKeySequence("Ctrl+D"),
                tr("A copy of the selected light, proxy or objects beside it."), [this] { duplicate_light(); });
    add_command("delete", tr("Delete what is selected"), QKeySequence("Del"),
                tr("Deletes the selected lights, proxies or built things; undo brings them back. Objects of the scene "
                   "file can only be hidden (H)."),
                [this] { delete_lights(); });
    for (const ShapeKind kind : all_shapes)
        buildCommands_ << add_command(QString("build %1").arg(word(kind)), tr("Build: %1").arg(word(kind)),
                                      QKeySequence(QString("Ctrl+%1").arg(static_cast<int>(kind) + 1)),
                                      tr("Takes it up: a click on a surface stands it there."),
                                      [this, kind] { take_up(kind); });
    buildCommands_ << add_command("build model", tr("Build: a model from a file\u2026"), QKeySequence("Ctrl+9"),
                                  tr("Takes up another glTF file: a click on a surface stands it there."),
                                  [this] { choose_model(); });
    add_command("isolate", tr("Only the selected lights, or all as they were"), QKeySequence("I"),
                tr("Only the selected lights shine, the others' switches stay as they are; again, or with nothing "
                   "selected: all as they were."),
                [this] { toggle_isolation(); });
    add_command("head lamp", tr("Head lamp"), QKeySequence("E"),
                tr("A lamp at the camera, to look into the dark with; it is never saved or measured."),
                [this] { toggle_head_lamp(); });
    add_command("cheap lights", tr("Cheap lights"), QKeySequence("Shift+L"),
                tr("View-locked lights and tinted shapes: laid on, turned and placed, with their costs."),
                [this] { show_cheap_lights(!cheapShown_); });
    add_command("objects", tr("Objects, with their costs"), QKeySequence("V"),
                tr("The list of objects: found by name, ordered by cost, placed and hidden."),
                [this] { show_objects(!objectsShown_); });
    add_command(
        "stand in", tr("Boxes cast in place of the selected objects"), QKeySequence("N"),
        tr("Fits boxes around the selected objects; they cast in their place, for a fraction of the triangles."),
        [this] { stand_in(); });
    add_command("run time", tr("Let the scene's time run, or stop it"), QKeySequence("Shift+I"),
                tr("Clips play and lights sweep at their own speed, in pictures as fast as they are drawn."), [this] {
                    set_station("Scene");
                    auto* clips = findChild<ClipRow*>();
                    clips->run_time(!clips->runs());
                });
    add_command("make blocks", tr("Make blocks of the scene\u2026"), QKeySequence("Shift+V"),
                tr("A Blocks world of every surface of a Solid scene, saved as a file of its own and opened."),
                [this] { make_blocks(); });
    add_command("audit flood", tr("Hold flooded light against a fresh flood"), QKeySequence("Shift+H"),
                tr("Of a Blocks stage: every cell's level against a flood from nothing and against its neighbours."),
                [this] {
                    set_station("Path");
                    if (auto* audit = findChild<QPushButton*>("audit flood"); audit->isVisible()) audit->click();
                });
    add_command("audit shadows", tr("Hold shadows against rays"), QKeySequence("Shift+A"),
                tr("What the frame's shadows miss and what they shade falsely, traced beside the window."),
                [this] { audit_shadows(); });
    add_command("find bias", tr("Find the least bias of shadows"), QKeySequence("Shift+F"),
                tr("Tries biases until what is false stays under the bound and as little as possible is missed."),
                [this] { find_bias(); });
    add_command("try spots", tr("What if the selected point light were spots"), QKeySequence("Shift+X"),
                tr("Tries two, three and four spots in its place: maps, time, and how far the picture changes."),
                [this] { try_spots(); });
    add_command("capture probes", tr("Capture all probes"), QKeySequence("Shift+Y"),
                tr("Renders six views from each probe that is switched on, with the present setup."),
                [this] { capture_probes({}); });
    add_command("working spaces", tr("Working space: A right, B wrong"), QKeySequence("Shift+G"),
                tr("The picture summed in linear values as A, in gamma-coded ones as B."), [this] {
                    set_station("Finish");
                    settingsBenches_["Finish"]->findChild<FinishPages*>()->show_page(FinishPages::space);
                    document_.compare_spaces();
                });
    add_command("furnace", tr("The furnace: what energy the shading model keeps"), QKeySequence("Shift+E"),
                tr("White balls in even light, over the width of their lobe, at the Ambient station."), [this] {
                    set_station("Ambient");
                    settingsBenches_["Ambient"]->findChild<AmbientPages*>()->show_page(AmbientPages::furnace);
                });
    add_command("draw proxy", tr("Draw a box that only casts"), QKeySequence("Shift+N"),
                tr("The next drag over the picture lays out a proxy."),
                [this] { draw_proxy(!viewport_->draws_proxy()); });
    add_command("price objects", tr("What the selected objects cost"), QKeySequence("Shift+Q"),
                tr("Measures the frame with them and without them in turn."), [this] { price_objects(); });
    add_command("hide", tr("Hide or show the selected objects"), QKeySequence("H"),
                tr("A hidden object is not drawn and costs nothing."), [this] { hide_or_show(); });
    add_command("switch", tr("Switch the lights on or off"), QKeySequence("O"),
                tr("Switches the selected lights: all on, if one of them is off."), [this] {
                    const std::vector<int>& ids = selection_->lights();
                    const bool on =
                        std::any_of(ids.begin(), ids.end(), [&](int id) { return !document_.light(id)->enabled; });
                    document_.edit_lights(tr("switch"), ids, [on](Light& l) { l.enabled = on; });
                });
    add_command("off on target", tr("Off on this target, or on again"), QKeySequence("Shift+O"),
                tr("The selected lights and objects are left out on the chosen target alone: what a weaker device does "
                   "without."),
                [this] { toggle_off_on_target(); });
    add_command("frame", tr("Centre on the selection"), QKeySequence("C"),
                tr("Moves the camera so that the selected light, or the whole scene, fills the picture."),
                [this] { viewport_->frame_selection(); });
    add_command("clear selection", tr("Clear the selection"), QKeySequence("X"), tr("Selects nothing."),
                [this] { selection_->clear(); });
    add_command(
        "tile map", tr("Show or hide the tile map"), QKeySequence("M"),
        tr("Path station, tiled and clustered paths: how many lights each tile lists. Rest on a tile for their names."),
        [this] {
            tileMapWanted_ = !tileMapWanted_;
            show_bench();
        });
    add_command("targets", tr("Edit targets"), QKeySequence("Alt+T"), tr("Sizes and budgets to measure against."),
                [this] {
                    targetsShown_ = true;
                    show_bench();
                });
    add_command("calibrate", tr("Calibrate this device for foresight"), QKeySequence("Alt+C"),
                tr("Times known work on this device once, beside your work, so that resting on a choice tells what it "
                   "would cost."),
                [this] { foresight_->calibrate(); });
    add_command("theme", tr("Dark or light theme"), QKeySequence("Ctrl+T"),
                tr("Changes the window's greys; the picture stays."), [this] { use_theme(*qApp, !theme().dark); });
    add_command("shaders", tr("Choose a shader folder\u2026"), QKeySequence("Alt+S"),
                tr("Shader files in it stand before the built-in ones and are read again when they change."), [this] {
                    const QString folder = QFileDialog::getExistingDirectory(this, tr("Shader folder"));
                    if (!folder.isEmpty()) use_shader_folder(folder);
                });
    add_command("built-in shaders", tr("Use the built-in shaders"), QKeySequence("Alt+Shift+S"),
                tr("Clears the shader folder: the built-in shaders are used."), [this] { use_shader_folder({}); });
    add_command(
        "commands", tr("All commands"), QKeySequence("Ctrl+Space"), tr("Every command with its key, found by typing."),
        [this] {
            document_.set_interactive(false);
            command("undo")->setText(document_.can_undo() ? tr("Undo: %1").arg(document_.undo_label()) : tr("Undo"));
            command("redo")->setText(document_.can_redo() ? tr("Redo: %1").arg(document_.redo_label()) : tr("Redo"));
            commandList_->open(commands_);
        });
    add_command(
        "help", tr("Help about what is under the pointer"), QKeySequence("F1"),
        tr("What it is, what it does to picture and cost, its formula and source; in the bench. Again: closed."),
        [this] {
            const QWidget* at = QApplication::widgetAt(QCursor::pos());
            if (!at || at->window() != this || at == this) at = QApplication::focusWidget();
            if (helpShown_ && (!at || helpBench_->isAncestorOf(at) || help_for(at).id == helpBench_->page().id)) {
                helpShown_ = false;
                return show_bench();
            }
            show_help(at);
        });
    add_command("quit", tr("Quit"), QKeySequence("Ctrl+Q"), tr("Closes Mirolux."), [this] { close(); });
}

void MainWindow::use_shader_folder(const QString& folder) {
    bridge_->use_shader_folder(folder);
    foresight_->use_shader_folder(folder);
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
    const QFont strong = sized(font(), 14, QFont::DemiBold);
    title_->setFont(strong);
    auto* menu = new QMenu(title_);
    for (const char* name : {"open", "save", "save as", "undo", "redo", "shaders", "built-in shaders", "theme",
                             "picture alone", "commands", "quit"})
        menu->addAction(command(name));
    auto* recent = new QMenu(tr("Opened lately"), menu);
    menu->insertMenu(command("save"), recent);
    connect(menu, &QMenu::aboutToShow, recent, [this, recent] {
        recent->clear();
        for (const QString& file : recent_files()) {
            QAction* action = recent->addAction(QFileInfo(file).fileName());
            action->setToolTip(file);
            action->setEnabled(QFile::exists(file));
            connect(action, &QAction::triggered, this, [this, file] {
                if (may_lose_work()) open(file);
            });
        }
        recent->setEnabled(!recent->isEmpty());
    });
    title_->setMenu(menu);
    row->addWidget(title_);
    target_ = new QComboBox(bar);
    target_->setAccessibleName(tr("Target"));
    target_->setObjectName("target");
    target_->setToolTip(tr("The target: picture size and frame budget."));
    target_->setMinimumWidth(330);
    row->addWidget(target_);
    connect(target_, &QComboBox::activated, this, [this](int index) {
        if (index >= static_cast<int>(document_.project().targets.size())) {
            targetsShown_ = true;
            show_bench();
            refresh_all();
            return;
        }
        document_.edit(tr("target"), [index](Project& p) { choose_target(p, index); });
    });
    row->addSpacing(14);
    stations_ = new QButtonGroup(this);
    int n = 0;
    for (const Station& s : stations()) {
        const QString station = s.name;
        auto* button = new QToolButton(bar);
        button->setText(station);
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
    auto* pair = new QToolButton(bar);
    pair->setText("A|B");
    pair->setObjectName("pair");
    pair->setPopupMode(QToolButton::InstantPopup);
    pair->setToolTip(
        tr("Two setups side by side, or the frame and its truth: in the picture, on the tape, and in numbers."));
    auto* pairMenu = new QMenu(pair);
    for (const char* name : {"take b", "compare", "swap", "drop b"})
        pairMenu->addAction(command(name));
    pairMenu->addSeparator();
    for (const char* name :
         {"wipe", "turn wipe", "blink", "absolute difference", "relative difference", "seen difference"})
        pairMenu->addAction(command(name));
    pairMenu->addSeparator();
    pairMenu->addAction(command("truth"));
    pairMenu->addAction(command("stop truth"));
    pair->setMenu(pairMenu);
    row->addWidget(pair);
    logIt_ = new QToolButton(bar);
    logIt_->setDefaultAction(command("log"));
    logIt_->setObjectName("framed");
    row->addWidget(logIt_);
    setMenuWidget(bar);
}

void MainWindow::toggle_isolation() {
    document_.isolate(document_.isolated().empty() ? selection_->lights() : std::vector<int>());
    const std::size_t count = document_.isolated().size();
    notice_ = count ? tr("Only %1 shine; the others' switches stay as they are (I: all as they were)")
                          .arg(count == 1 ? tr("1 light") : tr("%1 lights").arg(count))
                    : QString();
    refresh_all();
}

void MainWindow::toggle_off_on_target() {
    if (selection_->empty()) return;
    std::set<int> lights(selection_->lights().begin(), selection_->lights().end());
    std::set<std::string> objects;
    for (const int o : selection_->objects())
        objects.insert(document_.object_name(o).id);
    const Target& t = document_.target();
    const bool all = std::includes(t.offLights.begin(), t.offLights.end(), lights.begin(), lights.end()) &&
                     std::includes(t.offObjects.begin(), t.offObjects.end(), objects.begin(), objects.end());
    const auto merged = [all](auto& list, const auto& named) {
        std::set all_of(list.begin(), list.end());
        for (const auto& id : named)
            if (all)
                all_of.erase(id);
            else
                all_of.insert(id);
        list.assign(all_of.begin(), all_of.end());
    };
    const QString name = QString::fromStdString(t.name);
    document_.edit(all ? tr("on again on %1").arg(name) : tr("off on %1").arg(name), [&](Project& p) {
        Target& own = p.targets[static_cast<std::size_t>(p.target)];
        merged(own.offLights, lights);
        merged(own.offObjects, objects);
    });
    const std::size_t off = document_.target().offLights.size() + document_.target().offObjects.size();
    notice_ = off ? tr("%1 lights and objects are off on %2 (Alt+T lists them)").arg(off).arg(name) : QString();
    refresh_all();
}

void MainWindow::toggle_head_lamp() {
    document_.wear_head_lamp(!document_.head_lamp());
    refresh_all();
}

void MainWindow::end_isolation() {
    if (document_.isolated().empty() && !document_.head_lamp()) return;
    document_.isolate({});
    document_.wear_head_lamp(false);
    notice_ = tr("All lights shine as they are switched: that is what is measured and kept");
}

void MainWindow::hide_or_show() {
    const Scene scene = document_.is_open() ? document_.scene() : Scene{};
    std::vector<ObjectEdit> edits;
    bool anyShown = false;
    for (const int o : selection_->objects()) {
        anyShown = anyShown || !scene.objects()[static_cast<std::size_t>(o)].hidden;
        edits.push_back(document_.object_edit(o));
    }
    for (ObjectEdit& e : edits)
        e.hidden = anyShown;
    const QString what =
        edits.size() == 1 ? QString::fromStdString(edits.front().name) : tr("%1 objects").arg(edits.size());
    if (!edits.empty()) document_.edit_objects(anyShown ? tr("hide %1").arg(what) : tr("show %1").arg(what), edits);
}

} // namespace mirolux::app
