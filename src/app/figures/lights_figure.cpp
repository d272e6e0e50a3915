#include "app/deck_page.h"
#include "app/figures/light_figure.h"
#include "app/figures/light_values.h"
#include "app/setting_editor.h"
#include "core/light/luminance.h"
#include "core/scene/geometry.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainterPath>

namespace mirolux::app {

LightsFigure::LightsFigure(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setObjectName("lights figure");
    setAccessibleName(tr("Light on the ground along a line"));
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    connect(&document_, &Document::changed, this, &LightsFigure::make);
    connect(&document_, &Document::settled, this, &LightsFigure::make);
    connect(&document_, &Document::camera_moved, this, [this] {
        if (ids_.empty() && !document_.interactive()) make();
    });
}

void LightsFigure::set_lights(const std::vector<int>& ids) {
    ids_ = ids;
    make();
}

/// What lies under a point, or the point's own height less 3 m where nothing does.
static double ground_under(const RayScene& rays, const glm::dvec3& point) {
    const RayHit hit = rays.nearest({glm::vec3(point) - glm::vec3(0, 0.3f, 0), {0, -1, 0}});
    return hit.object >= 0 ? point.y - 0.3 - hit.distance : point.y - 3.0;
}

/// Through the selected lights that are farthest apart, a fifth more at each end; or 40 m ahead of the camera.
std::pair<glm::dvec3, glm::dvec3> LightsFigure::line() const {
    std::vector<glm::dvec3> places;
    for (const int id : ids_)
        if (const Light* l = document_.light(id); l && l->type != LightType::directional)
            places.push_back(glm::dvec3(l->position));
    glm::dvec3 from(0), to(0);
    if (places.empty()) {
        const Camera& c = document_.project().view.camera;
        glm::dvec3 ahead = glm::dvec3(c.aim) - glm::dvec3(c.eye);
        ahead.y = 0;
        from = glm::dvec3(c.eye);
        to = from + glm::normalize(glm::length(ahead) > 1e-6 ? ahead : glm::dvec3(0, 0, -1)) * 40.0;
    } else {
        from = to = places.front();
        for (const glm::dvec3& a : places)
            for (const glm::dvec3& b : places)
                if (glm::distance(a, b) > glm::distance(from, to)) from = a, to = b;
        glm::dvec3 step = (to - from) * 0.2;
        if (glm::length(step) < 2) step = glm::normalize(glm::length(step) > 0 ? step : glm::dvec3(1, 0, 0)) * 8.0;
        from -= step;
        to += step;
        // The ground under the lights, not under where the line leaves them.
        const double height =
            std::min(ground_under(document_.rays(), places.front()), ground_under(document_.rays(), places.back()));
        from.y = to.y = height;
        return {from, to};
    }
    from.y = to.y = ground_under(document_.rays(), from);
    return {from, to};
}

void LightsFigure::make() {
    if (!isVisible() || !document_.is_open() || document_.interactive()) return;
    shares_.clear();
    sum_.fill(0);
    const auto [from, to] = line();
    length_ = glm::distance(from, to);
    const auto threshold = static_cast<float>(document_.project().setup.number("light.threshold"));
    for (const Light& l : document_.project().lights) {
        if (!l.enabled || (!ids_.empty() && std::find(ids_.begin(), ids_.end(), l.id) == ids_.end())) continue;
        Share share{l.id, {}};
        const double reach = derived_range(l, threshold);
        for (int i = 0; i < samples; ++i) {
            const glm::dvec3 point = from + (to - from) * (i / double(samples - 1));
            const glm::dvec3 toLight =
                l.type == LightType::directional ? -glm::dvec3(l.direction) : glm::dvec3(l.position) - point;
            const double facing = std::max(0.0, glm::normalize(toLight).y);
            share.lux[static_cast<std::size_t>(i)] =
                static_cast<float>(luminance(normal_irradiance(l, point, reach, window_of(document_))) * facing);
        }
        if (*std::max_element(share.lux.begin(), share.lux.end()) <= 0) continue;
        for (std::size_t i = 0; i < samples; ++i)
            sum_[i] += share.lux[i];
        shares_.push_back(share);
    }
    most_ = std::max(1e-3, double(*std::max_element(sum_.begin(), sum_.end())));
    std::sort(shares_.begin(), shares_.end(), [](const Share& a, const Share& b) {
        return *std::max_element(a.lux.begin(), a.lux.end()) > *std::max_element(b.lux.begin(), b.lux.end());
    });
    update();
}

QRectF LightsFigure::plot() const {
    return {30, 18, width() - 36.0, height() - 38.0};
}

double LightsFigure::y(double lux) const {
    return plot().bottom() - plot().height() * lux / (most_ * 1.08);
}

QString LightsFigure::words_at(const QPointF& point) const {
    if (!plot().contains(point) || shares_.empty()) return {};
    const auto i = static_cast<std::size_t>(std::lround((point.x() - plot().left()) / plot().width() * (samples - 1)));
    const Share* most = &shares_.front();
    for (const Share& s : shares_)
        if (s.lux[i] > most->lux[i]) most = &s;
    QString text = tr("%1 m: %2 lx").arg(number(length_ * double(i) / (samples - 1)), number(sum_[i]));
    if (const Light* l = document_.light(most->light); l && most->lux[i] > 0)
        text += tr(", %1 of it %2").arg(number(most->lux[i]), QString::fromStdString(l->name));
    return text;
}

void LightsFigure::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    const QRectF r = plot();
    p.fillRect(r, t.field);
    p.setFont(sized(font(), 11));
    const auto x = [&](std::size_t i) { return r.left() + r.width() * double(i) / (samples - 1); };
    for (const double step = round_step(most_ * 1.08, 3); const double k : {0.0, 1.0, 2.0, 3.0}) {
        if (k * step > most_ * 1.08) break;
        p.setPen(QPen(t.line, 0.6));
        p.drawLine(QPointF(r.left(), y(k * step)), QPointF(r.right(), y(k * step)));
        p.setPen(t.quiet);
        p.drawText(QRectF(0, y(k * step) - 8, 26, 16), Qt::AlignRight | Qt::AlignVCenter, number(k * step, 2));
    }
    for (double m = 0, step = round_step(std::max(length_, 1e-3), 5); m <= length_; m += step)
        p.drawText(QRectF(r.left() + r.width() * m / std::max(length_, 1e-3) - 24, r.bottom() + 3, 48, 15),
                   Qt::AlignHCenter, number(m) + (m == 0 ? " m" : ""));
    for (const Share& s : shares_) {
        const Light* l = document_.light(s.light);
        if (!l) continue;
        QPainterPath area(QPointF(r.left(), r.bottom()));
        for (std::size_t i = 0; i < samples; ++i)
            area.lineTo(x(i), y(s.lux[i]));
        area.lineTo(r.right(), r.bottom());
        QColor own = display_color(effective_color(*l));
        own.setAlpha(shares_.size() > 8 ? 40 : 80);
        p.fillPath(area, own);
    }
    QPainterPath line;
    for (std::size_t i = 0; i < samples; ++i)
        i == 0 ? line.moveTo(x(i), y(sum_[i])) : line.lineTo(x(i), y(sum_[i]));
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.text, 1.6));
    p.drawPath(line);
    QString words = ids_.empty() ? tr("lux on the ground ahead, all lights")
                                 : tr("lux on the ground through %n lights", nullptr, int(ids_.size()));
    if (at_) {
        const QPointF place(r.left() + *at_ * r.width(), r.center().y());
        words = words_at(place);
        p.setPen(QPen(t.quiet, 1, Qt::DotLine));
        p.drawLine(QPointF(place.x(), r.top()), QPointF(place.x(), r.bottom()));
    }
    p.setPen(at_ ? t.text : t.quiet);
    p.drawText(QRectF(0, 0, double(width()), 16), Qt::AlignVCenter,
               p.fontMetrics().elidedText(words, Qt::ElideRight, width()));
}

void LightsFigure::mouseMoveEvent(QMouseEvent* e) {
    at_ = plot().contains(e->position()) ? std::optional((e->position().x() - plot().left()) / plot().width())
                                         : std::nullopt;
    update();
}

void LightsFigure::leaveEvent(QEvent*) {
    at_.reset();
    update();
}

void LightsFigure::keyPressEvent(QKeyEvent* e) {
    if (e->key() != Qt::Key_Left && e->key() != Qt::Key_Right) return QWidget::keyPressEvent(e);
    at_ = std::clamp(at_.value_or(0.5) + (e->key() == Qt::Key_Left ? -0.02 : 0.02), 0.0, 1.0);
    update();
}

} // namespace mirolux::app
