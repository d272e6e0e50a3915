#include "app/figures/ambient_figure.h"
#include "app/setting_editor.h"
#include "app/theme.h"
#include "core/ambient/environment.h"
#include "core/base/text.h"
#include "core/finish/exposure.h"
#include "core/light/brdf.h"
#include "core/light/tone.h"
#include "core/sky/panorama.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>
#include <functional>
#include <glm/gtc/constants.hpp>

namespace mirolux::app {

/// The surroundings in small, and averaged over the lobes of metals.
template <std::size_t Count>
static std::array<SkyPicture, 1 + Count> pictures_of(const SkyModel& model,
                                                     const std::array<double, Count>& roughness) {
    std::array<SkyPicture, 1 + Count> out;
    out[0].image = panorama(160, [&](const glm::dvec3& d) { return model.radiance(d); });
    for (std::size_t i = 0; i < Count; ++i) {
        if (roughness[i] <= 0) {
            out[i + 1].image = out[0].image;
            continue;
        }
        const std::vector<LobeSample> lobe = lobe_samples(roughness[i], 96);
        out[i + 1].image = panorama(48, [&](const glm::dvec3& n) {
            const glm::dvec3 t = glm::normalize(
                                 glm::cross(std::abs(n.y) < 0.9 ? glm::dvec3(0, 1, 0) : glm::dvec3(1, 0, 0), n)),
                             b = glm::cross(n, t);
            glm::dvec3 sum(0.0);
            for (const LobeSample& s : lobe)
                sum += out[0].radiance(t * s.direction.x + b * s.direction.y + n * s.direction.z) * s.weight;
            return sum;
        });
    }
    return out;
}

AmbientFigure::AmbientFigure(Document& document, const RenderBridge& bridge, QWidget* parent)
    : Figure(document, bridge, parent), sky_(nullptr, [this](const SkyModel& model) {
          auto pictures = pictures_of(model, metals);
          const std::lock_guard lock(mutex_);
          pictures_ = std::move(pictures);
      }) {
    setObjectName("ambient figure");
    setAccessibleName(tr("A ball lit by the ambient light"));
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    setToolTip(tr("A white ball that only ambient light reaches, seen as the camera looks. Move over it to read what "
                  "arrives there."));
    connect(&document_, &Document::changed, this, &AmbientFigure::ask);
    connect(&document_, &Document::camera_moved, this, &AmbientFigure::ask);
    connect(&sky_, &SkyAside::ready, this, qOverload<>(&QWidget::update));
}

QRectF AmbientFigure::ball() const {
    return {4, 5, 140, 140};
}

bool AmbientFigure::around() const {
    return document_.is_open() && document_.project().setup.choice("ambient.kind") == "environment";
}

QRectF AmbientFigure::strip() const {
    return {4, 154, std::min(width() - 8.0, 272.0), 84};
}

QRectF AmbientFigure::metal(int which) const {
    return {4.0 + 76 * which, 246, 56, 56};
}

glm::dvec3 AmbientFigure::mirrored(const glm::dvec3& normal) const {
    const Camera& c = document_.project().view.camera;
    return glm::reflect(glm::normalize(glm::dvec3(c.aim) - glm::dvec3(c.eye)), normal);
}

std::optional<glm::dvec3> AmbientFigure::direction_at(const QPointF& point) const {
    const QRectF s = strip();
    if (!around() || !s.contains(point)) return {};
    const double azimuth = 2 * glm::pi<double>() * ((point.x() - s.left()) / s.width() - 0.5),
                 polar = glm::pi<double>() * (point.y() - s.top()) / s.height();
    return glm::dvec3(std::sin(polar) * std::sin(azimuth), std::cos(polar), -std::sin(polar) * std::cos(azimuth));
}

std::optional<glm::dvec3> AmbientFigure::normal_at(const QPointF& point) const {
    return normal_on(ball(), point);
}

std::optional<glm::dvec3> AmbientFigure::normal_on(const QRectF& b, const QPointF& point) const {
    const double x = (point.x() - b.center().x()) / (b.width() / 2),
                 y = (b.center().y() - point.y()) / (b.height() / 2), r2 = x * x + y * y;
    if (r2 > 1) return {};
    const glm::dmat3 toWorld = glm::dmat3(glm::transpose(glm::mat3(view_matrix(document_.project().view.camera))));
    return toWorld * glm::dvec3(x, y, std::sqrt(1 - r2));
}

AmbientLight AmbientFigure::present() const {
    const Setup& setup = document_.project().setup;
    AmbientLight ambient = ambient_light(setup);
    if (setup.choice("ambient.kind") == "environment") {
        ambient.sky = sky_.model();
        ambient.strength = environment_strength(setup);
    }
    return ambient;
}

void AmbientFigure::ask() {
    updateGeometry();
    update();
    if (!document_.is_open() || !isVisible() || document_.project().setup.choice("ambient.kind") != "environment")
        return;
    const Project& p = document_.project();
    sky_.ask(environment_sky(document_.scene(), p.setup, p.view));
}

QString AmbientFigure::words_at(const QPointF& point) const {
    if (!document_.is_open()) return {};
    const auto number = [](double v) { return QString::fromStdString(number_text(v, 3)); };
    const auto light = [&](const glm::dvec3& l) {
        return tr("%1  %2  %3 cd/m\u00b2").arg(number(l.x), number(l.y), number(l.z));
    };
    const auto height = [&](const glm::dvec3& d) { return number(std::asin(std::clamp(d.y, -1.0, 1.0)) * 57.29578); };
    if (const auto n = normal_at(point))
        return tr("facing %1, %2, %3\n%4\u00b0 above level\n")
                   .arg(number(n->x), number(n->y), number(n->z), height(*n)) +
               light(ambient_radiance(present(), *n));
    const std::lock_guard lock(mutex_);
    if (!around() || pictures_[0].image.data.empty()) return {};
    const double strength = environment_strength(document_.project().setup);
    if (const auto d = direction_at(point))
        return tr("from %1\u00b0, %2\u00b0 above level\n").arg(number(std::atan2(d->x, -d->z) * 57.29578), height(*d)) +
               light(pictures_[0].radiance(*d) * strength);
    for (int i = 0; i < int(metals.size()); ++i)
        if (const auto n = normal_on(metal(i), point)) {
            const glm::dvec3 d = mirrored(*n);
            return tr("roughness %1 mirrors what comes from %2\u00b0, %3\u00b0 above level\n")
                       .arg(number(metals[static_cast<std::size_t>(i)]), number(std::atan2(d.x, -d.z) * 57.29578),
                            height(d)) +
                   light(pictures_[static_cast<std::size_t>(i) + 1].radiance(d) * strength);
        }
    return {};
}

/// The surroundings' picture and the metal balls.
void AmbientFigure::paint_around(QPainter& p, double scale) {
    const std::lock_guard lock(mutex_);
    if (pictures_[0].image.data.empty()) return;
    const Theme& t = theme();
    const auto seen = [&](const glm::dvec3& l) {
        const glm::dvec3 e = l * scale;
        return display_color(glm::vec3(e / (1.0 + 0.6 * std::max({e.x, e.y, e.z, 0.0}))));
    };
    const QRectF s = strip();
    QImage image(s.size().toSize(), QImage::Format_RGB32);
    for (int y = 0; y < image.height(); ++y)
        for (int x = 0; x < image.width(); ++x)
            image.setPixelColor(x, y,
                                seen(pictures_[0].radiance(*direction_at(s.topLeft() + QPointF(x + 0.5, y + 0.5)))));
    p.drawImage(s.topLeft(), image);
    p.setFont(sized(font(), 11));
    for (int i = 0; i < int(metals.size()); ++i) {
        const QRectF b = metal(i);
        QImage round(b.size().toSize(), QImage::Format_ARGB32_Premultiplied);
        round.fill(Qt::transparent);
        for (int y = 0; y < round.height(); ++y)
            for (int x = 0; x < round.width(); ++x)
                if (const auto n = normal_on(b, b.topLeft() + QPointF(x + 0.5, y + 0.5)))
                    round.setPixelColor(x, y, seen(pictures_[static_cast<std::size_t>(i) + 1].radiance(mirrored(*n))));
        p.drawImage(b.topLeft(), round);
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(t.line, 1));
        p.drawEllipse(b);
        p.setPen(t.quiet);
        const QString words = metals[static_cast<std::size_t>(i)] <= 0
                                  ? tr("mirror")
                                  : tr("rough %1").arg(metals[static_cast<std::size_t>(i)]);
        p.drawText(QRectF(b.left() - 10, b.bottom() + 1, b.width() + 20, 16), Qt::AlignCenter, words);
    }
}

