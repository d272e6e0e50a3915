#include "app/figures/light_figure.h"
#include "app/deck_page.h"
#include "app/figures/light_values.h"
#include "app/setting_editor.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainterPath>

namespace mirolux::app {

/// A knob in two tones, so that it reads on any ground.
static void paint_knob(QPainter& p, const QPointF& at, bool lit) {
    p.setPen(QPen(theme().panel, 4));
    p.setBrush(theme().text);
    p.drawEllipse(at, lit ? 6 : 4.5, lit ? 6 : 4.5);
    p.setPen(QPen(theme().text, 1.2));
    p.drawEllipse(at, lit ? 6 : 4.5, lit ? 6 : 4.5);
}

double LightFigure::Axes::x(double metres) const {
    return plot.left() + plot.width() * std::log(metres / near) / std::log(far / near);
}
double LightFigure::Axes::y(double lux) const {
    return plot.bottom() -
           plot.height() * std::clamp(std::log(std::max(lux, 1e-12) / bottom) / std::log(top / bottom), 0.0, 1.0);
}
double LightFigure::Axes::metres(double x) const {
    return near * std::pow(far / near, (x - plot.left()) / plot.width());
}
double LightFigure::Axes::lux(double y) const {
    return bottom * std::pow(top / bottom, (plot.bottom() - y) / plot.height());
}

LightFigure::LightFigure(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setObjectName("light figure");
    setAccessibleName(tr("Fall-off and cone of the light"));
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    connect(&document_, &Document::changed, this, qOverload<>(&QWidget::update));
}

void LightFigure::set_light(int id) {
    id_ = id;
    pulled_ = under_ = Knob::none;
    held_.reset();
    update();
}

const Light* LightFigure::light() const {
    return document_.is_open() ? document_.light(id_) : nullptr;
}

double LightFigure::reach(const Light& l) const {
    return derived_range(l, static_cast<float>(document_.project().setup.number("light.threshold")));
}

QRectF LightFigure::section() const {
    const Light* l = light();
    return l && l->type == LightType::spot ? QRectF(width() - 92.0, 16, 90, height() - 38.0) : QRectF();
}

std::optional<LightFigure::Axes> LightFigure::axes() const {
    if (held_) return held_;
    const Light* l = light();
    if (!l || l->type == LightType::directional || l->intensity <= 0) return std::nullopt;
    Axes a;
    a.plot = QRectF(42, 16, width() - 48.0 - (section().isEmpty() ? 0 : 98), height() - 38.0);
    const double r = reach(*l);
    a.near = std::max(0.1, r / 100);
    a.far = r * 1.6;
    a.top = l->intensity / (a.near * a.near) * 2;
    a.bottom = std::max(l->intensity / (a.far * a.far) * 0.1, 1e-6);
    return a;
}

/// Where the edge of a cone of this angle leaves the section; the light shines down.
QPointF LightFigure::edge(double angle) const {
    const QRectF r = section();
    const double length = r.height() - 14;
    return {r.center().x() + length * std::sin(angle) * 0.5, r.top() + 8 + length * std::cos(angle)};
}

std::optional<QPointF> LightFigure::knob(Knob which) const {
    const Light* l = light();
    const auto a = axes();
    if (!l || !a) return std::nullopt;
    if (which == Knob::range) return QPointF(a->x(reach(*l)), a->plot.bottom());
    if (which == Knob::intensity) {
        const double metres = std::sqrt(a->near * reach(*l));
        return QPointF(a->x(metres), a->y(l->intensity * distance_attenuation(metres, 0, 0, window_of(document_))));
    }
    if (section().isEmpty() || which == Knob::none) return std::nullopt;
    return edge(which == Knob::inner ? -l->innerConeAngle : l->outerConeAngle);
}

LightFigure::Knob LightFigure::near_knob(const QPointF& at) const {
    for (const Knob k : {Knob::outer, Knob::inner, Knob::intensity, Knob::range})
        if (const auto place = knob(k); place && QLineF(*place, at).length() < 11) return k;
    return Knob::none;
}

QString LightFigure::words_at(const QPointF& point) const {
    const Light* l = light();
    const auto a = axes();
    if (!l || !a || !a->plot.adjusted(-2, -2, 2, 8).contains(point)) return {};
    const double d = a->metres(point.x());
    return tr("%1 m: %2 lx")
        .arg(number(d), number(l->intensity * distance_attenuation(d, l->range, reach(*l), window_of(document_))));
}

void LightFigure::change(const QString& label, const std::function<void(Light&)>& put, bool drag) {
    document_.edit_light(label, id_, put, drag ? "light figure " + label : QString());
}

void LightFigure::pull(const QPointF& at) {
    const auto a = axes();
    if (!a) return;
    if (pulled_ == Knob::range)
        change(
            tr("range"), [&](Light& l) { l.range = static_cast<float>(std::clamp(a->metres(at.x()), 0.1, 1000.0)); },
            true);
    if (pulled_ == Knob::intensity) {
        const double metres = a->metres(knob(Knob::intensity)->x());
        change(
            tr("intensity"),
            [&](Light& l) {
                l.intensity = static_cast<float>(std::clamp(a->lux(at.y()) * metres * metres, 0.01, 1e6));
            },
            true);
    }
    if (pulled_ != Knob::inner && pulled_ != Knob::outer) return;
    const QRectF r = section();
    const QPointF from = at - QPointF(r.center().x(), r.top() + 8);
    const auto angle =
        static_cast<float>(std::clamp(std::atan2(std::abs(from.x()) * 2, std::max(from.y(), 1e-3)), 0.0, 1.5707));
    if (pulled_ == Knob::outer)
        change(
            tr("outer cone"),
            [&](Light& l) {
                l.outerConeAngle = std::max(angle, 0.0175f);
                l.innerConeAngle = std::min(l.innerConeAngle, l.outerConeAngle);
            },
            true);
    else
        change(
            tr("inner cone"), [&](Light& l) { l.innerConeAngle = std::min(angle, l.outerConeAngle); }, true);
}

void LightFigure::mousePressEvent(QMouseEvent* e) {
    setFocus();
    pulled_ = near_knob(e->position());
    if (pulled_ == Knob::none) return;
    held_ = axes();
    document_.set_interactive(true);
}

void LightFigure::mouseMoveEvent(QMouseEvent* e) {
    pointer_ = e->position();
    if (pulled_ != Knob::none)
        pull(e->position());
    else
        under_ = near_knob(e->position());
    setCursor(under_ == Knob::none ? Qt::ArrowCursor : Qt::PointingHandCursor);
    update();
}

void LightFigure::mouseReleaseEvent(QMouseEvent*) {
    if (pulled_ == Knob::none) return;
    pulled_ = Knob::none;
    held_.reset();
    document_.set_interactive(false);
    update();
}

void LightFigure::leaveEvent(QEvent*) {
    pointer_.reset();
    under_ = Knob::none;
    update();
}

void LightFigure::keyPressEvent(QKeyEvent* e) {
    const Light* l = light();
    const double share = e->modifiers() & Qt::ShiftModifier ? 1.01 : 1.05;
    const bool across = e->key() == Qt::Key_Left || e->key() == Qt::Key_Right,
               up = e->key() == Qt::Key_Up || e->key() == Qt::Key_Down;
    if (!l || l->type == LightType::directional || (!across && !up)) return QWidget::keyPressEvent(e);
    const auto factor = static_cast<float>(e->key() == Qt::Key_Right || e->key() == Qt::Key_Up ? share : 1 / share);
    const auto from = static_cast<float>(reach(*l));
    if (across)
        change(
            tr("range"), [&](Light& x) { x.range = std::clamp(from * factor, 0.1f, 1000.0f); }, false);
    else
        change(
            tr("intensity"), [&](Light& x) { x.intensity = std::clamp(x.intensity * factor, 0.01f, 1e6f); }, false);
}

void LightFigure::paint_grid(QPainter& p, const Axes& a) const {
    const Theme& t = theme();
    p.setPen(Qt::NoPen);
    p.setBrush(t.field);
    p.drawRect(a.plot);
    p.setFont(sized(font(), 11));
    for (double v = std::pow(10, std::ceil(std::log10(a.bottom))); v < a.top; v *= 10) {
        p.setPen(QPen(t.line, 0.6));
        p.drawLine(QPointF(a.plot.left(), a.y(v)), QPointF(a.plot.right(), a.y(v)));
        if (std::fmod(std::round(std::log10(v)), 2.0) == 0.0) {
            p.setPen(t.quiet);
            p.drawText(QRectF(0, a.y(v) - 8, 38, 16), Qt::AlignRight | Qt::AlignVCenter, number(v, 1));
        }
    }
    for (double d = std::pow(10, std::ceil(std::log10(a.near))); d < a.far; d *= 10) {
        p.setPen(QPen(t.line, 0.6));
        p.drawLine(QPointF(a.x(d), a.plot.top()), QPointF(a.x(d), a.plot.bottom()));
        p.setPen(t.quiet);
        p.drawText(QRectF(a.x(d) - 24, a.plot.bottom() + 6, 48, 15), Qt::AlignHCenter, number(d, 2) + " m");
    }
    p.setPen(t.quiet);
    p.drawText(QRectF(0, 0, 38, 14), Qt::AlignRight, "lx");
}

void LightFigure::paint_curves(QPainter& p, const Axes& a, const Light& l) const {
    const Theme& t = theme();
    QPainterPath plain, windowed;
    for (int i = 0; i <= 140; ++i) {
        const double d = a.near * std::pow(a.far / a.near, i / 140.0);
        const QPointF free(a.x(d), a.y(l.intensity * distance_attenuation(d, 0, 0, window_of(document_)))),
            held(a.x(d), a.y(l.intensity * distance_attenuation(d, l.range, reach(l), window_of(document_))));
        if (i == 0)
            plain.moveTo(free), windowed.moveTo(held);
        else
            plain.lineTo(free), windowed.lineTo(held);
    }
    p.setClipRect(a.plot);
    QPainterPath area = windowed;
    area.lineTo(a.plot.right(), a.plot.bottom());
    area.lineTo(a.plot.left(), a.plot.bottom());
    QColor own = display_color(effective_color(l));
    own.setAlpha(70);
    p.fillPath(area, own);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.quiet, 1, Qt::DashLine));
    p.drawPath(plain);
    p.setPen(QPen(t.text, 1.8));
    p.drawPath(windowed);
    if (pointer_ && pulled_ == Knob::none && a.plot.contains(*pointer_)) {
        p.setPen(QPen(t.quiet, 1, Qt::DotLine));
        p.drawLine(QPointF(pointer_->x(), a.plot.top()), QPointF(pointer_->x(), a.plot.bottom()));
    }
    p.setClipping(false);
}

