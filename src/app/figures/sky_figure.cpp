#include "app/figures/sky_figure.h"
#include "app/setting_editor.h"
#include "app/theme.h"
#include "core/base/text.h"
#include "core/light/luminance.h"
#include <QFileInfo>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>

namespace mirolux::app {

static constexpr double lowest = -18; // degrees, at the dome's edge
static constexpr int domePixels = 60;

static QString figure_text(double value, int digits = 3) {
    return QString::fromStdString(number_text(value, digits)).replace("-", "\u2212");
}

static QString lux_text(double lux) {
    return lux >= 1000 ? QObject::tr("%1 klx").arg(figure_text(lux / 1000))
                       : QObject::tr("%1 lx").arg(figure_text(lux));
}

static SkyPlace place_in_dome(double x, double y) { // -1 to 1, y up
    return {90 - std::hypot(x, y) * (90 - lowest), std::atan2(x, y) * 57.29577951};
}

/// The dome in small, lifted so that its brighter parts come near white.
static QImage paint_dome(const SkyModel& model) {
    QImage image(domePixels, domePixels, QImage::Format_ARGB32_Premultiplied);
    image.fill(Qt::transparent);
    std::vector<glm::dvec3> light(std::size_t(domePixels) * domePixels, glm::dvec3(0.0));
    std::vector<double> values;
    for (int y = 0; y < domePixels; ++y)
        for (int x = 0; x < domePixels; ++x) {
            const SkyPlace place = place_in_dome(2 * (x + 0.5) / domePixels - 1, 1 - 2 * (y + 0.5) / domePixels);
            if (place.elevation < lowest - 4) continue;
            const glm::dvec3 l = model.radiance(direction_of(place));
            light[static_cast<std::size_t>(y * domePixels + x)] = l;
            if (place.elevation > 0) values.push_back(luminance(l));
        }
    std::sort(values.begin(), values.end());
    const double high = values.empty() ? 0 : values[values.size() * 9 / 10];
    for (int y = 0; y < domePixels; ++y)
        for (int x = 0; x < domePixels; ++x) {
            const glm::dvec3 l = light[static_cast<std::size_t>(y * domePixels + x)] * (high > 0 ? 1.2 / high : 0);
            image.setPixelColor(x, y, display_color(glm::vec3(l / (1.0 + luminance(l)))));
        }
    return image;
}

SkyFigure::SkyFigure(Document& document, const RenderBridge& bridge, QWidget* parent)
    : Figure(document, bridge, parent), sky_(nullptr, [this](const SkyModel& model) {
          QImage image = paint_dome(model);
          const std::lock_guard lock(paintMutex_);
          painted_ = std::move(image);
      }) {
    setObjectName("sky figure");
    setAccessibleName(tr("The sky over the camera, with sun and moon"));
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    setToolTip(tr("The whole sky: zenith in the middle, north up, the horizon as a ring. Drag sun and moon; a double "
                  "click puts the sun there; arrow keys move it."));
    connect(&document_, &Document::changed, this, &SkyFigure::ask);
    connect(&document_, &Document::camera_moved, this, &SkyFigure::ask);
    connect(&sky_, &SkyAside::ready, this, [this] {
        {
            const std::lock_guard lock(paintMutex_);
            image_ = painted_;
        }
        update();
    });
}

QRectF SkyFigure::dome() const {
    return {4, 4, 150, 150};
}

SkySettings SkyFigure::settings() const {
    const Project& p = document_.project();
    return sky_settings(document_.scene(), p.setup, p.view);
}

bool SkyFigure::movable() const {
    const Setup& s = document_.project().setup;
    return settings().has_sun() && s.choice("sun.by") == "angles";
}

QPointF SkyFigure::point_of(const SkyPlace& place) const {
    const double r = 0.5 * dome().width() * (90 - std::max(place.elevation, lowest)) / (90 - lowest),
                 a = place.azimuth / 57.29577951;
    return dome().center() + QPointF(r * std::sin(a), -r * std::cos(a));
}

std::optional<SkyPlace> SkyFigure::place_at(const QPointF& point) const {
    const QPointF v = (point - dome().center()) / (0.5 * dome().width());
    if (std::hypot(v.x(), v.y()) > 1) return {};
    SkyPlace place = place_in_dome(v.x(), -v.y());
    if (place.azimuth < 0) place.azimuth += 360;
    return place;
}

void SkyFigure::ask() {
    update();
    if (document_.is_open() && isVisible()) sky_.ask(settings());
}

QString SkyFigure::words_at(const QPointF& point) const {
    const auto place = place_at(point);
    if (!place || !sky_.model()) return {};
    const double l = luminance(sky_.model()->radiance(direction_of(*place)));
    return tr("%1\u00b0 high, azimuth %2\u00b0: %3 cd/m\u00b2")
        .arg(figure_text(place->elevation, 2), figure_text(std::round(place->azimuth)), figure_text(l));
}

void SkyFigure::paint_marks(QPainter& p) const {
    const Theme& t = theme();
    const QRectF d = dome();
    p.setBrush(Qt::NoBrush);
    for (const auto& [elevation, width] : {std::pair{0.0, 1.4}, {30.0, 0.5}, {60.0, 0.5}}) {
        const double r = 0.5 * d.width() * (90 - elevation) / (90 - lowest);
        p.setPen(QPen(QColor(0, 0, 0, 110), width + 1.2));
        p.drawEllipse(d.center(), r, r);
        p.setPen(QPen(QColor(246, 242, 232, 200), width));
        p.drawEllipse(d.center(), r, r);
    }
    p.setPen(QPen(t.line, 1));
    p.drawEllipse(d);
    p.setFont(sized(font(), 11, QFont::DemiBold));
    const std::pair<const char*, double> names[] = {{"N", 0}, {"E", 90}, {"S", 180}, {"W", 270}};
    for (const auto& [name, azimuth] : names) {
        const QPointF at = point_of({-10, azimuth});
        p.setPen(QColor(246, 242, 232));
        p.drawText(QRectF(at.x() - 10, at.y() - 9, 20, 18), Qt::AlignCenter, name);
    }
    // Where the camera looks: a wedge as wide as its picture.
    const View& view = document_.project().view;
    const glm::dvec3 ahead = glm::dvec3(view.camera.aim) - glm::dvec3(view.camera.eye);
    if (std::hypot(ahead.x, ahead.z) < 1e-6) return;
    const double heading = place_of(glm::normalize(ahead)).azimuth,
                 half = std::atan(std::tan(0.5 * view.camera.fovY) * aspect_of(view)) * 57.29577951;
    QPainterPath wedge(d.center());
    wedge.arcTo(d.adjusted(2, 2, -2, -2), 90 - heading + half, -2 * half);
    wedge.closeSubpath();
    p.setPen(QPen(QColor(246, 242, 232, 150), 1, Qt::DotLine));
    p.drawPath(wedge);
}

void SkyFigure::paint_body(QPainter& p, Body body) const {
    const SkySettings s = settings();
    const SkyBody& b = body == Body::sun ? s.sun : s.moon;
    const SkyPlace place = place_of(b.direction);
    const QPointF at = point_of(place);
    const bool up = place.elevation > -0.5;
    const QColor fill = body == Body::sun ? QColor(255, 226, 150) : QColor(222, 228, 238);
    p.setPen(QPen(QColor(0, 0, 0, 190), 3));
    p.setBrush(Qt::NoBrush);
    p.drawEllipse(at, 6, 6);
    p.setPen(QPen(QColor(246, 242, 232), 1.3));
    p.setBrush(up ? QBrush(fill) : Qt::NoBrush); // hollow under the horizon
    p.drawEllipse(at, 6, 6);
    if (body == Body::moon) { // a bite
        QPainterPath moon, bite;
        moon.addEllipse(at, 5.4, 5.4);
        bite.addEllipse(at + QPointF(3.4, -1.2), 4.6, 4.6);
        p.setPen(Qt::NoPen);
        p.setBrush(QColor(40, 44, 56));
        p.drawPath(moon.intersected(bite));
    }
}

QStringList SkyFigure::words() const {
    const SkySettings s = settings();
    if (s.kind == SkyKind::file) {
        QStringList out = {
            QFileInfo(QString::fromStdString(s.picture->path)).fileName(),
            tr("%1 \u00d7 %2 texels; -Z at the top.").arg(s.picture->image.width).arg(s.picture->image.height)};
        if (sky_.model()) out << tr("Sky %1").arg(lux_text(luminance(sky_.model()->irradiance())));
        return out;
    }
    if (!s.trouble.empty()) return {QString::fromStdString(s.trouble), tr("Two colours stand in.")};
    if (s.kind == SkyKind::colors)
        return {tr("Two colours from horizon to zenith, the scene's own."),
                tr("No sun stands in this sky: choose fitted or atmosphere.")};
    const auto of = [&](const QString& name, const SkyBody& b) {
        const double lux = luminance(light_at_eye(s, b));
        return tr("%1 %2\u00b0 high, %3").arg(name, figure_text(place_of(b.direction).elevation), lux_text(lux));
    };
    QStringList out = {of(tr("Sun"), s.sun), of(tr("Moon"), s.moon)};
    if (sky_.model()) out << tr("Sky %1").arg(lux_text(luminance(sky_.model()->irradiance())));
    const std::vector<Light>& lights = document_.project().lights;
    const int light = sky_light(lights, document_.project().setup);
    out << (light < 0 ? tr("No light of the scene follows them.")
                      : tr("The light \u201c%1\u201d shines as the %2.")
                            .arg(QString::fromStdString(lights[static_cast<std::size_t>(light)].name),
                                 &key_body(s) == &s.sun ? tr("sun") : tr("moon")));
    return out;
}

void SkyFigure::paintEvent(QPaintEvent*) {
    if (!document_.is_open()) return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    const Theme& t = theme();
    const QRectF d = dome();
    QPainterPath round;
    round.addEllipse(d);
    p.save();
    p.setClipPath(round);
    p.fillRect(d, QColor(24, 26, 30));
    p.drawImage(d, image_);
    p.restore();
    paint_marks(p);
    if (settings().has_sun()) {
        paint_body(p, Body::moon);
        paint_body(p, Body::sun);
    }
    p.setFont(sized(font(), 11));
    const QStringList lines = words();
    double y = d.top() + 2;
    for (int i = 0; i < lines.size(); ++i) {
        const QRectF row(d.right() + 12, y, width() - d.right() - 14, 60);
        p.setPen(i < 2 ? t.text : t.quiet);
        QRectF used;
        p.drawText(row, Qt::TextWordWrap, lines[i], &used);
        y = used.bottom() + 7;
    }
    p.setPen(t.quiet);
    const QString under = pointer_ ? words_at(*pointer_) : QString();
    const QString hint = document_.project().setup.choice("sun.by") == "date" ? tr("By date: set day and hour below.")
                                                                              : tr("Drag sun and moon.");
    p.drawText(QRectF(4, d.bottom() + 8, width() - 8, 16), Qt::AlignVCenter,
               !under.isEmpty()       ? under
               : settings().has_sun() ? hint
                                      : QString());
}

std::optional<SkyFigure::Body> SkyFigure::body_at(const QPointF& point) const {
    if (!document_.is_open() || !movable()) return {};
    const SkySettings s = settings();
    const auto off = [&](const SkyBody& b) {
        const QPointF v = point_of(place_of(b.direction)) - point;
        return std::hypot(v.x(), v.y());
    };
    const double sun = off(s.sun), moon = off(s.moon);
    if (std::min(sun, moon) > 12) return {};
    return sun <= moon ? Body::sun : Body::moon;
}

void SkyFigure::put(Body body, const SkyPlace& place) {
    const std::string name = body == Body::sun ? "sun" : "moon";
    const double elevation = std::clamp(std::round(place.elevation * 10) / 10, -90.0, 90.0);
    double azimuth = std::round(place.azimuth * 10) / 10;
    azimuth -= 360 * std::floor(azimuth / 360);
    const QString key = "place of the " + QString::fromStdString(name);
    document_.edit(
        tr("%1 to %2\u00b0, azimuth %3\u00b0")
            .arg(body == Body::sun ? tr("sun") : tr("moon"), figure_text(elevation), figure_text(azimuth)),
        [&](Project& p) {
            (void)p.setup.set(name + ".elevation", elevation);
            (void)p.setup.set(name + ".azimuth", azimuth);
        },
        document_.interactive() ? key : QString());
}

void SkyFigure::mousePressEvent(QMouseEvent* e) {
    setFocus();
    drag_ = body_at(e->position());
    if (drag_) document_.set_interactive(true);
}

void SkyFigure::mouseMoveEvent(QMouseEvent* e) {
    pointer_ = e->position();
    if (drag_) {
        QPointF v = e->position() - dome().center();
        const double r = std::hypot(v.x(), v.y()), most = 0.5 * dome().width();
        if (r > most) v *= most / r * 0.9999;
        if (const auto place = place_at(dome().center() + v)) put(*drag_, *place);
    }
    setCursor(drag_ || body_at(e->position()) ? Qt::SizeAllCursor : Qt::ArrowCursor);
    update();
}

void SkyFigure::mouseReleaseEvent(QMouseEvent*) {
    if (drag_) document_.set_interactive(false);
    drag_.reset();
}

void SkyFigure::mouseDoubleClickEvent(QMouseEvent* e) {
    if (!document_.is_open() || !movable()) return;
    if (const auto place = place_at(e->position())) put(Body::sun, *place);
}

void SkyFigure::leaveEvent(QEvent*) {
    pointer_.reset();
    update();
}

void SkyFigure::keyPressEvent(QKeyEvent* e) {
    const double step = e->modifiers() & Qt::ShiftModifier ? 0.1 : 1;
    const std::pair<int, SkyPlace> steps[] = {
        {Qt::Key_Left, {0, -step}}, {Qt::Key_Right, {0, step}}, {Qt::Key_Up, {step, 0}}, {Qt::Key_Down, {-step, 0}}};
    for (const auto& [key, by] : steps)
        if (e->key() == key && document_.is_open() && movable()) {
            const Setup& s = document_.project().setup;
            return put(Body::sun, {s.number("sun.elevation") + by.elevation, s.number("sun.azimuth") + by.azimuth});
        }
    QWidget::keyPressEvent(e);
}

} // namespace mirolux::app
