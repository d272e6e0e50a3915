#include "app/render_bridge.h"
#include <QMetaObject>

// Plain values in the picture's place: targets as pictures, and what the loupe reads.
namespace mirolux::app {

/// Values as a picture of their own size, and of the display's.
struct ValuePicture {
    QImage full, scaled;
};
static ValuePicture value_picture(const FloatImage& values, const TargetLook& look, ValueRange range, QSize box) {
    const ByteImage mapped = picture_of(values, look.channel, range, look.encode);
    const QImage image(mapped.rgba.data(), mapped.width, mapped.height, mapped.width * 4, QImage::Format_RGBX8888);
    return {image.copy(),
            image.scaled(box, Qt::KeepAspectRatio, Qt::SmoothTransformation).convertToFormat(QImage::Format_RGB32)};
}

void RenderBridge::set_shown_layer(const QString& layer) {
    if (layer == layer_ && !shownTarget_) return;
    layer_ = layer;
    shownTarget_.reset();
    forget_values();
    refresh(false);
}

void RenderBridge::set_shown_target(const TargetRead& target) {
    if (shownTarget_ == target) return;
    shownTarget_ = target;
    forget_values();
    refresh(false);
}

void RenderBridge::set_look(const TargetLook& look) {
    look_ = look;
    if (values_) show_values(false);
}

void RenderBridge::set_values_wanted(bool on) {
    if (std::exchange(valuesWanted_, on) == on || !on || values_ || !document_.is_open()) return;
    refresh(false);
}

void RenderBridge::forget_values() {
    values_.reset();
    shownRange_.reset();
    ++valuesNumber_;
}

/// Values of the target or layer that is shown, if the record brings them.
void RenderBridge::take_values(FrameRecord& record, bool quick) {
    if (shownTarget_ && !record.targets.empty()) {
        values_ = std::make_shared<const FloatImage>(std::move(record.targets.front()));
        show_values(quick);
    } else if (!shownTarget_ && valuesWanted_) {
        const auto it = record.floats.find(layer_.toStdString());
        if (it == record.floats.end()) return;
        values_ = std::make_shared<const FloatImage>(it->second);
        const ByteImage& p = record.picture;
        const QImage picture(p.rgba.data(), p.width, p.height, p.width * 4, QImage::Format_RGBX8888);
        emit values_ready(values_, picture.copy(), {});
    }
}

/// The shown target as B has it, if it does.
std::vector<TargetRead> RenderBridge::targets_of_b(const RenderRequest& request) const {
    const FramePlan plan = plan_frame(request.scene, *b_, request.view);
    const PlannedResource* r = plan.resource(shownTarget_->target);
    if (!r || shownTarget_->layer >= r->layers || shownTarget_->mip >= r->spec.mips ||
        (shownTarget_->stencil && r->spec.format != Format::depth32fStencil8))
        return {};
    TargetRead read = *shownTarget_;
    const PlannedPass* after = plan.pass(read.after);
    const int place = after ? static_cast<int>(after - plan.passes.data()) : -1;
    if (place < r->first || place > r->last) read.after.clear();
    return {read};
}

/// The target's values as a picture, made beside the window; B's follow in the same range.
void RenderBridge::show_values(bool quick) {
    inspectors_.start([this, number = ++valuesNumber_, values = values_, look = look_, quick,
                       box = QSize(displayWidth_, displayHeight_)] {
        const ValueRange range = look.range ? *look.range : range_of(*values, look.channel);
        const ValuePicture picture = value_picture(*values, look, range, box);
        QMetaObject::invokeMethod(
            this,
            [this, number, picture, values, range, quick] {
                if (number != valuesNumber_) return;
                shownRange_ = range;
                emit picture_ready(picture.scaled, QSize(values->width, values->height), quick);
                emit values_ready(values, picture.full, range);
                if (valuesB_) show_values_b();
            },
            Qt::QueuedConnection);
    });
}

/// B's values in the range that A's were shown in.
void RenderBridge::show_values_b() {
    inspectors_.start([this, number = state_, values = valuesB_, look = look_, shown = shownRange_,
                       box = QSize(displayWidth_, displayHeight_)] {
        const ValueRange range = look.range ? *look.range : shown ? *shown : range_of(*values, look.channel);
        const ValuePicture picture = value_picture(*values, look, range, box);
        QMetaObject::invokeMethod(
            this,
            [this, number, values, picture] {
                if (number == state_ && values == valuesB_) emit b_ready(picture.scaled, picture.full);
            },
            Qt::QueuedConnection);
    });
}

} // namespace mirolux::app