void LightFigure::paint_section(QPainter& p, const Light& l) const {
    const QRectF r = section();
    if (r.isEmpty()) return;
    const Theme& t = theme();
    const QPointF tip(r.center().x(), r.top() + 8);
    const auto sector = [&](double angle) {
        QPainterPath path(tip);
        for (int i = -24; i <= 24; ++i)
            path.lineTo(edge(angle * i / 24));
        path.closeSubpath();
        return path;
    };
    QColor own = display_color(effective_color(l));
    own.setAlpha(60);
    p.fillPath(sector(l.outerConeAngle), own);
    own.setAlpha(120);
    p.fillPath(sector(l.innerConeAngle), own);
    p.setPen(QPen(t.text, 1.2));
    for (const double side : {-1.0, 1.0})
        p.drawLine(tip, edge(side * l.outerConeAngle));
    p.setPen(QPen(t.text, 1, Qt::DashLine));
    for (const double side : {-1.0, 1.0})
        p.drawLine(tip, edge(side * l.innerConeAngle));
    p.setFont(sized(font(), 11));
    p.setPen(t.quiet);
    p.drawText(
        QRectF(r.left(), height() - 17.0, r.width(), 15), Qt::AlignHCenter,
        tr("%1\u00b0 in %2\u00b0").arg(number(glm::degrees(l.innerConeAngle)), number(glm::degrees(l.outerConeAngle))));
}