/// In the surroundings' picture: the half of all directions that a matt place sees, or where a lobe falls to half.
void AmbientFigure::paint_seen(QPainter& p) {
    if (!pointer_) return;
    glm::dvec3 axis(0.0);
    double angle = 0; // from the axis, radians
    if (const auto n = normal_at(*pointer_)) {
        axis = *n;
        angle = 0.5 * glm::pi<double>();
    }
    for (int i = 0; i < int(metals.size()); ++i)
        if (const auto n = normal_on(metal(i), *pointer_)) {
            axis = mirrored(*n);
            const double alpha = std::pow(std::max(metals[static_cast<std::size_t>(i)], brdf::least_roughness), 2),
                         c2 = (1 - alpha * alpha * (std::sqrt(2.0) - 1) / (1 - alpha * alpha)); // GGX halved
            angle = std::max(0.06, 2 * std::acos(std::sqrt(std::clamp(c2, 0.0, 1.0))));
        }
    if (angle == 0) return;
    const glm::dvec3 side = glm::normalize(
                         glm::cross(axis, std::abs(axis.y) < 0.9 ? glm::dvec3(0, 1, 0) : glm::dvec3(1, 0, 0))),
                     up = glm::cross(side, axis);
    const QRectF s = strip();
    QPainterPath line;
    double last = 0;
    for (int i = 0; i <= 96; ++i) {
        const double turn = 2 * glm::pi<double>() * i / 96;
        const glm::dvec3 d = axis * std::cos(angle) + (side * std::cos(turn) + up * std::sin(turn)) * std::sin(angle);
        const double u = std::atan2(d.x, -d.z) / (2 * glm::pi<double>()) + 0.5,
                     v = std::acos(std::clamp(d.y, -1.0, 1.0)) / glm::pi<double>();
        const QPointF at(s.left() + u * s.width(), s.top() + v * s.height());
        if (i == 0 || std::abs(u - last) > 0.5)
            line.moveTo(at);
        else
            line.lineTo(at);
        last = u;
    }
    p.save();
    p.setClipRect(s);
    for (const QPen& pen : {QPen(QColor(0, 0, 0, 180), 3), QPen(QColor(246, 242, 232), 1.2)}) {
        p.setPen(pen);
        p.drawPath(line);
    }
    p.restore();
}

