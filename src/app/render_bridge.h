#pragma once
#include "app/document.h"
#include "app/picture_pair.h"
#include "client/async_renderer.h"
#include "core/account/ledger.h"
#include "core/account/pixel_account.h"
#include "core/cost/frame_history.h"
#include "core/cost/logbook.h"
#include "core/cost/measure.h"
#include "core/cost/target_table.h"
#include "core/cost/walk.h"
#include "core/cull/inspection.h"
#include "core/finish/histogram.h"
#include "core/image/target_picture.h"
#include <QElapsedTimer>
#include <QImage>
#include <QObject>
#include <QThreadPool>
#include <QTimer>
#include <atomic>
#include <memory>
#include <set>

namespace mirolux::app {

/// How the values of a target become a picture.
struct TargetLook {
    Channel channel = Channel::all;
    std::optional<ValueRange> range; // none: what is in it
    bool encode = false;             // linear light: sRGB's transfer
};

/// Keeps the picture up to date with the document: quick pictures at a reduced size while something moves, then one at
/// the target's size, then a few more frames so that the tape has medians, then counters and thumbnails. All answers
/// arrive on the window's thread.
class RenderBridge : public QObject {
    Q_OBJECT
public:
    RenderBridge(Document& document, WorkerOptions options, QObject* parent = nullptr);
    ~RenderBridge() override;

    /// Something changed. moving: more of the same will follow at once (a drag).
    void refresh(bool moving);
    void set_shown_layer(const QString& layer);
    /// A target of the plan in the picture's place, until a layer is shown again.
    void set_shown_target(const TargetRead& target);
    const std::optional<TargetRead>& shown_target() const { return shownTarget_; }
    void set_look(const TargetLook& look);
    /// The next full picture is metered before it is shown.
    void meter() { meterWanted_ = true; }
    /// The shown layer's plain values come with each full picture.
    void set_values_wanted(bool on);
    /// Thumbnails of each write are made after each change while someone looks at them.
    void set_writes_wanted(bool on);
    /// The light that a layer of one light shows; -1: none.
    void set_chosen_light(int id) { chosenLight_ = id; }
    const QString& shown_layer() const { return layer_; }
    void set_display_size(QSize pixels);

    /// The ledger is made after each change while someone looks at it.
    void set_ledger_wanted(bool on);
    /// A second setup beside the document's; none: there is no B.
    void set_b(const std::optional<Setup>& b);
    const std::optional<Setup>& b() const { return b_; }
    const FrameHistory& history_b() const { return historyB_; }
    /// Measures A and B in paired rounds, until the difference is clear or the rounds are over.
    void measure_pair(int rounds);
    /// The account of a pixel of the target's picture; the newest wish wins.
    void probe(QPoint pixel);

    const FrameHistory& history() const { return history_; }
    const FrameRecord& last_full() const { return lastFull_; }
    /// The document's setup as the last frame showed it: with the exposure that its meter came to.
    Setup shown_setup() const;
    /// Time goes on from picture to picture, and what takes its time (a metered exposure) takes it; else it has had it.
    void set_time_flows(bool on) { timeFlows_ = on; }
    const std::optional<DeviceInfo>& device() const { return device_; }
    void set_watchdog(double seconds) { renderer_->set_watchdog(seconds); }
    int worker_pid() const { return renderer_->worker_pid(); }
    /// Share of the target's width and height that quick pictures have.
    double quick_scale() const { return quickScale_; }
    const std::vector<double>& quick_latencies() const { return quickLatencies_; }

