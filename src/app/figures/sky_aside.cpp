#include "app/figures/sky_aside.h"

namespace mirolux::app {

SkyAside::SkyAside(QObject* parent, std::function<void(const SkyModel&)> more)
    : QObject(parent), more_(std::move(more)) {
    thread_.setMaxThreadCount(1);
}

SkyAside::~SkyAside() {
    thread_.waitForDone();
}

void SkyAside::ask(const SkySettings& settings) {
    wanted_ = settings;
    begin();
}

void SkyAside::begin() {
    if (busy_ || wanted_ == begun_) return;
    begun_ = wanted_;
    busy_ = true;
    thread_.start([this, settings = *begun_] { // ended before this is: the destructor waits
        const std::shared_ptr<const SkyModel> model = sky_model(settings);
        if (more_) more_(*model);
        QMetaObject::invokeMethod(
            this,
            [this, model] {
                model_ = model;
                busy_ = false;
                begin(); // the sky may have changed meanwhile
                emit ready();
            },
            Qt::QueuedConnection);
    });
}

} // namespace mirolux::app
