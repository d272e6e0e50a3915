#include "app/render_bridge.h"
#include <QMap>
#include <QMetaObject>
#include <cmath>

namespace mirolux::app {

static constexpr std::size_t framesForTape = 5;
static constexpr double quickGoalMs = 58.0; // answer time aimed at while dragging; the promise is 100

RenderBridge::RenderBridge(Document& document, WorkerOptions options, QObject* parent) : QObject(parent), document_(document) {
    clock_.start();
    pause_.setSingleShot(true);
    pause_.setInterval(300);
    connect(&pause_, &QTimer::timeout, this, [this] { refresh(false); }); // a drag that is held still deserves the full picture
    AsyncRenderer::Listener listener;
    listener.answered = [this](const RenderRequest& request, Result<FrameRecord> record) {
        // Scaling to the display happens here, on the renderer's thread: the window's thread only paints.
        QImage scaled;
        if (record && !record->picture.empty()) {
            const ByteImage& p = record->picture;
            const QImage image(p.rgba.data(), p.width, p.height, p.width * 4, QImage::Format_RGBX8888);
            const QSize box(displayWidth_, displayHeight_);
            scaled = image.scaled(box, Qt::KeepAspectRatio, Qt::SmoothTransformation)
                         .convertToFormat(QImage::Format_RGB32);
        }
        const std::uint64_t id = request.id;
        auto shared = std::make_shared<Result<FrameRecord>>(std::move(record));
        QMetaObject::invokeMethod(
            this,
            [this, id, shared, scaled] {
                const auto it = underWay_.find(id);
                if (it == underWay_.end()) { // the last good state, shown again by a new worker
                    if (*shared) emit picture_ready(scaled, QSize((*shared)->width, (*shared)->height), false);
                    return;
                }
                const auto [stage, submitted] = it->second;
                underWay_.erase(underWay_.begin(), std::next(it)); // older ones were replaced
                answered(stage, id, static_cast<double>(clock_.nsecsElapsed()) * 1e-6 - submitted, std::move(*shared), scaled);
            },
            Qt::QueuedConnection);
    };
    listener.event = [this](const WorkerEvent& e) {
        const QString text = QString::fromStdString(e.text);
        QMetaObject::invokeMethod(this, [this, text, trouble = e.kind == WorkerEvent::Kind::lost] { emit worker_said(text, trouble); }, Qt::QueuedConnection);
    };
    listener.device = [this](Result<DeviceInfo> info) {
        QMetaObject::invokeMethod(
            this,
            [this, info] {
                if (info) device_ = *info;
                emit device_known();
            },
            Qt::QueuedConnection);
    };
    renderer_ = std::make_unique<AsyncRenderer>(std::move(options), std::move(listener));
}

RenderBridge::~RenderBridge() { stop_ = true; }

void RenderBridge::set_display_size(QSize pixels) {
    displayWidth_ = std::max(16, pixels.width());
    displayHeight_ = std::max(16, pixels.height());
}

void RenderBridge::set_shown_layer(const QString& layer) {
    if (layer == layer_) return;
    layer_ = layer;
    refresh(false);
}

RenderRequest RenderBridge::request_for(Stage stage) const {
    RenderRequest r;
    r.scene = document_.scene();
    r.setup = document_.project().setup;
    r.view = document_.project().view;
    const Target& t = document_.target();
    r.view.width = t.width;
    r.view.height = t.height;
    r.final = stage != Stage::quick;
    r.options.show = layer_.toStdString();
    switch (stage) {
    case Stage::quick:
        r.view.width = std::max(16, static_cast<int>(std::lround(t.width * quickScale_)));
        r.view.height = std::max(9, static_cast<int>(std::lround(t.height * quickScale_)));
        break;
    case Stage::full: break;
    case Stage::sampling:
        r.options.picture = false;
        r.options.wholeSamples = 1;
        break;
    default:
        r.options.picture = false;
        r.options.fencedSamples = 0;
        r.options.count = true;
        r.options.lightLists = path_shape(r.setup).lists;
        for (const LayerInfo& l : all_layers())
            r.options.thumbnails.push_back(l.name);
        break;
    }
    return r;
}

void RenderBridge::submit(Stage stage) {
    RenderRequest r = request_for(stage);
    r.id = ++newest_;
    underWay_[r.id] = {stage, static_cast<double>(clock_.nsecsElapsed()) * 1e-6};
    renderer_->submit(std::move(r));
}

void RenderBridge::refresh(bool moving) {
    if (!document_.is_open() || measuring_) return;
    movingNow_ = moving;
    if (moving) pause_.start();
    else pause_.stop();
    history_.clear();
    submit(moving || lastFull_.passes.empty() ? Stage::quick : Stage::full);
}

void RenderBridge::answered(Stage stage, std::uint64_t id, double latencyMs, Result<FrameRecord> record, const QImage& scaled) {
    if (!record) {
        emit failed(record.error());
        return;
    }
    if (!scaled.isNull() && !quiet_) emit picture_ready(scaled, QSize(record->width, record->height), stage == Stage::quick);
    if (stage == Stage::quick) {
        quickLatencies_.push_back(latencyMs);
        if (quickLatencies_.size() > 500) quickLatencies_.erase(quickLatencies_.begin());
        // Answer time grows with the pixels, so the scale follows its square root; never below what one can still judge.
        if (record->answerMs > 0) quickScale_ = std::clamp(quickScale_ * std::clamp(std::sqrt(quickGoalMs / record->answerMs), 0.7, 1.15), 0.12, 1.0);
    }
    const bool newest = id == newest_;
    if (stage == Stage::full || stage == Stage::sampling || stage == Stage::counting) {
        if (newest || stage == Stage::full) {
            history_.add(*record);
            if (stage == Stage::full) lastFull_ = *record;
            lastFull_.droppedLights = record->droppedLights;
            emit costs_changed();
        }
        if (stage == Stage::counting) emit light_lists_ready(record->lightGrid);
        if (!record->thumbnails.empty()) {
            QMap<QString, QImage> thumbnails;
            for (const auto& [layer, image] : record->thumbnails)
                thumbnails[QString::fromStdString(layer)] = QImage(image.rgba.data(), image.width, image.height, image.width * 4, QImage::Format_RGBX8888).copy();
            emit thumbnails_ready(thumbnails);
        }
    }
    if (!newest || measuring_) return; // something newer waits
    if (stage == Stage::quick) {
        if (!movingNow_) submit(Stage::full);
    }
    else if (stage == Stage::full || (stage == Stage::sampling && history_.frames() < framesForTape)) submit(Stage::sampling);
    else if (stage == Stage::sampling) submit(Stage::counting);
}

void RenderBridge::measure(int rounds) {
    if (measuring_ || !document_.is_open()) return;
    measuring_ = true;
    stop_ = false;
    const RenderRequest r = request_for(Stage::full);
    State state{r.setup, r.scene.lights, r.view};
    const bool gpuClock = device_ && device_->clock.gpuAccepted;
    renderer_->run([this, r, rounds, state, gpuClock](RenderSession& session) {
        MeasureOptions o;
        o.rounds = rounds;
        o.gpuClock = gpuClock;
        o.progress = [this](const MeasureProgress& p) {
            QMetaObject::invokeMethod(this, [this, p] { emit measure_progress(p.round, p.rounds, p.estimateMs); }, Qt::QueuedConnection);
            return !stop_.load();
        };
        auto result = std::make_shared<Result<Measurement>>(mirolux::measure(session, r.scene, r.setup, r.view, o));
        QMetaObject::invokeMethod(
            this,
            [this, result, state] {
                measuring_ = false;
                if (*result) emit measured(**result, state);
                else emit measure_failed(result->error());
                refresh(false);
            },
            Qt::QueuedConnection);
    });
}

void RenderBridge::use_shader_folder(const QString& folder) {
    renderer_->use_shader_folder(folder.toStdString());
    refresh(false);
}

} // namespace mirolux::app
