#pragma once
#include "app/newest_task.h"
#include "client/worker_client.h"
#include "core/finish/layer_sheet.h"
#include "core/finish/size_costs.h"
#include <QObject>
#include <memory>

namespace mirolux::app {

struct SheetQuestion {
    Scene scene;
    Setup setup;
    View view;
    int cellWidth = 320, cellHeight = 180;
    bool grey = false;
};

/// Breaks frames into their layers, and measures them at several sizes, beside the window, with a worker of its own
/// that only runs where nothing else wants the processor.
class FinishEngine : public QObject {
    Q_OBJECT
public:
    explicit FinishEngine(WorkerOptions options, QObject* parent = nullptr);
    void ask(SheetQuestion question);
    /// The sheet as a file: .png, or .exr with a part for each layer.
    void save(SheetQuestion question, const QString& path);
    /// What the frame costs at each size of rendering.
    void ask_sizes(const Scene& scene, const Setup& setup, const View& view);
    void stop() { task_.stop(); }
    bool busy() const { return task_.busy(); }

signals:
    void ready(const std::shared_ptr<const mirolux::LayerSheet>& sheet);
    void saved(const QString& path);
    void sizes_progressed(double share);
    void sizes_ready(const std::vector<mirolux::SizeCost>& costs);
    void failed(const QString& words);

private:
    Result<LayerSheet> answer(const SheetQuestion& question);

    WorkerOptions options_;
    std::unique_ptr<WorkerClient> worker_; // the thread's own
    NewestTask task_;                      // last: its thread uses the others
};

} // namespace mirolux::app
