#include "app/command_list.h"
#include "app/main_window.h"
#include "app/theme.h"
#include "core/account/occluders.h"
#include "core/bake/stale_bakes.h"
#include "core/base/text.h"
#include "core/cost/report.h"
#include "core/finish/edges.h"
#include "core/scene/geometry.h"
#include "core/scene/starter.h"
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

// What the window's parts say to each other, by subject.
namespace mirolux::app {

/// The picture, its layers and the deck's cuts.
void MainWindow::connect_views() {
    connect(viewport_, &Viewport::display_resized, this, [this](QSize s) {
        bridge_->set_display_size(s);
        if (document_.is_open()) bridge_->refresh(false);
    });
    connect(selection_.get(), &Selection::changed, this, [this] {
        if (selection_->lights().empty()) lightListStays_ = false;
        follow_selection();
    });
    connect(&deck_->tape(), &PassTape::pass_picked, this, &MainWindow::select_pass);
    connect(&deck_->ledger(), &LedgerCut::light_picked, this, &MainWindow::select_light);
    connect(&deck_->ledger(), &LedgerCut::lights_picked, selection_.get(), &Selection::set_lights);
    connect(deck_, &CostDeck::cut_changed, this, [this](CostDeck::Cut cut) {
        if (cut != CostDeck::Cut::region) mark_lengths(-1, -1);
        show_bench();
    });
    connect(&deck_->region(), &RegionCut::lengths_picked, this, &MainWindow::mark_lengths);
    connect(&deck_->region(), &RegionCut::show_worst_wanted, this, [this] { show_worst(true); });
    connect(&deck_->region(), &RegionCut::next_worst_wanted, this, [this] { show_worst(false); });
}

void MainWindow::connect_walk() {
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
    connect(bridge_.get(), &RenderBridge::walked, this, &MainWindow::take_walk);
    walkTimer_.setInterval(50);
    connect(&walkTimer_, &QTimer::timeout, this, &MainWindow::walk_step);
}

/// A and B.
void MainWindow::connect_pair() {
    connect(bridge_.get(), &RenderBridge::b_ready, this, [this](const QImage& scaled, const QImage& full) {
        if (!truthShown_) viewport_->show_b(scaled, full);
    });
    connect(bridge_.get(), &RenderBridge::b_stale, this, [this] {
        if (!truthShown_) viewport_->show_b({});
    });
    connect(bridge_.get(), &RenderBridge::difference_ready, this,
            [this](const std::shared_ptr<const PairDifference>& d) {
                if (truthShown_) return; // it has B's place
                viewport_->show_difference(d);
                const PictureDifference& f = d->figures;
                pairPicture_ = tr("picture: mean %1 %, worst %2 % at %3, as seen \u0394E %5, worst %6")
                                   .arg(f.meanRelative * 100, 0, 'f', 2)
                                   .arg(f.worstRelative * 100, 0, 'f', 1)
                                   .arg(place_name({f.worstX, f.worstY}))
                                   .arg(d->meanDeltaE, 0, 'f', 2)
                                   .arg(d->worstDeltaE, 0, 'f', 1);
                report_pair();
                emit difference_reported();
                if (!pairTime_.isEmpty()) emit pair_reported();
            });
    connect(bridge_.get(), &RenderBridge::ratio_progress, this, [this](int round, int rounds, const Interval& ratio) {
        pairTime_ = round == 0 ? tr("warming up") : tr("round %1 of up to %2").arg(round).arg(rounds);
        if (ratio.median > 0)
            pairTime_ += tr(", B takes %1 of A's time (%2 to %3)")
                             .arg(ratio.median, 0, 'f', 3)
                             .arg(ratio.low, 0, 'f', 3)
                             .arg(ratio.high, 0, 'f', 3);
        report_pair();
    });
    connect(bridge_.get(), &RenderBridge::compared, this, [this](const PairedMeasurement& m) {
        pairTime_ = QString::fromStdString(comparison_words(m.frame));
        if (pairTime_.startsWith("B is ")) pairTime_ = pairTime_.mid(5); // the line begins with B
        keep_record("pair", measurement_document(m.a, &m, bridge_->device().value_or(DeviceInfo{}), measuredA_,
                                                 document_.scene_digest(), differences(measuredA_, measuredB_)));
        deck_->tape().set_compared(medians_of(m.a), medians_of(m.b));
        report_pair();
        refresh_all();
        emit pair_measured();
    });
}

/// Tiles, pixels, lights, passes and targets: what the bench can be about.
void MainWindow::connect_details() {
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
    connect(lightsBench_, &LightsBench::list_picked, this, [this](const std::vector<int>& ids) {
        lightListStays_ = true;
        selection_->set_lights(ids);
    });
    connect(lightsBench_, &LightsBench::isolate_wanted, this, &MainWindow::toggle_isolation);
    connect(lightsBench_, &LightsBench::delete_wanted, this, &MainWindow::delete_lights);
    connect(lightsBench_, &LightsBench::off_here_wanted, this, &MainWindow::toggle_off_on_target);
    connect(lightBench_, &LightBench::off_here_wanted, this, &MainWindow::toggle_off_on_target);
    connect(objectsBench_, &ObjectsBench::stand_in_wanted, this, &MainWindow::stand_in);
    connect(objectsBench_, &ObjectsBench::snap_wanted, viewport_, &Viewport::set_snap);
    connect(objectsBench_, &ObjectsBench::duplicate_wanted, this, &MainWindow::duplicate_light);
    connect(objectsBench_, &ObjectsBench::delete_wanted, this, &MainWindow::delete_lights);
    connect(objectsBench_, &ObjectsBench::price_wanted, this, &MainWindow::price_objects);
    connect(objectsBench_, &ObjectsBench::off_here_wanted, this, &MainWindow::toggle_off_on_target);
    connect(helpBench_, &HelpBench::back_wanted, this, [this] {
        helpShown_ = false;
        show_bench();
    });
    connect(sceneBench_, &SceneBench::objects_wanted, this, [this] { show_objects(true); });
    connect(objectsBench_, &ObjectsBench::back_wanted, this, [this] { show_objects(false); });
    connect(objectsBench_, &ObjectsBench::frame_wanted, this, [this] { viewport_->frame_selection(); });
    connect(lightsBench_, &LightsBench::cheap_wanted, this, [this] { show_cheap_lights(true); });
    connect(&deck_->ledger(), &LedgerCut::cheap_picked, this, [this](int id) {
        show_cheap_lights(true);
        selection_->set_cheap(id);
    });
    connect(cheapBench_, &CheapLightsBench::back_wanted, this, [this] { show_cheap_lights(false); });
    connect(cheapBench_, &CheapLightsBench::against_wanted, this, [this](const Setup& a, const Setup& b) {
        document_.edit(tr("hold cheap lights against lamps"), [&](Project& p) {
            p.setup = a;
            p.b = b;
        });
    });
    connect(lightsBench_, &LightsBench::add_wanted, this, &MainWindow::add_light);
    connect(flatLightBench_, &FlatLightBench::duplicate_wanted, this, &MainWindow::duplicate_light);
    connect(flatLightBench_, &FlatLightBench::delete_wanted, this, &MainWindow::delete_lights);
    connect(flatLightBench_, &FlatLightBench::back_wanted, this, [this] { select_light(-1); });
    connect(lightBench_, &LightBench::duplicate_wanted, this, &MainWindow::duplicate_light);
    connect(lightBench_, &LightBench::delete_wanted, this, &MainWindow::delete_lights);
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
}

void MainWindow::connect_document() {
    for (SettingsBench* bench : settingsBenches_)
        connect(bench, &SettingsBench::pass_wanted, this, &MainWindow::select_pass);
    sceneChanged_.setSingleShot(true);
    sceneChanged_.setInterval(400);
    connect(&sceneWatcher_, &QFileSystemWatcher::fileChanged, &sceneChanged_, qOverload<>(&QTimer::start));
    connect(&sceneChanged_, &QTimer::timeout, this, &MainWindow::reload_scene);
    connect(&document_, &Document::changed, this, [this] { // another scene or variant of the file, chosen or undone
        if (!document_.is_open() || document_.project().choice == document_.asset()->choice) return;
        const bool refused = refused_ != SceneChoice{} && document_.project().choice == refused_;
        if (!refused) reload_scene(); // one that could not be read is not read again at every edit
    });
    connect(&document_, &Document::changed, this, [this] {
        sync_b();
        if (bridge_->b()) {
            pairTime_.clear(); // it was of the state before
            pairPicture_.clear();
            deck_->tape().forget_compared();
            report_pair();
        }
        forget_inspection();
        bridge_->refresh(document_.interactive());
        refresh_all();
        if (!document_.interactive()) refresh_anatomy();
    });
    connect(&document_, &Document::camera_moved, this, [this] {
        forget_inspection();
        bridge_->refresh(document_.interactive());
    });
    connect(&document_, &Document::settled, this, [this] {
        bridge_->refresh(false);
        refresh_all();
        refresh_anatomy();
    });
    connect(&document_, &Document::autosave_failed, this, [this](const QString& text) {
        notice_ = tr("Unsaved work could not be kept aside: %1").arg(text);
        refresh_status();
    });
}

/// What comes back from rendering.
void MainWindow::connect_frames() {
    connect(bridge_.get(), &RenderBridge::picture_ready, this, [this](const QImage& image, QSize size, bool quick) {
        viewport_->show_message({}, false);
        viewport_->show_picture(image, size, quick);
        refresh_status();
    });
    connect(bridge_.get(), &RenderBridge::costs_changed, this, &MainWindow::show_costs);
    connect(bridge_.get(), &RenderBridge::inspection_ready, this, &MainWindow::show_inspection);
    connect(bridge_.get(), &RenderBridge::ledger_ready, this, [this](const Ledger& ledger) {
        deck_->ledger().show_ledger(ledger);
        objectsBench_->show_costs(ledger);
        lightsBench_->show_costs(ledger);
        cheapBench_->show_costs(ledger);
        emit ledger_shown();
    });
    connect(bridge_.get(), &RenderBridge::pixel_ready, this, [this](PixelAccount account) {
        if (!pixelHeld_ && !viewport_->asks_for_pixel()) return; // Alt was released meanwhile
        if (document_.project().setup.flag("shadow.maps")) name_occluders(account, document_.scene(), document_.rays());
        pixelShown_ = true;
        pixelBench_->show_account(account);
        pixelBench_->set_held(pixelHeld_);
        viewport_->show_account(account);
        show_bench();
        emit pixel_reported();
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
    connect(bridge_.get(), &RenderBridge::exposed_at, viewport_, &Viewport::set_metered);
    connect(bridge_.get(), &RenderBridge::metered, this, [this](std::optional<double> ev) {
        if (ev)
            document_.edit(tr("metered exposure"), [this, ev](Project& p) { expose_starter(p, *ev, starterSky_); });
        else
            bridge_->refresh(false);
    });
    connect(bridge_.get(), &RenderBridge::failed, this,
            [this](const Error& e) { viewport_->show_message(QString::fromStdString(to_text(e)), true); });
    connect(bridge_.get(), &RenderBridge::device_known, this, [this] {
        if (const auto& device = bridge_->device()) document_.suit_device(device->software());
        refresh_status();
    });
    connect(bridge_.get(), &RenderBridge::measure_failed, this, [this](const Error& e) {
        logbookPanel_->show_rest();
        logbookPanel_->show_trouble(QString::fromStdString(to_text(e)));
        refresh_all();
    });
}

void MainWindow::show_costs() {
    const FrameRecord& r = bridge_->last_full();
    QString notice;
    if (r.droppedLights)
        notice = tr("path.maxLights drops %L1 lights over %2 objects: raise K, shorten ranges, or take the "
                    "additive path")
                     .arg(r.droppedLights)
                     .arg(r.droppedObjects);
    if (!foresightMiss_.isEmpty()) notice = foresightMiss_;
    if (document_.is_open() && !document_.interactive()) {
        QStringList stale;
        for (const std::string& name : stale_bakes(document_.scene(), document_.project().setup))
            stale << QString::fromStdString(name);
        viewport_->show_stale(stale.join(", "));
        if (!stale.isEmpty())
            notice = tr("stale, so left out until it is baked again: %1").arg(stale.join(", ")) +
                     (notice.isEmpty() ? QString() : ". " + notice);
    }
    deck_->tape().set_prediction(prediction(notice));
    deck_->tape().refresh(QString::fromStdString(r.clock), notice);
    settingsBenches_["Path"]->set_facts(
        tr("%1 of %2 enabled lights are active in this view%3.\n%4")
            .arg(r.lightsInView)
            .arg(r.lightsInScene)
            .arg(r.lightsFaded ? tr("; %1 are too far away").arg(r.lightsFaded) : QString())
            .arg(r.droppedLights
                     ? tr("%L1 lights are dropped over %2 objects.").arg(r.droppedLights).arg(r.droppedObjects)
                     : tr("No light is dropped.")));
    if (document_.is_open()) { // why the frame has not what was asked for
        const auto of = std::pair(document_.project().setup, document_.project().target);
        if (finishOf_ != of) {
            settingsBenches_["Finish"]->set_remark(QString::fromStdString(edges_left_out(planned(of.first))));
            finishOf_ = of;
        }
    }
    if (!selectedPass_.isEmpty()) passBench_->fill();
    if (anatomy_shown()) anatomy().set_times(bridge_->history(), bridge_->b() ? &bridge_->history_b() : nullptr);
    refresh_status();
}

void MainWindow::show_inspection(const std::shared_ptr<const cull::Inspection>& inspection) {
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
}

} // namespace mirolux::app
