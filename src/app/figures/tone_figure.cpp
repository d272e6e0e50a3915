#include "app/figures/tone_figure.h"
#include "app/marks.h"
#include "app/theme.h"
#include "core/base/text.h"
#include "core/finish/exposure.h"
#include "core/finish/tone_curve.h"
#include "core/light/tone.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

namespace mirolux::app {

using H = LuminanceHistogram;

ToneFigure::ToneFigure(Document& document, const RenderBridge& bridge, QWidget* parent)
    : Figure(document, bridge, parent) {
    setObjectName("tone figure");
    setAccessibleName(tr("Tone curve over the picture's histogram"));
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    setToolTip(
        tr("Luminance of the picture in stops; 0 is the exposed value 1. The curve says what the display makes of "
           "it. Drag sideways to expose; a curve of one's own is dragged by its handles."));
    connect(&document_, &Document::changed, this, qOverload<>(&QWidget::update));
    connect(&bridge_, &RenderBridge::histogram_ready, this, [this](const LuminanceHistogram& h) {
        histogram_ = h;
        update();
    });
}

QRectF ToneFigure::plot() const {
    return {30, 6, width() - 36.0, height() - 6.0 - 52};
}
double ToneFigure::x_of(double stops) const {
    return plot().left() + plot().width() * (stops - H::low) / (H::high - H::low);
}
double ToneFigure::stops_at(double x) const {
    return H::low + (x - plot().left()) / plot().width() * (H::high - H::low);
}

void ToneFigure::paintEvent(QPaintEvent*) {
    if (!document_.is_open()) return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    const QRectF r = plot();
    const Setup setup = bridge_.shown_setup();
    p.fillRect(r, t.field);
    if (histogram_) { // square roots: the few bright pixels are what one looks for
        const double most = *std::max_element(histogram_->bins.begin(), histogram_->bins.end());
        p.setPen(Qt::NoPen);
        p.setBrush(t.line);
        for (std::size_t i = 0; i < histogram_->bins.size() && most > 0; ++i) {
            const double left = x_of(H::low + double(i) / H::stepsAStop),
                         right = x_of(H::low + double(i + 1) / H::stepsAStop),
                         h = r.height() * std::sqrt(histogram_->bins[i] / most);
            p.drawRect(QRectF(left, r.bottom() - h, right - left + 0.3, h));
        }
    }
    p.setFont(sized(font(), 11));
    for (int s = -12; s <= 4; s += 4) {
        p.setPen(QPen(t.quiet, 0.5));
        p.drawLine(QPointF(x_of(s), r.top()), QPointF(x_of(s), r.bottom()));
        p.drawText(QRectF(x_of(s) - 20, r.bottom() + 2, 40, 14), Qt::AlignHCenter,
                   s > 0 ? QString("+%1").arg(s) : QString::number(s).replace("-", "\u2212"));
    }
    p.setPen(t.quiet);
    for (const auto& [share, text] : {std::pair{0.0, "0"}, {0.5, "128"}, {1.0, "255"}})
        p.drawText(QRectF(0, r.bottom() - share * r.height() - 7, 26, 14), Qt::AlignRight | Qt::AlignVCenter, text);
    if (histogram_) paint_clips(p);
    if (bridge_.shown_layer() == "stops") // what its colours mean
        for (double x = r.left(); x < r.right(); x += 1) {
            const glm::dvec3 c = stop_color(stops_at(x) - std::log2(0.18));
            p.fillRect(QRectF(x, r.bottom() - 5, 1.5, 5),
                       QColor::fromRgbF(static_cast<float>(c.r), static_cast<float>(c.g), static_cast<float>(c.b)));
        }
    QPolygonF curve;
    for (int i = 0; i <= 160; ++i) {
        const double stops = H::low + (H::high - H::low) * i / 160;
        curve << QPointF(x_of(stops), r.bottom() - r.height() * displayed(std::exp2(stops), setup));
    }
    p.setBrush(Qt::NoBrush);
    for (const QPen& pen : {QPen(t.panel, 4), QPen(t.text, 1.8)}) {
        p.setPen(pen);
        p.drawPolyline(curve);
    }
    if (metered()) paint_meter(p);
    for (int i = 0; i < handles(); ++i)
        two_tone(p, t.text, 1.4, Qt::SolidLine,
                 [&] { p.drawEllipse(handle_at(i), i == held_ ? 6 : 4.5, i == held_ ? 6 : 4.5); });
    QString line;
    if (pointer_) {
        const double exposed = std::exp2(*pointer_), luminance = exposed / tone::exposure_scale(hand_ev100(setup));
        p.setPen(QPen(t.text, 1, Qt::DashLine));
        p.drawLine(QPointF(x_of(*pointer_), r.top()), QPointF(x_of(*pointer_), r.bottom()));
        line = tr("%1 stops: %2 cd/m\u00b2 becomes %3 of 255")
                   .arg(QString::number(*pointer_, 'f', 1).replace("-", "\u2212"),
                        QString::fromStdString(number_text(luminance, 3)))
                   .arg(std::lround(255 * displayed(exposed, setup)));
    } else
        line = (metered() ? tr("stops around white at EV100 %1, metered") : tr("stops around white at EV100 %1"))
                   .arg(QString::number(hand_ev100(setup), 'f', 1).replace("-", "\u2212"));
    p.setPen(t.quiet);
    p.drawText(QRectF(0, height() - 34, width(), 15), Qt::AlignVCenter, line);
    if (histogram_ && histogram_->pixels)
        p.drawText(QRectF(0, height() - 18, width(), 15), Qt::AlignVCenter,
                   tr("clipped: %1 % of the pixels, crushed: %2 %")
                       .arg(100.0 * histogram_->clipped / histogram_->pixels, 0, 'f', 2)
                       .arg(100.0 * histogram_->crushed / histogram_->pixels, 0, 'f', 2));
}

int ToneFigure::handles() const {
    return document_.is_open() && tone_curve(document_.project().setup) == ToneCurve::own ? 5 : 0;
}

QPointF ToneFigure::handle_at(int i) const {
    const OwnCurve c = own_curve(document_.project().setup);
    const QRectF r = plot();
    return {x_of(c.stops[std::size_t(i)]), r.bottom() - r.height() * c.shown[std::size_t(i)]};
}

int ToneFigure::handle_near(const QPointF& at) const {
    for (int i = handles() - 1; i >= 0; --i)
        if (QLineF(handle_at(i), at).length() <= 9) return i;
    return -1;
}

/// Within its neighbours: the curve rises.
void ToneFigure::drag_handle(int i, double code) {
    const OwnCurve c = own_curve(document_.project().setup);
    const double low = i > 0 ? c.shown[std::size_t(i - 1)] : 0, high = i < 4 ? c.shown[std::size_t(i + 1)] : 1;
    const char* key = own_curve_keys()[std::size_t(i)];
    (void)document_.set(key, std::clamp(code, low, high), QString("setting ") + key);
}

bool ToneFigure::metered() const {
    return document_.is_open() && meters(document_.project().setup, document_.is_flat());
}

/// Where the display can go no further: hairlines, named above.
void ToneFigure::paint_clips(QPainter& p) const {
    const QRectF r = plot();
    p.setPen(QPen(theme().quiet, 1, Qt::DotLine));
    for (const auto& [stops, words] : {std::pair(histogram_->black, tr("black")), {histogram_->white, tr("white")}}) {
        if (stops <= H::low || stops >= H::high) continue;
        const bool left = stops < -5 || x_of(stops) > r.right() - 40;
        p.drawLine(QPointF(x_of(stops), r.top()), QPointF(x_of(stops), r.bottom()));
        p.drawText(QRectF(x_of(stops) + (left ? -63 : 3), r.bottom() - 16, 60, 14),
                   (left ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter, words);
    }
}

/// What the meter found: the pixels between its percentiles, and the luminance that is brought to 0.18.
void ToneFigure::paint_meter(QPainter& p) const {
    const auto& told = bridge_.last_full().told;
    const auto it = told.find(told_luminance);
    if (it == told.end()) return;
    const Theme& t = theme();
    const QRectF r = plot();
    const Setup& setup = document_.project().setup;
    if (histogram_ && setup.choice("exposure.meter") == "histogram") {
        const double from = x_of(histogram_->percentile(0.01 * setup.number("exposure.low"))),
                     to = x_of(histogram_->percentile(0.01 * setup.number("exposure.high")));
        p.setPen(QPen(t.text, 1));
        p.drawLine(QPointF(from, r.bottom() - 2), QPointF(to, r.bottom() - 2));
        for (const double x : {from, to})
            p.drawLine(QPointF(x, r.bottom() - 7), QPointF(x, r.bottom() - 2));
    }
    const double x = x_of(std::log2(it->second.front() * tone::exposure_scale(hand_ev100(bridge_.shown_setup()))));
    p.setPen(Qt::NoPen);
    p.setBrush(t.text);
    p.drawPolygon(QPolygonF({QPointF(x - 5, r.top()), QPointF(x + 5, r.top()), QPointF(x, r.top() + 7)}));
    p.setPen(QPen(t.text, 1));
    p.drawLine(QPointF(x, r.top()), QPointF(x, r.bottom()));
}

/// Stops that the picture is darkened by: what one sets by hand, or what is compensated.
double ToneFigure::hand() const {
    const Setup& s = document_.project().setup;
    return metered() ? -s.number("exposure.compensation") : hand_ev100(s);
}

void ToneFigure::expose(double hand) {
    const auto set = [&](const char* key, double value) {
        const Setting& s = all_settings()[static_cast<std::size_t>(setting_index(key))];
        (void)document_.set(key, std::clamp(value, s.low, s.high),
                            document_.interactive() ? QString("setting ") + key : QString());
    };
    const Setup& s = document_.project().setup;
    if (metered())
        set("exposure.compensation", -hand);
    else if (s.choice("exposure.by") == "camera") // twice the exposures a second, half the light
        set("exposure.shutter", s.number("exposure.shutter") * std::exp2(hand - hand_ev100(s)));
    else
        set("exposure.ev100", hand);
}

void ToneFigure::mousePressEvent(QMouseEvent* e) {
    setFocus();
    if (!document_.is_open() || (!plot().contains(e->position()) && handle_near(e->position()) < 0)) return;
    document_.set_interactive(true);
    held_ = handle_near(e->position());
    if (held_ < 0) drag_ = {stops_at(e->position().x()), hand()};
}

void ToneFigure::mouseMoveEvent(QMouseEvent* e) {
    const double at = stops_at(e->position().x());
    pointer_ = plot().contains(e->position()) ? std::optional(at) : std::nullopt;
    setCursor(pointer_ ? Qt::SizeHorCursor : Qt::ArrowCursor);
    if (held_ >= 0)
        drag_handle(held_, (plot().bottom() - e->position().y()) / plot().height());
    else if (handle_near(e->position()) >= 0)
        setCursor(Qt::SizeVerCursor);
    if (drag_) expose(drag_->second - (at - drag_->first)); // the picture follows the hand
    update();
}

void ToneFigure::mouseReleaseEvent(QMouseEvent*) {
    if (drag_ || held_ >= 0) document_.set_interactive(false);
    drag_.reset();
    held_ = -1;
    update();
}

void ToneFigure::leaveEvent(QEvent*) {
    pointer_.reset();
    update();
}

void ToneFigure::keyPressEvent(QKeyEvent* e) {
    if (!document_.is_open()) return QWidget::keyPressEvent(e);
    const double now = hand();
    const double step = e->modifiers() & Qt::ShiftModifier ? 0.1 : 0.5;
    if (e->key() == Qt::Key_Left)
        expose(now + step);
    else if (e->key() == Qt::Key_Right)
        expose(now - step);
    else
        QWidget::keyPressEvent(e);
}

} // namespace mirolux::app
