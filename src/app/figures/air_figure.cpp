#include "app/figures/air_figure.h"
#include "app/theme.h"
#include "core/air/froxels.h"
#include "core/base/text.h"
#include "core/sky/sky_model.h"
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>

namespace mirolux::app {

static QString signed_number(double value, int digits = 3) {
    return QString::fromStdString(number_text(value, digits)).replace("-", "\u2212");
}

AirFigure::AirFigure(Document& document, const RenderBridge& bridge, QWidget* parent)
    : Figure(document, bridge, parent) {
    setObjectName("air figure");
    setAccessibleName(tr("How the air scatters, and what it does along the pointer's ray"));
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    setToolTip(tr("Left: light scattered by angle, onward to the right; marks are the angles of the sun and of the "
                  "selected lamps as the pointer's ray sees them. Right: along that ray, extinction (filled), what "
                  "comes through (line), the ends of the slices (ticks)."));
    connect(&document_, &Document::changed, this, qOverload<>(&QWidget::update));
    connect(&document_, &Document::camera_moved, this, qOverload<>(&QWidget::update));
}

void AirFigure::set_way(const std::optional<glm::vec3>& direction) {
    way_ = direction;
    if (isVisible()) update();
}

QRectF AirFigure::lobe() const {
    return {2, 4, 112, 122};
}
QPointF AirFigure::lobe_middle() const {
    return lobe().center() - QPointF(0, 8);
}
QRectF AirFigure::along() const {
    return {146, 10, width() - 154.0, 100};
}
glm::dvec3 AirFigure::way() const {
    const Camera& c = document_.project().view.camera;
    return way_ ? glm::dvec3(*way_) : glm::normalize(glm::dvec3(c.aim) - glm::dvec3(c.eye));
}
AirMedium AirFigure::air() const {
    const Project& p = document_.project();
    return medium(p.setup, p.volumes, p.view.seconds);
}
double AirFigure::far() const {
    const Setup& s = document_.project().setup;
    if (s.choice("air.kind") == "froxels") return 1.25 * s.number("air.far");
    return std::clamp(5 / s.number("air.extinction"), 10.0, 2000.0);
}
/// Metres to what the ray meets; infinite: the sky.
double AirFigure::end_of_ray() const {
    const glm::vec3 d(way());
    const RayHit hit = document_.rays().nearest({document_.project().view.camera.eye, d});
    return hit.object < 0 ? std::numeric_limits<double>::infinity() : double(hit.distance);
}

QString AirFigure::words() const {
    if (!document_.is_open()) return {};
    const AirMedium m = air();
    if (!m.on()) return tr("No fog: choose a kind below.");
    const glm::dvec3 eye(document_.project().view.camera.eye), d = way();
    const double metres = end_of_ray();
    double depth = 0;
    const double until = std::isfinite(metres) ? metres : 20 * far();
    const int steps = 400;
    for (int i = 0; i < steps; ++i)
        depth += air_at(m, eye + d * (until * (i + 0.5) / steps)).extinction * until / steps;
    return std::isfinite(metres)
               ? tr("%1 m of it before the surface: %2 % come through")
                     .arg(signed_number(metres), signed_number(100 * std::exp(-depth), 2))
               : tr("before the sky: %1 % come through").arg(signed_number(100 * std::exp(-depth), 2));
}

void AirFigure::paint_lobe(QPainter& p, const AirMedium& m) const {
    const Theme& t = theme();
    const QRectF r = lobe();
    const QPointF middle = lobe_middle();
    double most = 0;
    for (int i = 0; i <= 180; ++i)
        most = std::max(most, phase(m.phase, std::cos(i / 57.29577951)));
    const double whole = 0.42 * r.width();
    const auto at = [&](double degrees) { // cube roots: a sharp lobe leaves the others to be seen
        const double radius = whole * std::cbrt(phase(m.phase, std::cos(degrees / 57.29577951)) / most);
        return middle + QPointF(radius * std::cos(degrees / 57.29577951), -radius * std::sin(degrees / 57.29577951));
    };
    QPolygonF shape;
    for (int i = -180; i <= 180; i += 3)
        shape << at(i);
    p.setPen(QPen(t.line, 1));
    p.drawEllipse(middle, whole, whole);
    p.setBrush(t.line);
    p.setPen(QPen(t.text, 1.4));
    p.drawPolygon(shape);
    p.setPen(QPen(t.quiet, 1));
    p.drawLine(middle - QPointF(whole + 4, 0), middle);
    p.setBrush(t.quiet);
    p.drawPolygon(QPolygonF{middle, middle + QPointF(-7, -3), middle + QPointF(-7, 3)}); // the light comes in
    // Angles between the way that light travels and the way on to the eye: the pointer's ray turned round.
    const Project& project = document_.project();
    const glm::dvec3 d = way();
    for (const Light& l : lights_of(document_.scene(), project.setup, project.view)) {
        if (!l.enabled || l.type != LightType::directional || l.intensity <= 0) continue;
        const double degrees = std::acos(std::clamp(-glm::dot(glm::dvec3(l.direction), d), -1.0, 1.0)) * 57.29577951;
        p.setPen(QPen(t.text, 1.4, Qt::DashLine));
        p.drawLine(middle, at(degrees));
        p.setBrush(QColor(255, 226, 150));
        p.setPen(QPen(t.panel, 1));
        p.drawEllipse(at(degrees), 4.5, 4.5);
    }
    p.setFont(sized(font(), 11));
    p.setPen(t.quiet);
    const double g = glm::mix(m.phase.first, m.phase.second, m.phase.share);
    p.drawText(QRectF(r.left(), r.bottom() - 16, r.width(), 16), Qt::AlignCenter,
               tr("mean cosine %1").arg(signed_number(g, 2)));
    if (pointer_ && r.contains(*pointer_)) {
        const QPointF v = *pointer_ - middle;
        const double degrees = std::atan2(std::abs(v.y()), v.x()) * 57.29577951;
        p.setPen(QPen(t.text, 1, Qt::DotLine));
        p.drawLine(middle, at(v.y() < 0 ? degrees : -degrees));
    }
}

void AirFigure::paint_along(QPainter& p, const AirMedium& m) const {
    const Theme& t = theme();
    const QRectF r = along();
    const Setup& s = document_.project().setup;
    p.fillRect(r, t.field);
    const glm::dvec3 eye(document_.project().view.camera.eye), d = way();
    const double end = far(), surface = end_of_ray();
    const int steps = std::max(8, int(r.width()));
    std::vector<double> dense;
    double most = m.extinction;
    for (int i = 0; i < steps; ++i) {
        dense.push_back(air_at(m, eye + d * (end * (i + 0.5) / steps)).extinction);
        most = std::max(most, dense.back());
    }
    most *= 1.15;
    QPolygonF filled{r.bottomLeft()}, through;
    double depth = 0;
    for (int i = 0; i < steps; ++i) {
        const double x = r.left() + r.width() * (i + 0.5) / steps;
        filled << QPointF(x, r.bottom() - r.height() * dense[std::size_t(i)] / most);
        depth += dense[std::size_t(i)] * end / steps;
        through << QPointF(x, r.bottom() - r.height() * std::exp(-depth));
    }
    filled << r.bottomRight();
    p.setPen(Qt::NoPen);
    p.setBrush(t.line);
    p.drawPolygon(filled);
    if (std::isfinite(surface) && surface < end) {
        const double x = r.left() + r.width() * surface / end;
        p.fillRect(QRectF(x, r.top(), r.right() - x, r.height()),
                   QColor(t.panel.red(), t.panel.green(), t.panel.blue(), 190));
        p.setPen(QPen(t.quiet, 1));
        p.drawLine(QPointF(x, r.top()), QPointF(x, r.bottom()));
    }
    p.setPen(QPen(t.text, 1.8));
    p.setBrush(Qt::NoBrush);
    p.drawPolyline(through);
    if (s.choice("air.kind") == "froxels") { // as many ticks as there is room for
        const FroxelGrid g = froxel_grid(s, document_.project().view);
        double last = -10;
        for (int i = 0; i <= g.slices; ++i) {
            const double x = r.left() + r.width() * g.begin(i) / end;
            if (x - last < 2.5) continue;
            last = x;
            p.setPen(QPen(t.quiet, 0.8));
            p.drawLine(QPointF(x, r.bottom()), QPointF(x, r.bottom() + 5));
        }
    }
    p.setFont(sized(font(), 11));
    p.setPen(t.quiet);
    p.drawText(QRectF(r.left() - 30, r.top() - 7, 27, 14), Qt::AlignRight | Qt::AlignVCenter, "1");
    p.drawText(QRectF(r.left() - 30, r.bottom() - 9, 27, 14), Qt::AlignRight | Qt::AlignVCenter, "0");
    p.drawText(QRectF(r.left() - 4, r.bottom() + 6, 40, 14), "0");
    p.drawText(QRectF(r.right() - 60, r.bottom() + 6, 64, 14), Qt::AlignRight, tr("%1 m").arg(signed_number(end)));
    p.drawText(QRectF(r.left(), r.top() + 3, r.width() - 4, 14), Qt::AlignRight,
               tr("%1 /m at most").arg(signed_number(most / 1.15, 2)));
}

void AirFigure::paintEvent(QPaintEvent*) {
    if (!document_.is_open()) return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const AirMedium m = air();
    if (m.on()) {
        paint_lobe(p, m);
        paint_along(p, m);
    }
    p.setFont(sized(font(), 11));
    p.setPen(theme().text);
    QString line = words();
    if (pointer_ && m.on() && lobe().contains(*pointer_)) {
        const QPointF v = *pointer_ - lobe_middle();
        const double degrees = std::atan2(std::abs(v.y()), v.x()) * 57.29577951;
        line = tr("turned by %1\u00b0: %2 /sr")
                   .arg(std::lround(degrees))
                   .arg(signed_number(phase(m.phase, std::cos(degrees / 57.29577951))));
    } else if (pointer_ && m.on() && along().contains(*pointer_)) {
        const double metres = far() * (pointer_->x() - along().left()) / along().width();
        const glm::dvec3 at = glm::dvec3(document_.project().view.camera.eye) + way() * metres;
        line = tr("%1 m away: extinction %2 /m").arg(signed_number(metres), signed_number(air_at(m, at).extinction));
    }
    p.drawText(QRectF(4, m.on() ? 132 : 4, width() - 8, 34), Qt::TextWordWrap, line);
}

void AirFigure::mouseMoveEvent(QMouseEvent* e) {
    pointer_ = e->position();
    update();
}

void AirFigure::leaveEvent(QEvent*) {
    pointer_.reset();
    update();
}

} // namespace mirolux::app
