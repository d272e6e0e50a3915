#pragma once
#include "app/document.h"
#include "client/async_renderer.h"
#include "core/account/ledger.h"
#include "core/account/pixel_account.h"
#include "core/cost/frame_history.h"
#include "core/cull/inspection.h"
#include "core/cost/logbook.h"
#include "core/cost/measure.h"
#include <QElapsedTimer>
#include <QImage>
#include <QObject>
#include <QThreadPool>
#include <QTimer>
#include <atomic>
#include <memory>

namespace mirolux::app {

/// Keeps the picture up to date with the document: quick pictures at a reduced size while something moves, then one at the target's size,
/// then a few more frames so that the tape has medians, then counters and thumbnails. All answers arrive on the window's thread.
class RenderBridge : public QObject {
    Q_OBJECT
public:
    RenderBridge(Document& document, WorkerOptions options, QObject* parent = nullptr);
    ~RenderBridge() override;

    /// Something changed. moving: more of the same will follow at once (a drag).
    void refresh(bool moving);
    void set_shown_layer(const QString& layer);
    const QString& shown_layer() const { return layer_; }
    void set_display_size(QSize pixels);

    /// The ledger is made after each change while someone looks at it.
    void set_ledger_wanted(bool on);
    /// The account of a pixel of the target's picture; the newest wish wins.
    void probe(QPoint pixel);

    const FrameHistory& history() const { return history_; }
    const FrameRecord& last_full() const { return lastFull_; }
    const std::optional<DeviceInfo>& device() const { return device_; }
    int worker_pid() const { return renderer_->worker_pid(); }
    /// Share of the target's width and height that quick pictures have.
    double quick_scale() const { return quickScale_; }
    const std::vector<double>& quick_latencies() const { return quickLatencies_; }

    /// Measures the document's state; progress and the result come as signals.
    void measure(int rounds);
    void stop_measuring() { stop_ = true; }
    bool measuring() const { return measuring_; }
    void use_shader_folder(const QString& folder);

signals:
    void picture_ready(const QImage& scaled, QSize pictureSize, bool quick);
    void costs_changed();
    /// Lists of the settled frame beside their exact reference; empty: the path makes none.
    void inspection_ready(const std::shared_ptr<const cull::Inspection>& inspection);
    void ledger_ready(const Ledger& ledger);
    void pixel_ready(const PixelAccount& account);
    void thumbnails_ready(const QMap<QString, QImage>& thumbnails);
    void worker_said(const QString& text, bool trouble);
    void failed(const Error& error);
    void device_known();
    void measure_progress(int round, int rounds, double estimateMs);
    void measured(const Measurement& measurement, const State& state);
    void measure_failed(const Error& error);

private:
    enum class Stage { quick, full, sampling, counting, ledger, probe };
    void submit(Stage stage);
    void answered(Stage stage, std::uint64_t id, double latencyMs, Result<FrameRecord> record, const QImage& scaled);
    RenderRequest request_for(Stage stage) const;
    void inspect(FrameRecord& record);
    void go_on(Stage done);

    Document& document_;
    FrameHistory history_;
    FrameRecord lastFull_;
    std::optional<DeviceInfo> device_;
    QString layer_ = "final";
    std::atomic<int> displayWidth_{960}, displayHeight_{540};
    std::uint64_t newest_ = 0;
    double quickScale_ = 0.35;
    std::vector<double> quickLatencies_;
    bool movingNow_ = false, measuring_ = false, ledgerWanted_ = false;
    std::atomic<bool> stop_{false};
    std::map<std::uint64_t, std::pair<Stage, double>> underWay_; // id -> stage, time of submission
    std::optional<QPoint> probeWanted_; // one is under way; this is the next
    bool probing_ = false;
    Stage reached_ = Stage::quick;      // of the newest state
    std::uint64_t inspected_ = 0;       // inspections begun; an older one that ends late is dropped
    QTimer pause_;
    QElapsedTimer clock_;
    QThreadPool inspectors_;
    std::unique_ptr<AsyncRenderer> renderer_; // last: its thread ends before what it reports to
};

} // namespace mirolux::app
