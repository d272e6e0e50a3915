#include "app/marks.h"
#include "app/viewport.h"
#include "core/finish/exposure.h"
#include <cmath>

// What a meter weighs, over the picture: the middle's size and its edge, or a spot that one drags.
namespace mirolux::app {

void Viewport::show_meter(bool on) {
    if (std::exchange(meterShown_, on) != on) update();
}

void Viewport::set_metered(std::optional<double> ev100) {
    metered_ = ev100;
}

std::optional<QRectF> Viewport::meter_rect() const {
    if (!meterShown_ || !document_.is_open()) return {};
    const Setup& s = document_.project().setup;
    const std::string& meter = s.choice("exposure.meter");
    const bool spot = meter == "spot";
    if (!meters(s, document_.is_flat()) || (!spot && meter != "centre")) return {};
    const QRectF r = picture_rect();
    const double radius = 0.5 * r.height() * s.number(spot ? "exposure.spotSize" : "exposure.centre");
    const QPointF at = spot ? QPointF(r.left() + r.width() * s.number("exposure.spotX"),
                                      r.top() + r.height() * s.number("exposure.spotY"))
                            : r.center();
    return QRectF(at.x() - radius, at.y() - radius, 2 * radius, 2 * radius);
}

bool Viewport::on_spot(const QPointF& at) const {
    const auto disc = meter_rect();
    if (!disc || document_.project().setup.choice("exposure.meter") != "spot") return false;
    const QPointF d = at - disc->center();
    return std::hypot(d.x(), d.y()) <= std::max(12.0, 0.5 * disc->width());
}

void Viewport::drag_spot(const QPointF& step) {
    const QRectF r = picture_rect();
    document_.edit(
        tr("move the meter's spot"),
        [&](Project& p) {
            for (const auto& [key, by] : {std::pair("exposure.spotX", step.x() / r.width()),
                                          std::pair("exposure.spotY", step.y() / r.height())})
                (void)p.setup.set(key, std::clamp(p.setup.number(key) + by, 0.0, 1.0));
        },
        "meter spot");
}

void Viewport::paint_meter(QPainter& p) {
    const auto disc = meter_rect();
    if (!disc) return;
    const Setup& s = document_.project().setup;
    const bool spot = s.choice("exposure.meter") == "spot";
    p.setBrush(Qt::NoBrush);
    two_tone(p, ivory, 1.4, Qt::SolidLine, [&] { p.drawEllipse(*disc); });
    if (spot) {
        const QPointF at = disc->center();
        two_tone(p, ivory, 1.4, Qt::SolidLine, [&] {
            p.drawLine(at - QPointF(4, 0), at + QPointF(4, 0));
            p.drawLine(at - QPointF(0, 4), at + QPointF(0, 4));
        });
    } else { // where the weight has fallen to an eighth
        const double wider = std::pow(2 * std::log(8.0), 1 / s.number("exposure.falloff")) * 0.5 * disc->width();
        two_tone(p, ivory, 1, Qt::DashLine, [&] { p.drawEllipse(disc->center(), wider, wider); });
    }
    const QString words =
        metered_ ? tr("meter: EV100 %1").arg(QString::number(*metered_, 'f', 1).replace("-", "\u2212")) : tr("meter");
    paint_plate(p, QPointF(disc->center().x() + 8, disc->bottom() + 8), words);
}

} // namespace mirolux::app