void AmbientFigure::paintEvent(QPaintEvent*) {
    if (!document_.is_open()) return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    const QRectF b = ball();
    const AmbientLight ambient = present();
    const double scale = tone::exposure_scale(hand_ev100(bridge_.shown_setup()));
    QImage image(b.size().toSize(), QImage::Format_ARGB32_Premultiplied);
    image.fill(Qt::transparent);
    double most = 0;
    std::vector<glm::vec3> colors = {ambient.top, ambient.side, ambient.bottom};
    if (ambient.sky)
        for (const glm::dvec3& n : {glm::dvec3(0, 1, 0), glm::dvec3(1, 0, 0), glm::dvec3(0, 0, 1), glm::dvec3(-1, 0, 0),
                                    glm::dvec3(0, 0, -1)})
            colors.emplace_back(ambient_radiance(ambient, n));
    for (const glm::vec3& c : colors)
        most = std::max({most, double(c.r), double(c.g), double(c.b)});
    const double lift = most * scale > 0 ? 0.75 / (most * scale) : 0; // the brightest direction near white
    for (int y = 0; y < image.height(); ++y)
        for (int x = 0; x < image.width(); ++x)
            if (const auto n = normal_at(b.topLeft() + QPointF(x + 0.5, y + 0.5)))
                image.setPixelColor(x, y, display_color(glm::vec3(ambient_radiance(ambient, *n) * scale * lift)));
    p.drawImage(b.topLeft(), image);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.line, 1));
    p.drawEllipse(b);
    p.setFont(sized(font(), 11));
    p.setPen(t.quiet);
    const QRectF beside(b.right() + 14, b.top() + 4, width() - b.right() - 16, b.height());
    const double stops = lift > 0 ? std::log2(lift) : 0;
    if (around()) {
        paint_around(p, scale * lift * ambient.strength);
        paint_seen(p);
        p.setPen(t.quiet);
    }
    p.drawText(beside, Qt::TextWordWrap,
               most > 0 ? tr("A white ball under ambient light alone, %1 %2 stops for reading.")
                              .arg(stops >= 0 ? tr("lifted") : tr("lowered"))
                              .arg(std::abs(stops), 0, 'f', 1)
               : sky_.busy() ? tr("The surroundings' light is being summed.")
                             : tr("No ambient light: what no lamp reaches is black."));
    if (!pointer_ || words_at(*pointer_).isEmpty()) return;
    p.setPen(t.text);
    p.drawText(beside.adjusted(0, 66, 0, 0), Qt::TextWordWrap, words_at(*pointer_));
    for (const QPen& pen : {QPen(QColor(0, 0, 0, 180), 3), QPen(QColor(246, 242, 232), 1.2)}) {
        p.setPen(pen);
        p.drawEllipse(*pointer_, 5, 5);
    }
}

void AmbientFigure::mouseMoveEvent(QMouseEvent* e) {
    pointer_ = e->position();
    update();
}

void AmbientFigure::leaveEvent(QEvent*) {
    if (!hasFocus()) pointer_.reset();
    update();
}

/// Arrow keys move the place that is read.
void AmbientFigure::keyPressEvent(QKeyEvent* e) {
    QPointF at = pointer_.value_or(ball().center());
    const std::pair<int, QPointF> steps[] = {
        {Qt::Key_Left, {-6, 0}}, {Qt::Key_Right, {6, 0}}, {Qt::Key_Up, {0, -6}}, {Qt::Key_Down, {0, 6}}};
    for (const auto& [key, step] : steps)
        if (e->key() == key) {
            pointer_ = normal_at(at + step) || !words_at(at + step).isEmpty() ? at + step : at;
            return update();
        }
    QWidget::keyPressEvent(e);
}

} // namespace mirolux::app