void LightFigure::paint_knobs(QPainter& p) const {
    const Light& l = *light();
    const Knob lit = pulled_ != Knob::none ? pulled_ : under_;
    for (const Knob k : {Knob::range, Knob::intensity, Knob::inner, Knob::outer})
        if (const auto place = knob(k)) paint_knob(p, *place, lit == k);
    QString words = pointer_ && pulled_ == Knob::none && under_ == Knob::none ? words_at(*pointer_) : QString();
    if (lit == Knob::range) words = tr("range %1 m").arg(number(reach(l)));
    if (lit == Knob::intensity) words = tr("%1 cd: %1 lx at 1 m").arg(number(l.intensity));
    if (lit == Knob::inner) words = tr("full up to %1\u00b0").arg(number(glm::degrees(l.innerConeAngle)));
    if (lit == Knob::outer) words = tr("dark from %1\u00b0").arg(number(glm::degrees(l.outerConeAngle)));
    if (words.isEmpty()) words = tr("lux facing the light, over distance");
    p.setFont(sized(font(), 11));
    p.setPen(lit == Knob::none && !pointer_ ? theme().quiet : theme().text);
    p.drawText(QRectF(46, 0, width() - 46.0, 15), Qt::AlignLeft | Qt::AlignVCenter, words);
}

void LightFigure::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Light* l = light();
    const auto a = axes();
    if (!l || !a) return;
    paint_grid(p, *a);
    paint_curves(p, *a, *l);
    paint_section(p, *l);
    paint_knobs(p);
    if (!hasFocus()) return;
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(theme().quiet, 1));
    p.drawRect(a->plot);
}

} // namespace mirolux::app
