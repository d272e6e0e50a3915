#pragma once
#include "app/bake_task.h"
#include "app/plots/map_plot.h"
#include "client/worker_client.h"
#include "core/bake/space_probes.h"

class QLabel;
class QPushButton;
class QTableWidget;

namespace mirolux::app {

/// Light that is computed beforehand: maps and probes in space, baked beside the window with their progress, and every
/// way of keeping what was baked held against the others. Shown at the Ambient station where the setup asks for it.
class LightMapBench : public QWidget {
    Q_OBJECT
public:
    explicit LightMapBench(Document& document, WorkerOptions options, QWidget* parent = nullptr);
    ~LightMapBench() override;
    void bake();
    void bake_probes();
    void compare();
    /// A probe where the camera stands, by hand.
    void place_probe();
    bool working() const { return working_ != Work::none; }

signals:
    void baked(); // or stopped, or failed
    void compared();

private:
    enum class Work { none, bakes, probes, compares };
    void take();
    void show_state();
    QString map_words() const;
    QString probe_words() const;
    void show_grids(const std::vector<std::pair<std::shared_ptr<const ProbeGrid>, ProbeComparison>>& grids);
    void begin(Work work);
    void run(Work work, BakeTask::Beginning begins);
    void stop();
    void ended(const QString& words);
    void show_table(std::shared_ptr<const LightMapTable> table);
    void take_row(const LightMapRow& row);

    Document& document_;
    WorkerOptions options_;
    QPushButton *bake_, *probes_, *place_, *compare_;
    QLabel* state_;
    MapPlot* plot_;
    QTableWidget* table_;
    Work working_ = Work::none;
    std::atomic<bool> stop_ = false;
    QString found_; // the last answer
    BakeTask bakes_;
    std::unique_ptr<WorkerClient> worker_;    // the thread's own
    std::shared_ptr<const SceneAsset> whole_; // with its pictures: the thread's own
    NewestTask task_;                         // last: its thread uses the others
};

} // namespace mirolux::app
