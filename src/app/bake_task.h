#pragma once
#include "app/document.h"
#include "app/newest_task.h"
#include "core/bake/bake.h"

namespace mirolux::app {

/// A bake beside the window: kept every now and then, stopped at any time.
class BakeTask : public QObject {
    Q_OBJECT
public:
    explicit BakeTask(Document& document, QObject* parent = nullptr);
    ~BakeTask() override;
    using Beginning = std::function<Result<std::unique_ptr<Bake>>(const Scene&, const Setup&)>;
    /// Of the project as it stands; not while it is working.
    void run(Beginning begins);
    void stop() { stop_ = true; }
    bool working() const { return working_; }

signals:
    void progressed(const QString& words); // "1,200 of 4,000 texels, 12 s to go"
    void ended(const QString& words);      // done, stopped or failed; what there is to say of it

private:
    Document& document_;
    bool working_ = false;
    std::atomic<bool> stop_ = false;
    std::shared_ptr<const SceneAsset> whole_; // with its pictures: the thread's own
    NewestTask task_;                         // last: its thread uses the others
};

} // namespace mirolux::app
