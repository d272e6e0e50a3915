#include "app/figures/tone_figure.h"
#include "app/theme.h"
#include "core/base/text.h"
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
           "it. Drag sideways to expose."));
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
    const Setup& setup = document_.project().setup;
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
    QString line;
    if (pointer_) {
        const double exposed = std::exp2(*pointer_),
                     luminance = exposed / tone::exposure_scale(setup.number("exposure.ev100"));
        p.setPen(QPen(t.text, 1, Qt::DashLine));
        p.drawLine(QPointF(x_of(*pointer_), r.top()), QPointF(x_of(*pointer_), r.bottom()));
        line = tr("%1 stops: %2 cd/m\u00b2 becomes %3 of 255")
                   .arg(QString::number(*pointer_, 'f', 1).replace("-", "\u2212"),
                        QString::fromStdString(number_text(luminance, 3)))
                   .arg(std::lround(255 * displayed(exposed, setup)));
    } else
        line = tr("stops around white at EV100 %1").arg(setup.number("exposure.ev100"), 0, 'f', 1);
    p.setPen(t.quiet);
    p.drawText(QRectF(0, height() - 34, width(), 15), Qt::AlignVCenter, line);
    if (histogram_ && histogram_->pixels)
        p.drawText(QRectF(0, height() - 18, width(), 15), Qt::AlignVCenter,
                   tr("clipped: %1 % of the pixels, crushed: %2 %")
                       .arg(100.0 * histogram_->clipped / histogram_->pixels, 0, 'f', 2)
                       .arg(100.0 * histogram_->crushed / histogram_->pixels, 0, 'f', 2));
}

void ToneFigure::expose(double ev100) {
    const Setting& s = all_settings()[static_cast<std::size_t>(setting_index("exposure.ev100"))];
    (void)document_.set("exposure.ev100", std::clamp(ev100, s.low, s.high),
                        document_.interactive() ? "setting exposure.ev100" : QString());
}

void ToneFigure::mousePressEvent(QMouseEvent* e) {
    setFocus();
    if (!document_.is_open() || !plot().contains(e->position())) return;
    drag_ = {stops_at(e->position().x()), document_.project().setup.number("exposure.ev100")};
    document_.set_interactive(true);
}

void ToneFigure::mouseMoveEvent(QMouseEvent* e) {
    const double at = stops_at(e->position().x());
    pointer_ = plot().contains(e->position()) ? std::optional(at) : std::nullopt;
    setCursor(pointer_ ? Qt::SizeHorCursor : Qt::ArrowCursor);
    if (drag_) expose(drag_->second - (at - drag_->first)); // the picture follows the hand
    update();
}

void ToneFigure::mouseReleaseEvent(QMouseEvent*) {
    if (drag_) document_.set_interactive(false);
    drag_.reset();
}

void ToneFigure::leaveEvent(QEvent*) {
    pointer_.reset();
    update();
}

void ToneFigure::keyPressEvent(QKeyEvent* e) {
    const double ev = document_.is_open() ? document_.project().setup.number("exposure.ev100") : 0;
    const double step = e->modifiers() & Qt::ShiftModifier ? 0.1 : 0.5;
    if (e->key() == Qt::Key_Left)
        expose(ev + step);
    else if (e->key() == Qt::Key_Right)
        expose(ev - step);
    else
        QWidget::keyPressEvent(e);
}

} // namespace mirolux::app
