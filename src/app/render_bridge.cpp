#include "app/render_bridge.h"
#include "core/finish/exposure.h"
#include "core/finish/render_scale.h"
#include "core/light/tone.h"
#include "core/path/path_kind.h"
#include "core/scene/starter.h"
#include "core/sky/sky_model.h"
#include <QMap>
#include <QMetaObject>
#include <cmath>

namespace mirolux::app {

static constexpr std::size_t framesForTape = 5;

/// The worker's own time that a drag aims at, in ms; waiting for a frame under way, sending and showing come on top.
/// The promise is an answer in 100, and in 50 where the stage is flat and its light is drawn.
static double quick_goal(const Setup& setup, bool flat) {
    return flat && setup.choice("flat.kind") != "cascades" ? 30.0 : 58.0;
}

RenderBridge::RenderBridge(Document& document, WorkerOptions options, QObject* parent)
    : QObject(parent), document_(document) {
    clock_.start();
    pause_.setSingleShot(true);
    pause_.setInterval(300);
    connect(&pause_, &QTimer::timeout, this,
            [this] { refresh(false); }); // a drag that is held still deserves the full picture
    AsyncRenderer::Listener listener;
    listener.answered = [this](const RenderRequest& request, Result<FrameRecord> record) {
        // Scaling to the display happens here, on the renderer's thread: the window's thread only paints.
        QImage scaled;
        if (record && !record->picture.empty()) {
            const ByteImage& p = record->picture;
            const QImage image(p.rgba.data(), p.width, p.height, p.width * 4, QImage::Format_RGBX8888);
            const QSize box(displayWidth_, displayHeight_);
            scaled =
                image.scaled(box, Qt::KeepAspectRatio, Qt::SmoothTransformation).convertToFormat(QImage::Format_RGB32);
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
                answered(stage, id, static_cast<double>(clock_.nsecsElapsed()) * 1e-6 - submitted, std::move(*shared),
                         scaled);
            },
            Qt::QueuedConnection);
    };
    listener.event = [this](const WorkerEvent& e) {
        const QString text = QString::fromStdString(e.text);
        QMetaObject::invokeMethod(
            this, [this, text, trouble = e.kind == WorkerEvent::Kind::lost] { emit worker_said(text, trouble); },
            Qt::QueuedConnection);
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

RenderBridge::~RenderBridge() {
    stop_ = true;
    inspectors_.waitForDone();
}

void RenderBridge::set_display_size(QSize pixels) {
    displayWidth_ = std::max(16, pixels.width());
    displayHeight_ = std::max(16, pixels.height());
}

void RenderBridge::set_writes_wanted(bool on) {
    writesWanted_ = on;
    if (on && reached_ >= Stage::counting && !measuring_ && document_.is_open()) go_on(reached_);
}

/// Whether the sky's sun or moon stands elsewhere.
static bool moves_sun(const Setup& from, const Setup& to) {
    const auto& all = all_settings();
    for (std::size_t i = 0; i < all.size(); ++i)
        if ((all[i].key.starts_with("sun.") || all[i].key.starts_with("moon.")) && from.at(i) != to.at(i)) return true;
    return false;
}

RenderRequest RenderBridge::request_for(Stage stage) const {
    RenderRequest r;
    r.scene = document_.scene();
    r.setup = document_.project().setup;
    r.view = document_.project().view;
    const Target& t = document_.target();
    r.view.width = t.width;
    r.view.height = t.height;
    r.options.light = chosenLight_;
    r.options.adapted = !timeFlows_;
    r.options.show = layer_.toStdString();
    if (shownTarget_ && (stage == Stage::quick || stage == Stage::full)) {
        r.options.picture = false;
        r.options.targets = {*shownTarget_};
    }
    switch (stage) {
    case Stage::quick:
        // A sun that is dragged casts by one cascade until it rests: all of them anew each time would be the slowest
        // part.
        if (sky_light(document_.project().lights, r.setup) >= 0 && fullSetup_ && moves_sun(*fullSetup_, r.setup))
            (void)r.setup.set("cascade.count", 1);
        if (document_.is_blocks()) r.options.gatherMs = 1; // what a brush changes spreads as far as it comes
        r.view.wholeWidth = t.width;
        r.view.wholeHeight = t.height;
        r.view.width = std::max(16, static_cast<int>(std::lround(t.width * quickScale_)));
        r.view.height = std::max(9, static_cast<int>(std::lround(t.height * quickScale_)));
        break;
    case Stage::full:
        r.options.gatherMs = std::max(150.0, lastFull_.answerMs); // so that waiting for it all at most doubles
        if (b_) r.options.floatLayers = {"final"};
        if (valuesWanted_ && !shownTarget_ && !(b_ && layer_ == "final"))
            r.options.floatLayers.push_back(r.options.show);
        if (const std::string depth = depth_layer(r.setup.stage); meterWanted_ && !depth.empty())
            r.options.floatLayers = {"final", depth};
        break;
    case Stage::writesB:
        r.setup = *b_;
        [[fallthrough]];
    case Stage::writes:
        r.options.picture = false;
        r.options.fencedSamples = 0;
        r.options.writes = true;
        break;
    case Stage::b:
        r.setup = *b_;
        r.options.picture = !shownB_ && !shownTarget_;
        if (r.options.picture) r.options.floatLayers = {"final"};
        if (shownTarget_ && !shownB_) r.options.targets = targets_of_b(r);
        r.options.wholeSamples = 1;
        r.options.count = warmB_ && historyB_.frames() + 1 >= framesForTape;
        break;
    case Stage::sampling:
        r.options.picture = false;
        r.options.wholeSamples = 1;
        break;
    case Stage::ledger:
        r.options.picture = false;
        r.options.fencedSamples = 0;
        r.options.ledger = true;
        r.options.floatLayers = ledger_layers(r.setup);
        break;
    case Stage::probe:
        r.options.picture = false;
        r.options.fencedSamples = 0;
        r.options.lightLists = true;
        r.options.probe =
            glm::ivec2(std::clamp(probeWanted_->x(), 0, t.width - 1), std::clamp(probeWanted_->y(), 0, t.height - 1));
        break;
    case Stage::counting:
        r.options.picture = false;
        r.options.fencedSamples = 0;
        r.options.count = true;
        r.options.floatLayers = {"final"};
        r.options.lightLists = path_kind(r.setup).lists;
        if (r.options.lightLists) r.options.floatLayers.push_back("depth");
        for (const LayerInfo& l : all_layers())
            if (shows(l, r.setup, chosenLight_ >= 0)) r.options.thumbnails.push_back(l.name);
        break;
    }
    return r;
}

void RenderBridge::submit(Stage stage) {
    RenderRequest r = request_for(stage);
    if (stage != Stage::probe) probing_ = false; // this takes its place
    set_resting(false);
    r.id = ++newest_;
    underWay_[r.id] = {stage, static_cast<double>(clock_.nsecsElapsed()) * 1e-6};
    renderer_->submit(std::move(r));
}

void RenderBridge::refresh(bool moving) {
    if (!document_.is_open() || measuring_) return;
    movingNow_ = moving;
    if (moving)
        pause_.start();
    else
        pause_.stop();
    history_.clear();
    warmA_ = warmB_ = shownB_ = false;
    ++inspected_;
    ++state_;
    reached_ = Stage::quick;
    extras_ = {};
    if (b_) {
        historyB_.clear();
        valuesB_.reset();
        emit b_stale();
    }
    submit(!meterWanted_ && (moving || lastFull_.passes.empty()) ? Stage::quick : Stage::full);
}

void RenderBridge::set_ledger_wanted(bool on) {
    ledgerWanted_ = on;
    if (on && reached_ >= Stage::counting && !measuring_ && document_.is_open()) go_on(reached_);
}

void RenderBridge::set_resting(bool on) {
    if (std::exchange(resting_, on) != on) emit resting_changed(on);
}

void RenderBridge::probe(QPoint pixel) {
    if (!document_.is_open() || measuring_) return;
    probeWanted_ = pixel;
    if (probing_) return;
    probing_ = true;
    submit(Stage::probe);
    probeWanted_.reset();
}

/// What follows once `done` of the newest state is in. B is sampled as A is: in turn, and both warm.
void RenderBridge::go_on(Stage done) {
    reached_ = done;
    const bool sampling = done == Stage::full || done == Stage::sampling || done == Stage::b,
               needsA = !warmA_ || history_.frames() < framesForTape,
               needsB = b_ && (!warmB_ || historyB_.frames() < framesForTape);
    if (sampling && needsB && (done != Stage::b || !needsA))
        submit(Stage::b);
    else if (sampling && needsA)
        submit(Stage::sampling);
    else if (sampling)
        submit(Stage::counting);
    else {
        const struct {
            Stage stage;
            bool wanted;
        } extras[] = {{Stage::ledger, ledgerWanted_},
                      {Stage::writes, writesWanted_},
                      {Stage::writesB, writesWanted_ && b_.has_value()}};
        for (const auto& extra : extras)
            if (extra.wanted && !extras_.count(extra.stage)) return submit(extra.stage);
        set_resting(true);
    }
}

/// The first frame of a state pays for what is made then: it is shown until a warm one is in.
void RenderBridge::add_frame(FrameHistory& history, bool& warm, const FrameRecord& record) {
    if (!warm && history.frames() > 0) {
        history.forget_cold();
        warm = true;
    }
    history.add(record);
}

void RenderBridge::set_b(const std::optional<Setup>& b) {
    b_ = b;
    historyB_.clear();
    warmB_ = shownB_ = false;
    emit b_stale();
    refresh(false);
}

/// B's first frame is in: shown, and held against A's.
void RenderBridge::take_b(FrameRecord& record, const QImage& scaled) {
    const ByteImage& own = record.picture;
    emit b_ready(scaled, QImage(own.rgba.data(), own.width, own.height, QImage::Format_RGBA8888).copy());
    const auto it = record.floats.find("final");
    if (it == record.floats.end() || floatsA_.width != it->second.width || floatsA_.height != it->second.height) return;
    const double exposure = tone::exposure_scale(hand_ev100(shown_setup()));
    inspectors_.start([this, number = state_, a = floatsA_, b = std::move(it->second), shownA = lastFull_.picture,
                       shownB = record.picture, exposure] {
        auto done = std::make_shared<const PairDifference>(pair_difference(a, b, shownA, shownB, exposure));
        QMetaObject::invokeMethod(
            this,
            [this, number, done] {
                if (number == state_) emit difference_ready(done);
            },
            Qt::QueuedConnection);
    });
}

Setup RenderBridge::shown_setup() const {
    const Setup& setup = document_.project().setup;
    return meters(setup, document_.is_flat()) ? exposed_as(setup, lastFull_.told) : setup;
}

void RenderBridge::take_histogram(FrameRecord& record) {
    const auto it = record.floats.find("final");
    if (it == record.floats.end()) return;
    inspectors_.start([this, image = std::move(it->second), setup = shown_setup()] {
        const LuminanceHistogram h = luminance_histogram(image, setup);
        QMetaObject::invokeMethod(
            this, [this, h] { emit histogram_ready(h); }, Qt::QueuedConnection);
    });
}

/// Brute force takes its time: it runs beside the window, and a newer state makes it void.
void RenderBridge::inspect(FrameRecord& record) {
    const std::uint64_t number = ++inspected_;
    if (record.lightGrid.columns == 0 || !record.floats.count("depth")) {
        emit inspection_ready(nullptr);
        return;
    }
    View view = document_.project().view;
    view.width = record.width;
    view.height = record.height;
    auto work = [this, number, scene = document_.scene(), setup = document_.project().setup, view,
                 grid = std::move(record.lightGrid), depth = std::move(record.floats.at("depth"))]() mutable {
        auto done = std::make_shared<const cull::Inspection>(
            cull::inspect(scene, setup, view, std::move(grid), {depth.width, depth.height, std::move(depth.data)}));
        QMetaObject::invokeMethod(
            this,
            [this, number, done] {
                if (number == inspected_) emit inspection_ready(done);
            },
            Qt::QueuedConnection);
    };
    inspectors_.start(std::move(work));
}

void RenderBridge::answered(Stage stage, std::uint64_t id, double latencyMs, Result<FrameRecord> record,
                            const QImage& scaled) {
    if (stage == Stage::probe) {
        probing_ = false;
        if (record && record->probe && id == newest_) {
            inspectors_.start(
                [this, r = request_for(Stage::full), record = std::make_shared<FrameRecord>(std::move(*record))] {
                    const View view = rendered_view(r.setup, r.view);
                    auto account = std::make_shared<PixelAccount>(pixel_account(
                        r.scene, exposed_as(r.setup, record->told), view, build_draw_list(r.scene, r.setup, view),
                        *record->probe, record->lightGrid, record->transparentGrid));
                    QMetaObject::invokeMethod(
                        this, [this, account] { emit pixel_ready(*account); }, Qt::QueuedConnection);
                });
        }
        if (id == newest_ && !measuring_) {
            if (probeWanted_)
                probe(*probeWanted_);
            else
                go_on(reached_ == Stage::quick ? Stage::sampling
                                               : reached_); // it may have taken the place of what was to follow
        }
        return;
    }
    if (!record) {
        emit failed(record.error());
        return;
    }
    if (stage == Stage::b) {
        if (id == newest_) {
            add_frame(historyB_, warmB_, *record);
            if (shownTarget_ && !shownB_) {
                shownB_ = true;
                if (!record->targets.empty()) {
                    valuesB_ = std::make_shared<const FloatImage>(std::move(record->targets.front()));
                    show_values_b();
                }
            }
            if (!scaled.isNull()) {
                shownB_ = true;
                take_b(*record, scaled);
            }
            emit costs_changed();
            if (id == newest_ && !measuring_) go_on(stage);
        }
        return;
    }
    if (stage == Stage::full) fullSetup_ = document_.project().setup;
    if (stage == Stage::full && meterWanted_) {
        const std::string layer = depth_layer(fullSetup_->stage);
        if (layer.empty()) meterWanted_ = false; // a stage that is not metered so
        const auto depth = record->floats.find(layer);
        if (depth != record->floats.end()) {
            meterWanted_ = false; // what follows brings a picture of the new exposure
            return emit metered(metered_ev100(record->floats.at("final"), depth->second));
        }
    }
    if (!scaled.isNull()) {
        const auto ev = record->told.find(told_ev100);
        emit exposed_at(ev == record->told.end() ? std::nullopt : std::optional(ev->second.front()));
        emit picture_ready(scaled, QSize(record->width, record->height), stage == Stage::quick);
    }
    if (stage == Stage::quick || stage == Stage::full) take_values(*record, stage == Stage::quick);
    if (stage == Stage::full) {
        const auto told = record->told.find("gathering");
        if (const bool under = told != record->told.end(); under || gathering_) {
            gathering_ = under;
            emit gathering(under ? static_cast<int>(told->second[0]) : 0,
                           under ? static_cast<int>(told->second[1]) : 0);
        }
        const auto waits = record->told.find("flooding");
        if (const bool under = waits != record->told.end(); under || flooding_) {
            flooding_ = under;
            emit flooding(under ? waits->second.front() : 0);
        }
        if (gathering_ || flooding_) { // its times are not the frame's
            if (id == newest_ && !measuring_) submit(Stage::full);
            return;
        }
    }
    const double goal = quick_goal(document_.project().setup, document_.is_flat());
    if (stage == Stage::quick) {
        quickLatencies_.push_back(latencyMs);
        if (quickLatencies_.size() > 500) quickLatencies_.erase(quickLatencies_.begin());
        // Answer time grows with the pixels, so the scale follows its square root; never below what one can still
        // judge.
        if (record->answerMs > 0)
            quickScale_ =
                std::clamp(quickScale_ * std::clamp(std::sqrt(goal / record->answerMs), 0.7, 1.15), 0.12, 1.0);
    }
    // A setup that costs far more than the one before: its first drag need not find that out frame by frame.
    if (stage == Stage::full && record->answerMs * quickScale_ * quickScale_ > 2.5 * goal)
        quickScale_ = std::clamp(std::sqrt(goal / record->answerMs), 0.25, std::max(0.25, quickScale_));
    const bool newest = id == newest_;
    if (newest) extras_.insert(stage);
    if (stage == Stage::full || stage == Stage::sampling || stage == Stage::counting) {
        if (newest || stage == Stage::full) {
            if (stage == Stage::counting)
                history_.add(*record); // no time: its work
            else
                add_frame(history_, warmA_, *record);
            if (stage == Stage::full) {
                if (const auto it = record->floats.find("final"); it != record->floats.end())
                    floatsA_ = std::move(it->second);
                lastFull_ = *record;
            }
            lastFull_.droppedLights = record->droppedLights;
            lastFull_.told = record->told;
            emit costs_changed();
        }
        if (stage == Stage::counting && newest) {
            take_histogram(*record);
            inspect(*record);
        }
        if (!record->thumbnails.empty()) {
            QMap<QString, QImage> thumbnails;
            for (const auto& [layer, image] : record->thumbnails)
                thumbnails[QString::fromStdString(layer)] =
                    QImage(image.rgba.data(), image.width, image.height, image.width * 4, QImage::Format_RGBX8888)
                        .copy();
            emit thumbnails_ready(thumbnails);
        }
    }
    if ((stage == Stage::writes || stage == Stage::writesB) && newest)
        emit writes_ready(std::make_shared<const std::vector<WrittenTarget>>(std::move(record->writes)),
                          stage == Stage::writesB);
    if (stage == Stage::ledger && newest) {
        for (PassRecord& p : record->passes) // times are those of the tape
            for (const auto& c : history_.passes())
                if (c.name == p.name) p.ms = {c.median};
        emit ledger_ready(make_ledger(document_.scene(), *record));
    }
    if (id != newest_ || measuring_)
        return; // something newer waits, perhaps since a listener of these signals changed something
    if (stage == Stage::quick) {
        if (!movingNow_) submit(Stage::full);
    } else
        go_on(stage);
}

void RenderBridge::use_shader_folder(const QString& folder) {
    renderer_->use_shader_folder(folder.toStdString());
    refresh(false);
}

} // namespace mirolux::app