    /// Measures the document's state; progress and the result come as signals. keep: the logbook that holds each round
    /// at once, and what it is of.
    struct KeepRounds {
        std::filesystem::path logbook;
        Target target;
        std::string sceneDigest;
    };
    void measure(int rounds, const std::optional<KeepRounds>& keep);
    /// Every target in turn: measured, or predicted for its profile.
    void judge_targets(int rounds);
    /// Measures the document's state along a walk; progress and the result come as signals. Stopped by stop_measuring.
    /// headings: look round in so many directions at each place and tell the dearest; 0: along the walk.
    void walk(const Walk& walk, double everyMetres, int sweeps, int headings);
    /// Captures probes with the document's setup between other pictures, each into its file.
    void capture(const std::vector<Probe>& probes, const std::filesystem::path& project);
    /// Renders one of a capture's views to know what a capture takes.
    void ask_capture_cost(const Probe& probe);
    void stop_measuring() { stop_ = true; }
    bool measuring() const { return measuring_; }
    /// Nothing of the newest state is under way or to come.
    bool resting() const { return resting_; }
    void use_shader_folder(const QString& folder);

signals:
    void picture_ready(const QImage& scaled, QSize pictureSize, bool quick);
    void costs_changed();
    /// Lists of the settled frame beside their exact reference; empty: the path makes none.
    void histogram_ready(const LuminanceHistogram& histogram); // of the settled picture
    void inspection_ready(const std::shared_ptr<const cull::Inspection>& inspection);
    void ledger_ready(const Ledger& ledger);
    /// Plain values of what stands in the picture's place, and its picture in full size; range: how a target's are
    /// shown.
    void values_ready(const std::shared_ptr<const FloatImage>& values, const QImage& picture, ValueRange range);
    void writes_ready(const std::shared_ptr<const std::vector<WrittenTarget>>& writes, bool ofB);
    void resting_changed(bool on);
    void metered(std::optional<double> ev100); // none: nothing is lit
    /// Of the picture that comes next: what its meter came to; none: it is exposed by hand.
    void exposed_at(std::optional<double> ev100);
    void pixel_ready(const PixelAccount& account);
    void b_ready(const QImage& scaled, const QImage& full); // as large as the viewport, and in its own size
    void b_stale();
    void difference_ready(const std::shared_ptr<const PairDifference>& difference);
    void compared(const PairedMeasurement& measurement);
    void ratio_progress(int round, int rounds, const Interval& ratio);
    void thumbnails_ready(const QMap<QString, QImage>& thumbnails);
    void worker_said(const QString& text, bool trouble);
    void failed(const Error& error);
    void device_known();
    void measuring_changed(bool on);
    void measure_progress(const MeasureProgress& progress);
    void measured(const Measurement& measurement, const State& state, qint64 run); // run: the kept rounds, or 0
    void targets_judged(const std::vector<TargetVerdict>& verdicts);
    void walk_progress(int done, int all); // all 0: at rest again
    void walked(const std::vector<WalkMeasurement>& measured);
    void measure_failed(const Error& error);
    /// What is gathered once is not whole yet: pictures until then are told so. all 0: it is.
    void gathering(int done, int all);
    /// Light spreads from cell to cell, and waits in so many; 0: it is all there.
    void flooding(double cells);
    void captured(const std::vector<mirolux::app::Document::TakenCapture>& captures, double ms); // ms: of one
    void capture_failed(const Error& error);
    void capture_cost_known(double ms); // of six views

private:
    int chosenLight_ = -1;
    enum class Stage { quick, full, sampling, b, counting, ledger, writes, writesB, probe };
    void begin_measuring();
    void end_measuring();
    template <class... Progress, class Tell>
    auto progress(Tell tell);
    template <class Measured, class Measure, class Done>
    void run_measurement(Measure measure, Done done);
    MeasureOptions options_of(int rounds) const;
    void submit(Stage stage);
    void answered(Stage stage, std::uint64_t id, double latencyMs, Result<FrameRecord> record, const QImage& scaled);
    RenderRequest request_for(Stage stage) const;
    void inspect(FrameRecord& record);
    void take_histogram(FrameRecord& record);
    void take_b(FrameRecord& record, const QImage& scaled);
    void forget_values();
    void take_values(FrameRecord& record, bool quick);
    void show_values(bool quick);
    void show_values_b();
    std::vector<TargetRead> targets_of_b(const RenderRequest& request) const;
    void set_resting(bool on);
    void go_on(Stage done);
    static void add_frame(FrameHistory& history, bool& warm, const FrameRecord& record);

    Document& document_;
    FrameHistory history_;
    FrameRecord lastFull_;
    std::optional<Setup> b_, fullSetup_; // fullSetup_: of the last full picture
    FrameHistory historyB_;
    FloatImage floatsA_;
    std::optional<DeviceInfo> device_;
    QString layer_ = "final";
    std::optional<TargetRead> shownTarget_;
    TargetLook look_;
    std::shared_ptr<const FloatImage> values_, valuesB_; // of what is shown
    std::optional<ValueRange> shownRange_;               // of the newest picture of values
    std::uint64_t valuesNumber_ = 0; // pictures of values begun; an older one that ends late is dropped
    std::set<Stage> extras_;         // of the newest state, answered
    bool valuesWanted_ = false, writesWanted_ = false, resting_ = false, meterWanted_ = false;
    std::atomic<int> displayWidth_{960}, displayHeight_{540};
    std::uint64_t newest_ = 0;
    double quickScale_ = 0.35;
    std::vector<double> quickLatencies_;
    bool warmA_ = false, warmB_ = false, shownB_ = false; // of the newest state
    bool gathering_ = false, flooding_ = false, timeFlows_ = false;
    bool movingNow_ = false, measuring_ = false, ledgerWanted_ = false;
    std::atomic<bool> stop_{false};
    std::map<std::uint64_t, std::pair<Stage, double>> underWay_; // id -> stage, time of submission
    std::optional<QPoint> probeWanted_;                          // one is under way; this is the next
    bool probing_ = false;
    Stage reached_ = Stage::quick; // of the newest state
    std::uint64_t state_ = 0;      // counts refreshes
    std::uint64_t inspected_ = 0;  // inspections begun; an older one that ends late is dropped
    QTimer pause_;
    QElapsedTimer clock_;
    QThreadPool inspectors_;
    std::unique_ptr<AsyncRenderer> renderer_; // last: its thread ends before what it reports to
};

} // namespace mirolux::app
