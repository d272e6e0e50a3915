#include "app/main_window.h"
#include "app/outside_view.h"
#include "app/sheet_view.h"
#include "core/plan/anatomy.h"
#include <QButtonGroup>
#include <QScrollArea>
#include <QStackedWidget>
#include <QToolButton>

// What is selected, and the bench that shows it.
namespace mirolux::app {

void MainWindow::set_station(const QString& name) {
    station_ = name;
    for (QAbstractButton* b : stations_->buttons())
        if (b->text() == name) b->setChecked(true);
    clear_details();
    objectsShown_ = cheapShown_ = lightListStays_ = helpShown_ = false;
    selection_->set_cheap(-1);
    selection_->set(name == "Lights" ? selection_->lights() : std::vector<int>(),
                    name == "Scene" ? selection_->objects() : std::vector<int>());
    if (name != "Scene" && name != "Shadows") selection_->set_piece({});
    show_bench();
}

void MainWindow::select_light(int id) {
    lightListStays_ = false;
    const std::vector<int> before = selection_->lights();
    selection_->set_lights(document_.light(id) ? std::vector<int>{id} : std::vector<int>());
    if (before == selection_->lights()) follow_selection(); // what covers its bench makes room
}

void MainWindow::name_help_topics() {
    const std::pair<QWidget*, const char*> topics[] = {{&deck_->tape(), "tape"},
                                                       {&deck_->ledger(), "ledger"},
                                                       {&deck_->region(), "light-lists"},
                                                       {&deck_->walk(), "measuring"},
                                                       {deck_, "tape"},
                                                       {logbookPanel_, "measuring"},
                                                       {journal_, "measuring"},
                                                       {anatomy_, "anatomy"},
                                                       {sheet_, "layer-sheet"},
                                                       {outside_, "visibility"},
                                                       {targetBar_, "anatomy"},
                                                       {truthBar_, "truth"},
                                                       {layers_, "anatomy"},
                                                       {viewport_, "objects"},
                                                       {sceneBench_, "objects"},
                                                       {objectsBench_, "objects"},
                                                       {lightsBench_, "several-lights"},
                                                       {lightBench_, "light-falloff"},
                                                       {cheapBench_, "cheap-lights"},
                                                       {targetBench_, "targets"},
                                                       {target_, "targets"},
                                                       {tileBench_, "light-lists"},
                                                       {pixelBench_, "account"},
                                                       {passBench_, "tape"},
                                                       {logIt_, "measuring"},
                                                       {settingsBenches_["Path"], "paths"},
                                                       {settingsBenches_["Ambient"], "ambient"},
                                                       {settingsBenches_["Air"], "sky"},
                                                       {settingsBenches_["Finish"], "exposure"}};
    for (const auto& [widget, topic] : topics)
        set_help_topic(widget, topic);
}

void MainWindow::show_help(const QWidget* about) {
    helpShown_ = true;
    if (folded(Panel::bench)) fold(Panel::bench, false);
    helpBench_->gather(commands_, this);
    helpBench_->show_for(about);
    show_bench();
}

void MainWindow::show_objects(bool on) {
    if (on && station_ != "Scene") set_station("Scene");
    objectsShown_ = on;
    if (!on) selection_->clear();
    clear_details();
    show_bench();
}

void MainWindow::show_cheap_lights(bool on) {
    if (on && station_ != "Lights") set_station("Lights");
    cheapShown_ = on;
    if (!on) selection_->set_cheap(-1);
    clear_details();
    show_bench();
}

/// The bench, the layers and the cuts show what is selected now.
void MainWindow::follow_selection() {
    const int light = selection_->light();
    bridge_->set_chosen_light(light);
    show_layers();
    deck_->ledger().select_lights(selection_->lights());
    deck_->ledger().select_cheap(selection_->cheap());
    const bool proxies = !selection_->objects().empty() && selected_proxies().size() == selection_->objects().size();
    const bool piece = !selection_->piece().none() && station_ != "Shadows";
    const QString station = proxies                          ? "Shadows"
                            : piece                          ? "Scene"
                            : !selection_->objects().empty() ? "Scene"
                            : !selection_->lights().empty()  ? "Lights"
                                                             : station_;
    if (station_ != station) {
        station_ = station;
        for (QAbstractButton* b : stations_->buttons())
            if (b->text() == station_) b->setChecked(true);
    }
    helpShown_ = false;
    if (!selection_->empty()) clear_details();
    if (light >= 0 && document_.is_flat()) flatLightBench_->set_light(light);
    if (light >= 0) lightBench_->set_light(light);
    show_bench();
    refresh_all();
}

void MainWindow::select_pass(QString name) {
    clear_details();
    selectedPass_ = name;
    if (!name.isEmpty()) {
        deck_->tape().select(name);
        passBench_->set_pass(name);
    }
    show_bench();
}

void MainWindow::show_bench() {
    QWidget* bench = settingsBenches_.value(station_);
    const bool isFlat = document_.is_flat();
    if (!bench)
        bench = station_ == "Lights" ? static_cast<QWidget*>(lightsBench_)
                : isFlat             ? static_cast<QWidget*>(stageBench_)
                                     : sceneBench_;
    if (selection_->light() >= 0 && !lightListStays_)
        bench = isFlat ? static_cast<QWidget*>(flatLightBench_) : lightBench_;
    if (!selection_->piece().none()) bench = stageBench_;
    if (cheapShown_ && station_ == "Lights") bench = cheapBench_;
    if (!selection_->objects().empty() || (objectsShown_ && station_ == "Scene")) bench = objectsBench_;
    if (!selectedPass_.isEmpty()) bench = passBench_;
    if (targetsShown_) bench = targetBench_;
    if (selectedTile_) bench = tileBench_;
    if (pixelShown_) bench = pixelBench_;
    if (helpShown_) bench = helpBench_;
    for (int i = 0; i < bench_->count(); ++i)
        if (static_cast<QScrollArea*>(bench_->widget(i))->widget() == bench) bench_->setCurrentIndex(i);
    show_stations();
    viewport_->set_takes(station_ == "Lights"    ? Viewport::Takes::lights
                         : station_ == "Scene"   ? Viewport::Takes::objects
                         : station_ == "Shadows" ? Viewport::Takes::proxies
                                                 : Viewport::Takes::nothing);
    take_brush();
    viewport_->show_probes(station_ == "Ambient" && !pictureAlone_);
    viewport_->show_meter(station_ == "Finish" && !pictureAlone_);
    want_ledger();
    viewport_->set_tile_map_shown(!heldTarget_ &&
                                  ((station_ == "Path" && tileMapWanted_) || deck_->cut() == CostDeck::Cut::region));
}

/// Stations at which the scene's stage has something to choose.
void MainWindow::show_stations() {
    const Stage stage = document_.is_open() ? document_.scene().stage() : mirolux::Stage::solid;
    for (QAbstractButton* b : stations_->buttons()) {
        const std::string station = b->text().toStdString();
        const auto& all = all_settings();
        b->setVisible(station == "Scene" || station == "Lights" ||
                      std::any_of(all.begin(), all.end(),
                                  [&](const Setting& s) { return s.station == station && belongs(s.stages, stage); }));
    }
}

/// The layers that show something now: those of the setup, and of the light that is selected; the picture, then in the
/// order of the passes that make them.
void MainWindow::show_layers() {
    auto of = std::tuple(document_.is_open() ? document_.project().setup : Setup(), selection_->light() >= 0,
                         document_.is_open());
    if (layersOf_ == of) return;
    layersOf_ = std::move(of);
    std::vector<LayerStrip::Shown> shown;
    std::vector<int> order;
    if (document_.is_open()) {
        const Scene scene = document_.scene(); // which pass makes a layer does not depend on what is drawn
        const DrawList nothing;
        const FramePlan plan =
            plan_frame(FrameInputs{scene, document_.project().setup, document_.project().view, nothing, {}});
        for (const LayerInfo& l : all_layers()) {
            if (!shows(l, document_.project().setup, selection_->light() >= 0)) continue;
            const PlannedPass* pass = plan.pass(pass_of(plan, l));
            const LayerStrip::Shown s{&l, QString::fromStdString(pass ? pass->name : ""),
                                      QString::fromStdString(pass ? pass->family : "")};
            const bool picture = pass && pass->name == "finish"; // the picture itself and how it is shown come first
            const int place = picture ? -1 : pass ? static_cast<int>(pass - plan.passes.data()) : 999;
            const auto at = std::upper_bound(order.begin(), order.end(), place) - order.begin();
            order.insert(order.begin() + at, place);
            shown.insert(shown.begin() + at, s);
        }
    }
    layers_->set_layers(std::move(shown));
}

/// Counted while someone looks at it: the deck's cut by light, the list of objects, the list of lights.
void MainWindow::want_ledger() {
    const bool wanted =
        deck_->cut() == CostDeck::Cut::light || objectsShown_ || cheapShown_ || !selection_->objects().empty();
    if (wanted != ledgerWanted_) bridge_->set_ledger_wanted(wanted);
    ledgerWanted_ = wanted;
}

/// A bench shows one thing: what was selected before makes room.
void MainWindow::clear_details() {
    helpShown_ = false;
    selectedPass_.clear();
    deck_->tape().select({});
    targetsShown_ = false;
    selectedTile_.reset();
    viewport_->select_tile({});
    pixelHeld_ = pixelShown_ = false;
    viewport_->show_account(std::nullopt);
}

void MainWindow::select_tile(std::optional<TileCell> cell) {
    if (!inspection_) cell.reset();
    clear_details();
    selectedTile_ = cell;
    viewport_->select_tile(cell);
    if (cell) tileBench_->show_cell(inspection_, *cell);
    show_bench();
}

void MainWindow::hold_pixel(QPoint pixel) {
    pixelHeld_ = true;
    bridge_->probe(pixel);
}

void MainWindow::mark_lengths(int low, int high) {
    viewport_->mark_tiles(low, high);
}

void MainWindow::show_worst(bool fromStart) {
    if (!inspection_) return;
    if (worst_.empty()) worst_ = cull::worst_cells(*inspection_);
    if (worst_.empty()) {
        notice_ = tr("No tile misses a light or lists a needless one.");
        refresh_status();
        return;
    }
    worstAt_ = fromStart || !selectedTile_ ? 0 : (worstAt_ + 1) % worst_.size();
    const cull::LightGrid& g = inspection_->grid;
    const std::size_t cell = worst_[worstAt_], tiles = std::size_t(g.columns) * g.rows;
    select_tile(TileCell{static_cast<int>(cell % g.columns), static_cast<int>(cell % tiles / g.columns),
                         static_cast<int>(cell / tiles)});
}

/// The lists belong to the state before: the map goes at once, the bench and the histogram stay greyed until the new
/// ones are in.
void MainWindow::forget_inspection() {
    inspection_.reset();
    worst_.clear();
    viewport_->set_tile_map({});
    deck_->region().set_stale();
    deck_->ledger().set_stale();
    cheapBench_->set_stale();
    objectsBench_->set_stale();
    if (pixelShown_) {
        pixelHeld_ = pixelShown_ = false;
        viewport_->show_account(std::nullopt);
        show_bench();
    }
}

} // namespace mirolux::app
