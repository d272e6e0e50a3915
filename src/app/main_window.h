#pragma once
#include "app/anatomy_view.h"
#include "app/benches.h"
#include "app/cheap_lights_bench.h"
#include "app/cost_deck.h"
#include "app/document.h"
#include "app/flat_light_bench.h"
#include "app/foresight_engine.h"
#include "app/help_bench.h"
#include "app/layer_strip.h"
#include "app/logbook_panel.h"
#include "app/objects_bench.h"
#include "app/pixel_bench.h"
#include "app/plots/journal_view.h"
#include "app/proxy_row.h"
#include "app/render_bridge.h"
#include "app/shadow_audit_engine.h"
#include "app/shadow_audit_row.h"
#include "app/spot_trial_row.h"
#include "app/stage_bench.h"
#include "app/target_bar.h"
#include "app/target_bench.h"
#include "app/tile_bench.h"
#include "app/truth_bar.h"
#include "app/viewport.h"
#include <QElapsedTimer>
#include <QFileSystemWatcher>
#include <QMainWindow>
#include <QTimer>
#include <optional>

class QAction;
class QButtonGroup;
class QComboBox;
class QLabel;
class QScrollArea;
class QSplitter;
class QStackedWidget;
class QToolButton;

namespace mirolux::app {

class TruthEngine;
class FinishEngine;
class OutsideView;
class LightMapBench;
class PatchBench;
class BakeRow;
class VisibilityRow;
class SheetView;
struct TruthState;

class CommandList;
class ProbeRow;

/// The window: top bar, logbook, layers over the picture, bench, cost deck, status line; and the commands that tie them
/// together.
class MainWindow : public QMainWindow {
    Q_OBJECT
public:
    explicit MainWindow(WorkerOptions worker, QWidget* parent = nullptr);
    ~MainWindow() override;

    /// Opens a project or a scene; a failure is shown and leaves what was open. recover: what to do about unsaved work
    /// from a run that did not end cleanly (empty: ask).
    bool open(const QString& path, std::optional<bool> recover = {});
    bool save();
    void set_station(const QString& name);
    void select_light(int id); // it alone; -1: none
    /// Captures of probes are under way.
    bool capturing() const { return capturing_; }
    /// Shadows are being held against rays.
    /// The next click in the picture places a model.
    void take_up_model(const QString& path);
    bool auditing() const { return shadowAudit_->busy(); }
    Selection& selection() { return *selection_; }
    /// The list of objects in the bench, whether one is selected or not.
    void show_objects(bool on);
    void show_cheap_lights(bool on);
    ObjectsBench& objects_bench() { return *objectsBench_; }
    /// Help about a control, in the bench; null: about the window.
    void show_help(const QWidget* about);
    HelpBench& help() { return *helpBench_; }
    void select_pass(QString name); // a copy: what is cleared may own it
    void select_tile(std::optional<TileCell> cell);
    /// Asks for the account of a pixel of the target's picture, to stay in the bench.
    void hold_pixel(QPoint pixel);
    /// The tile with most missed, else most needless lights; or the next one after it.
    void show_worst(bool fromStart);
    void log_state(int rounds = 15);
    void judge_targets(int rounds = 9);

