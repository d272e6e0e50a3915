#pragma once
#include "app/newest_task.h"
#include "client/worker_client.h"
#include "core/shadow/shadow_session.h"
#include "core/shadow/spot_trial.h"
#include <QObject>
#include <memory>

namespace mirolux::app {

/// Holds shadows against rays beside the window, with a worker of its own that only runs where nothing else wants the
/// processor. One question at a time, the newest; it can be stopped.
class ShadowAuditEngine : public QObject {
    Q_OBJECT
public:
    explicit ShadowAuditEngine(WorkerOptions options, QObject* parent = nullptr);
    void audit(ShadowQuestion question);
    void find_bias(ShadowQuestion question, double bound);
    /// The question's light as spots.
    void try_spots(ShadowQuestion question);
    void stop() { task_.stop(); }
    bool busy() const { return task_.busy(); }
    /// The newest question is a trial of spots.
    bool tries_spots() const { return spots_; }

signals:
    void progressed(const QString& what, double share);
    void audited(const std::shared_ptr<const mirolux::ShadowReport>& report);
    void found(const std::shared_ptr<const mirolux::BiasSolution>& solution, double bound);
    void tried(const std::shared_ptr<const std::vector<mirolux::SpotTrial>>& trials);
    void failed(const QString& words);
    void rested();

private:
    struct Asked {
        ShadowQuestion question;
        std::optional<double> bound; // a search
        bool spots = false;          // a trial of spots
    };
    void ask(Asked asked);
    void answer(Asked asked, const NewestTask::GoesOn& goes_on);

    WorkerOptions options_;
    std::atomic<bool> spots_ = false;
    std::unique_ptr<WorkerClient> worker_;    // the thread's own
    std::shared_ptr<const SceneAsset> whole_; // with its pictures: the thread's own
    NewestTask task_;                         // last: its thread uses the others
};

} // namespace mirolux::app
