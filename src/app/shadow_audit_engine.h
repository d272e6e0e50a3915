#pragma once
#include "app/newest_task.h"
#include "client/worker_client.h"
#include "core/cost/object_price.h"
#include "core/shadow/shadow_session.h"
#include "core/shadow/spot_trial.h"
#include <QObject>
#include <memory>

namespace mirolux::app {

/// Holds shadows against rays, and prices what can be left out, beside the window, with a worker of its own that only
/// runs where nothing else wants the processor. One question at a time, the newest; it can be stopped.
class ShadowAuditEngine : public QObject {
    Q_OBJECT
public:
    explicit ShadowAuditEngine(WorkerOptions options, QObject* parent = nullptr);
    void audit(ShadowQuestion question);
    void find_bias(ShadowQuestion question, double bound);
    /// The question's light as spots.
    void try_spots(ShadowQuestion question);
    /// What objects cost in the question's view.
    void price(ShadowQuestion question, std::vector<int> objects);
    void stop() { task_.stop(); }
    /// Until whoever listens has heard that it rests: what is clicked after that is not taken for a stop.
    bool busy() const { return busy_; }
    enum class Kind { audit, bias, spots, price };
    /// Of the newest question.
    Kind kind() const { return kind_; }

signals:
    void progressed(const QString& what, double share);
    void audited(const std::shared_ptr<const mirolux::ShadowReport>& report);
    void found(const std::shared_ptr<const mirolux::BiasSolution>& solution, double bound);
    void tried(const std::shared_ptr<const std::vector<mirolux::SpotTrial>>& trials);
    void priced(const std::shared_ptr<const mirolux::ObjectPrice>& price);
    void failed(const QString& words);
    void rested();
    void idle(); // from its thread, which may have been asked anew since

private:
    struct Asked {
        ShadowQuestion question;
        Kind kind = Kind::audit;
        double bound = 0;         // of a search
        std::vector<int> objects; // that are priced
    };
    void ask(Asked asked);
    void answer(Asked asked, const NewestTask::GoesOn& goes_on);

    WorkerOptions options_;
    std::atomic<Kind> kind_ = Kind::audit;
    bool busy_ = false;
    std::unique_ptr<WorkerClient> worker_;    // the thread's own
    std::shared_ptr<const SceneAsset> whole_; // with its pictures: the thread's own
    NewestTask task_;                         // last: its thread uses the others
};

} // namespace mirolux::app