    Document& document() { return document_; }
    RenderBridge& bridge() { return *bridge_; }
    ForesightEngine& foresight() { return *foresight_; }
    /// Truth in the picture beside the frame, and what has come of it.
    void show_truth(bool on);
    /// Another layer of truth; the frame shows what it is held against, or else its final picture.
    void choose_truth(truth::Layer layer);
    bool truth_shown() const { return truthShown_; }
    const std::shared_ptr<const TruthState>& truth_state() const { return truthState_; }
    TruthEngine* truth_engine() { return truth_.get(); } // null before truth was first shown
    Viewport& viewport() { return *viewport_; }
    CostDeck& deck() { return *deck_; }
    const QList<QAction*>& commands() const { return commands_; }
    QAction* command(const QString& name) const;
    const std::vector<Entry>& entries() const { return entries_; }
    QString status_text() const;
    QStringList recent_files() const;
    /// Reads the logbook's file anew.
    void reload_logbook();
    /// A panel shown or folded away; kept between runs.
    enum class Panel { logbook, bench, deck };
    void fold(Panel panel, bool on);
    bool folded(Panel panel) const;
    /// The picture takes the whole screen, the tape a thin band under it.
    void show_picture_alone(bool on);
    bool picture_alone() const { return pictureAlone_; }
    /// The journal stands in the picture's place.
    void show_journal(bool on);
    JournalView& journal() { return *journal_; }
    /// The anatomy stands in the picture's place.
    void show_anatomy(bool on);
    bool anatomy_shown() const;
    AnatomyCanvas& anatomy() { return anatomy_->canvas(); }
    /// The frame by its layers stands in the picture's place.
    void show_sheet(bool on);
    bool sheet_shown() const;
    SheetView& sheet() { return *sheet_; }
    /// The scene from outside, with what this frame draws of it, stands in the picture's place.
    void show_outside(bool on);
    bool outside_shown() const;
    OutsideView& outside() { return *outside_; }
    /// By the name's ending: a picture, or OpenEXR with a part for each layer, at the target's size.
    void save_sheet(const QString& path);
    /// A sheet or sizes are under way beside the window.
    bool finishing() const;
    bool baking() const; // masks, occlusion, maps, probes or patches
    /// Goes to the Finish station's page of sizes and measures them.
    void measure_sizes();
    /// A line about what is selected: a setting, like any other.
    void outline_selection();
    /// A target of the frame stands in the picture's place, until a layer is held.
    void hold_target(const TargetRead& read);
    const std::optional<TargetRead>& held_target() const { return heldTarget_; }
    TargetBar& target_bar() { return *targetBar_; }
    LogbookPanel& logbook_panel() { return *logbookPanel_; }
    TargetBench& target_bench() { return *targetBench_; }
    /// By the name's ending: a page, CSV or JSON. A failure is shown.
    bool save_journal(const QString& path);

signals:
    void scene_reloaded(); // the scene file had changed on disk
    void pixel_reported();
    void inspected(); // the newest state's light lists are held against their reference
    void ledger_shown();
    void sheet_drawn();
    void outside_drawn();
    void sheet_saved();
    void anatomy_drawn(); // thumbnails of each write are in
    void walk_shown();
    void truth_refined();
    void difference_reported(); // between the pictures of A and B
    void pair_measured();
    void pair_reported(); // B is measured and shown beside A, with figures of both kinds
    void settled_down();  // counters and thumbnails of the newest state are in

protected:
    void closeEvent(QCloseEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void dragEnterEvent(QDragEnterEvent*) override;
    void dropEvent(QDropEvent*) override;

private:
    QWidget* laid_out();
    void restore_layout();
    void keep_layout();
    QWidget* panel(Panel which) const;
    void connect_views();
    void connect_walk();
    void connect_pair();
    void ask_truth();
    void say_truth(const QString& words, double share);
    void stop_truth(bool on);
    void forget_truth();
    void pause_truth();
    void take_truth(const std::shared_ptr<const TruthState>& state);
    void connect_details();
    void connect_document();
    void connect_frames();
    void show_costs();
    void show_inspection(const std::shared_ptr<const cull::Inspection>& inspection);
    void build_bar();
    void build_commands();
    void build_project_commands();
    void build_view_commands();
    void build_layout_commands();
    void build_pair_commands();
    void build_walk_commands();
    void build_light_commands();
    QAction* add_command(const QString& name, const QString& text, const QKeySequence& key, const QString& help,
                         const std::function<void()>& run);
    void clear_details();
    void mark_lengths(int low, int high);
    void set_b(const std::optional<Setup>& b);
    void sync_b(); // B of the project becomes B of the picture and the tape
    void swap_with_b();
    void compare_pair();
    /// What stands at a pixel of the target's picture: the object's name, or the sky; and where.
    QString place_name(QPoint pixel) const;
    void report_pair();
    const Walk* chosen_walk() const;
    void measure_walk();
    void take_walk(const std::vector<WalkMeasurement>& measured);
    void play_walk();   // or ends it
    void record_walk(); // or ends it, and keeps it
    void walk_of_cameras();
    void walk_step();
    void forget_inspection();
    void show_bench();
    void take_brush();
    void connect_blocks();
    void make_blocks();
    void show_stations();
    void show_layers();
    void refresh_all();
    void refresh_status();
    /// The frame's cost on the chosen target's device, if that is another one; without passes while the work is not
    /// counted yet.
    std::optional<Prediction> prediction(QString& notice);
    void keep_record(const std::string& kind, const nlohmann::json& document);
    void connect_logbook();
    void connect_anatomy();
    void connect_foresight();
    void connect_sheet();
    void connect_visibility(const WorkerOptions& worker);
    void refresh_sheet();
    void show_view(int view);
    void refresh_anatomy();
    void drop_target();
    /// The plan of A, or of B, at the target's size.
    FramePlan planned(const Setup& setup) const;
    void remember_measured();
    void start_scene();
    void use_shader_folder(const QString& folder);
    void remember_file(const QString& path);
    void watch_scene();
    void reload_scene();
    SceneChoice refused_; // of the scene file's offers, that could not be read
    /// The project's own logbook, or another one for the time of a call.
    Logbook* book_of(const std::filesystem::path& path, std::optional<Logbook>& other);
    void open_logbook();
    void show_error(const Error& error);
    void add_light(LightType type);
    void add_flat_light(LightType type);
    void duplicate_light();
    void delete_lights();
    std::vector<int> selected_proxies() const; // objects
    void connect_shadows();
    void connect_building();
    void take_up(ShapeKind kind);
    void take_up(Make make, Viewport::BuildWish wish, int tile);
    void lay_down();
    void choose_model();
    void put_thing(const ObjectEdit& place, bool more);
    void duplicate_objects();
    void delete_objects();
    void price_objects();
    void show_price(const ObjectPrice& price);
    std::set<std::string> selected_things() const; // ids
    void connect_air();
    void connect_audit();
    void connect_probes();
    void capture_probes(const std::vector<int>& ids);
    void rest_probes(bool resting);
    void connect_spots();
    void try_spots();
    void keep_spots(const SpotTrial& trial);
    void show_audit_trouble(const QString& words);
    void audit_shadows();
    void find_bias();
    ShadowQuestion shadow_question() const;
    void draw_proxy(bool on);
    void select_proxies(const std::vector<std::string>& ids);
    void stand_in();
    void delete_proxies();
    void duplicate_proxies();
    void toggle_isolation();
    void toggle_head_lamp();
    /// Measurements are of the lights' own switches: says so where it ends one.
    void end_isolation();
    void hide_or_show();
    void toggle_off_on_target();
    void follow_selection();
    void want_ledger();
    void name_help_topics();
    void restore_entry(qint64 id);
    bool may_lose_work();
    bool save_as();

    Document document_;
    std::unique_ptr<Selection> selection_;
    std::unique_ptr<RenderBridge> bridge_;
    std::unique_ptr<ForesightEngine> foresight_;
    std::unique_ptr<TruthEngine> truth_; // from the first time on that truth is shown
    std::shared_ptr<const TruthState> truthState_;
    bool truthShown_ = false, truthStopped_ = false;
    std::optional<truth::Layer> truthLayer_; // that is shown; none: the frame's has no truth
    TruthBar* truthBar_ = nullptr;
    ProxyRow* proxyRow_ = nullptr;
    QList<QAction*> buildCommands_;
    std::shared_ptr<const Make> taken_; // what clicks in the picture put there
    QString takenName_;
    ShadowAuditRow* auditRow_ = nullptr;
    SpotTrialRow* spotRow_ = nullptr;
    std::unique_ptr<ShadowAuditEngine> shadowAudit_;
    std::shared_ptr<const ShadowReport> shadowReport_; // of what is shown now
    QTimer truthPause_;
    QString foresightMiss_; // of the present choice
    std::optional<Logbook> logbook_;
    std::vector<Entry> entries_;           // the newest few
    std::vector<EntryPoint> points_;       // of all, oldest first
    std::optional<DeviceProfile> profile_; // of the chosen target
    std::string profileOf_;
    std::vector<qint64> deletedEntries_;
    /// Whose measurement is under way: it is logged there, whatever is open when it ends.
    struct Measured {
        std::filesystem::path book;
        Target target;
        std::string sceneDigest;
    } measured_;
    QFileSystemWatcher sceneWatcher_;
    QSplitter *across_ = nullptr, *down_ = nullptr;
    QTimer layoutChanged_; // waits until a drag has come to rest
    bool pictureAlone_ = false, starterSky_ = false;
    QTimer sceneChanged_; // waits until the file has come to rest
    ProbeRow* probeRow_ = nullptr;
    bool capturing_ = false, captureRefused_ = false; // probes: under way; failed, not tried again by itself
    std::size_t nextInTurn_ = 0;                      // into Project::probes
    std::string captureCostOf_;                       // what was asked for last
    QString station_ = "Scene", selectedPass_, notice_;
    bool helpShown_ = false, objectsShown_ = false, cheapShown_ = false, lightListStays_ = false, ledgerWanted_ = false;
    std::optional<TileCell> selectedTile_;
    std::shared_ptr<const cull::Inspection> inspection_;
    std::vector<std::size_t> worst_; // cells, worst first; found when asked for
    std::size_t worstAt_ = 0;
    Setup measuredA_, measuredB_;      // of the comparison or walk under way
    nlohmann::json walkCircumstances_; // what the walk under way is measured with
    QString pairTime_, pairPicture_;   // B beside A, in words
    enum class Walking { none, playing, recording } walking_ = Walking::none;
    Walk walk_; // that is played or recorded
    QTimer walkTimer_;
    QElapsedTimer walkClock_;
    bool pixelShown_ = false, pixelHeld_ = false;
    bool targetsShown_ = false, tileMapWanted_ = true;

    Viewport* viewport_;
    QStackedWidget* middle_; // the picture with its layers, the journal, the anatomy, or the sheet of layers
    JournalView* journal_;
    AnatomyView* anatomy_;
    SheetView* sheet_;
    OutsideView* outside_;
    VisibilityRow* visibilityRow_ = nullptr;
    LightMapBench* lightMapBench_ = nullptr;
    PatchBench* patchBench_ = nullptr;
    BakeRow *maskRow_ = nullptr, *occlusionRow_ = nullptr;
    std::unique_ptr<FinishEngine> finishing_;
    QTimer sheetTimer_;                             // until edits rest
    std::optional<std::pair<Setup, int>> finishOf_; // whose plan was asked for what it leaves out
    TargetBar* targetBar_;
    std::optional<TargetRead> heldTarget_;
    bool heldWhole_ = false;                                // its values are integers
    std::optional<std::tuple<Setup, bool, bool>> layersOf_; // what the strip's layers are of
    LayerStrip* layers_;
    CostDeck* deck_;
    LogbookPanel* logbookPanel_;
    QStackedWidget* bench_;
    SceneBench* sceneBench_;
    LightsBench* lightsBench_;
    LightBench* lightBench_;
    FlatLightBench* flatLightBench_;
    StageBench* stageBench_;
    ObjectsBench* objectsBench_;
    CheapLightsBench* cheapBench_;
    HelpBench* helpBench_;
    QMap<QString, SettingsBench*> settingsBenches_; // by station
    PassBench* passBench_;
    TargetBench* targetBench_;
    TileBench* tileBench_;
    PixelBench* pixelBench_;
    QToolButton* title_;
    QComboBox* target_;
    QButtonGroup* stations_;
    QToolButton* logIt_ = nullptr;
    QLabel *status_, *statusWorker_;
    QString workerText_, gathering_; // gathering_: of the surroundings' light, while it is
    CommandList* commandList_;
    QList<QAction*> commands_;
};

} // namespace mirolux::app
