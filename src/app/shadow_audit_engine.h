#pragma once
#include "client/worker_client.h"
#include "core/shadow/shadow_session.h"
#include "core/shadow/spot_trial.h"
#include <QObject>
#include <condition_variable>
#include <memory>
#include <mutex>
#include <thread>

namespace mirolux::app {

/// Holds shadows against rays beside the window, with a worker of its own that only runs where nothing else wants the
/// processor. One question at a time, the newest; it can be stopped.
class ShadowAuditEngine : public QObject {
    Q_OBJECT
public:
    explicit ShadowAuditEngine(WorkerOptions options, QObject* parent = nullptr);
    ~ShadowAuditEngine() override;
    void audit(ShadowQuestion question);
    void find_bias(ShadowQuestion question, double bound);
    /// The question's light as spots.
    void try_spots(ShadowQuestion question);
    void stop();
    bool busy() const { return busy_; }
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
    void work();
    void answer(Asked asked, std::uint64_t number);

    WorkerOptions options_;
    std::mutex mutex_;
    std::condition_variable changed_;
    std::optional<Asked> asked_;
    std::uint64_t number_ = 0; // of the newest question
    bool ending_ = false;
    std::atomic<bool> busy_ = false, spots_ = false;
    std::unique_ptr<WorkerClient> worker_;    // the thread's own
    std::shared_ptr<const SceneAsset> whole_; // with its pictures: the thread's own
    std::thread thread_;
};

} // namespace mirolux::app
