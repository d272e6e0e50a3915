#pragma once
#include "core/sky/sky_model.h"
#include <QObject>
#include <QThreadPool>
#include <functional>
#include <optional>

namespace mirolux::app {

/// A sky summed aside, so that no window waits for it: the newest that was asked for, one at a time. `more` is made of
/// it in the same go (a picture, say); it runs aside too.
class SkyAside : public QObject {
    Q_OBJECT
public:
    explicit SkyAside(QObject* parent, std::function<void(const SkyModel&)> more = {});
    ~SkyAside() override;
    void ask(const SkySettings& settings);
    /// The newest that is ready; null: none yet.
    const std::shared_ptr<const SkyModel>& model() const { return model_; }
    bool busy() const { return busy_; }

signals:
    void ready();

private:
    void begin();

    std::function<void(const SkyModel&)> more_;
    std::shared_ptr<const SkyModel> model_;
    std::optional<SkySettings> wanted_, begun_;
    bool busy_ = false;
    QThreadPool thread_;
};

} // namespace mirolux::app
