#include "app/figures/subsurface_figure.h"
#include "app/setting_editor.h"
#include "app/theme.h"
#include "core/base/text.h"
#include "core/surface/subsurface.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <array>
#include <cmath>

namespace mirolux::app {

static constexpr std::array<double, 4> radii = {0.005, 0.015, 0.05, 0.15}; // metres
static const glm::dvec3 to_light = glm::normalize(glm::dvec3(-0.9, 0.25, 0.1));

static QString figures(double v, int digits = 3) {
    return QString::fromStdString(number_text(v, digits));
}

/// How far the balls' material lets light go where the setup lets it go nowhere: so that what would be is seen.
static brdf::Optics optics_of(const Material& m, const Setup& setup) {
    brdf::Optics o = m.optics;
    o.scatterDistance *= static_cast<float>(setup.number("subsurface.distance"));
    return o;
}

SubsurfaceFigure::SubsurfaceFigure(Document& document, const RenderBridge& bridge, QWidget* parent)
    : Figure(document, bridge, parent) {
    setObjectName("subsurface figure");
    setAccessibleName(tr("Balls that let light in, and how far it goes"));
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    setToolTip(tr("Balls of the material, lit from the left as the setup has it, and how far light of each colour goes "
                  "beneath its surface. Left and right: another material."));
    connect(&document_, &Document::changed, this, qOverload<>(&QWidget::update));
}

std::vector<const Material*> SubsurfaceFigure::materials() const {
    std::vector<const Material*> out;
    if (document_.is_open() && !document_.is_flat())
        for (const Material& m : document_.asset()->materials)
            if (m.optics.scatterDistance != glm::vec3(0.0f)) out.push_back(&m);
    return out;
}

const Material* SubsurfaceFigure::material() const {
    const auto all = materials();
    return all.empty() ? nullptr : all[static_cast<std::size_t>(chosen_) % all.size()];
}

QRectF SubsurfaceFigure::ball(int which) const {
    return {4 + 68.0 * which, 4, 60, 60};
}

QRectF SubsurfaceFigure::plot() const {
    return {4, 92, std::min(width() - 8.0, 268.0), 88};
}

static std::optional<glm::dvec3> normal_on(const QRectF& ball, const QPointF& point) {
    const double x = (point.x() - ball.center().x()) / (ball.width() / 2),
                 y = (ball.center().y() - point.y()) / (ball.height() / 2), r2 = x * x + y * y;
    if (r2 > 1) return {};
    return glm::dvec3(x, y, std::sqrt(1 - r2));
}

void SubsurfaceFigure::paint_balls(QPainter& p, const brdf::Optics& optics) {
    const Setup& setup = document_.project().setup;
    const glm::dvec3 color(material()->baseColor);
    for (int i = 0; i < int(radii.size()); ++i) {
        const QRectF b = ball(i);
        constexpr int steps = 180; // of the angle to the light
        std::array<glm::dvec3, steps + 1> shade;
        for (int k = 0; k <= steps; ++k)
            shade[static_cast<std::size_t>(k)] =
                ball_shade(setup, optics, radii[static_cast<std::size_t>(i)], std::cos(glm::pi<double>() * k / steps));
        QImage image(b.size().toSize() * 2, QImage::Format_ARGB32_Premultiplied);
        image.fill(Qt::transparent);
        for (int y = 0; y < image.height(); ++y)
            for (int x = 0; x < image.width(); ++x)
                if (const auto n = normal_on(QRectF(0, 0, image.width(), image.height()), QPointF(x + 0.5, y + 0.5))) {
                    const double place =
                        std::acos(std::clamp(glm::dot(*n, to_light), -1.0, 1.0)) / glm::pi<double>() * steps;
                    const auto low = static_cast<std::size_t>(std::min(place, steps - 1.0));
                    image.setPixelColor(
                        x, y,
                        display_color(glm::vec3(color * glm::mix(shade[low], shade[low + 1], place - double(low)))));
                }
        p.drawImage(b, image);
        p.setPen(theme().quiet);
        p.drawText(QRectF(b.left() - 4, b.bottom() + 2, b.width() + 8, 16), Qt::AlignCenter,
                   tr("%1 mm").arg(figures(2000 * radii[static_cast<std::size_t>(i)])));
    }
}

/// What share of the light comes out within a distance along one axis, and what goes through as much.
void SubsurfaceFigure::paint_profile(QPainter& p, const brdf::Optics& optics) {
    const Theme& t = theme();
    const QRectF r = plot();
    const glm::dvec3 distance(optics.scatterDistance);
    const double most = 3 * brdf::largest(distance);
    p.setPen(t.line);
    p.drawLine(r.bottomLeft(), r.bottomRight());
    p.drawLine(r.bottomLeft(), r.topLeft());
    const QColor colors[] = {QColor(0xD0, 0x5A, 0x48), QColor(0x5E, 0x9E, 0x52), QColor(0x4E, 0x86, 0xC8)};
    for (int c = 0; c < 3; ++c) {
        if (distance[c] <= 0) continue;
        const std::vector<ScatterTap> taps = scatter_taps(glm::dvec3(distance[c]), 129);
        QPainterPath within, through;
        double sum = 0;
        for (std::size_t i = 64; i < taps.size(); ++i) {
            sum += taps[i].weight.x * (i == 64 ? 1 : 2);
            const QPointF at(r.left() + taps[i].metres / most * r.width(),
                             r.bottom() - std::min(sum, 1.0) * r.height());
            i == 64 ? within.moveTo(at) : within.lineTo(at);
        }
        within.lineTo(r.right(), r.top());
        for (int i = 0; i <= 96; ++i) {
            const double metres = most * i / 96;
            const QPointF at(r.left() + r.width() * i / 96,
                             r.bottom() - through_slab(metres, glm::dvec3(distance[c])).x * r.height());
            i == 0 ? through.moveTo(at) : through.lineTo(at);
        }
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(colors[c], 1.6));
        p.drawPath(within);
        p.setPen(QPen(colors[c], 1.4, Qt::DotLine));
        p.drawPath(through);
    }
    p.setPen(t.quiet);
    p.drawText(QRectF(r.left() - 2, r.bottom() + 2, r.width(), 14), Qt::AlignLeft, tr("0"));
    p.drawText(QRectF(r.left(), r.bottom() + 2, r.width(), 14), Qt::AlignRight, tr("%1 mm").arg(figures(1000 * most)));
    p.drawText(QRectF(r.left() + 14, r.bottom() + 2, r.width() - 64, 14), Qt::AlignCenter,
               tr("out within \u2014    through \u00b7\u00b7\u00b7"));
}

void SubsurfaceFigure::paintEvent(QPaintEvent*) {
    if (!document_.is_open()) return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setFont(sized(font(), 11));
    const Theme& t = theme();
    const Material* m = material();
    if (!m) {
        p.setPen(t.quiet);
        p.drawText(QRectF(4, 4, width() - 8.0, 110), Qt::TextWordWrap,
                   tr("No material of this scene tells how far light goes beneath its surface. It is told in a glTF "
                      "material's extras: \"scatterDistance\": [r, g, b] in metres, and \"thickness\"."));
        return;
    }
    const brdf::Optics optics = optics_of(*m, document_.project().setup);
    paint_balls(p, optics);
    paint_profile(p, optics);
    p.setPen(pointer_ && !words_at(*pointer_).isEmpty() ? t.text : t.quiet);
    const glm::vec3 mm = 1000.0f * optics.scatterDistance;
    const QString said = pointer_ ? words_at(*pointer_) : QString();
    p.drawText(QRectF(4, 198, width() - 8.0, 34), Qt::TextWordWrap,
               !said.isEmpty()
                   ? said
                   : tr("%1: light goes %2, %3, %4 mm; balls by their diameters.")
                         .arg(QString::fromStdString(m->name), figures(mm.x), figures(mm.y), figures(mm.z)));
}

QString SubsurfaceFigure::words_at(const QPointF& point) const {
    const Material* m = document_.is_open() ? material() : nullptr;
    if (!m) return {};
    const Setup& setup = document_.project().setup;
    const brdf::Optics optics = optics_of(*m, setup);
    const auto triple = [](const glm::dvec3& v) {
        return QString("%1  %2  %3").arg(figures(v.x, 2), figures(v.y, 2), figures(v.z, 2));
    };
    for (int i = 0; i < int(radii.size()); ++i)
        if (const auto n = normal_on(ball(i), point)) {
            const double cosine = glm::dot(*n, to_light), degrees = std::acos(std::clamp(cosine, -1.0, 1.0)) * 57.29578;
            return (degrees <= 90 ? tr("%1\u00b0 from the light: ").arg(figures(degrees, 2))
                                  : tr("%1\u00b0 past the terminator: ").arg(figures(degrees - 90, 2))) +
                   triple(ball_shade(setup, optics, radii[static_cast<std::size_t>(i)], cosine));
        }
    if (const QRectF r = plot(); r.contains(point)) {
        const double metres =
            3 * brdf::largest(glm::dvec3(optics.scatterDistance)) * (point.x() - r.left()) / r.width();
        return tr("%1 mm thick lets through %2")
            .arg(figures(1000 * metres, 2), triple(through_slab(metres, glm::dvec3(optics.scatterDistance))));
    }
    return {};
}

void SubsurfaceFigure::mouseMoveEvent(QMouseEvent* e) {
    pointer_ = e->position();
    update();
}

void SubsurfaceFigure::leaveEvent(QEvent*) {
    pointer_.reset();
    update();
}

void SubsurfaceFigure::keyPressEvent(QKeyEvent* e) {
    const int count = static_cast<int>(materials().size());
    const int step = e->key() == Qt::Key_Right ? 1 : e->key() == Qt::Key_Left ? -1 : 0;
    if (step == 0 || count == 0) return QWidget::keyPressEvent(e);
    chosen_ = (chosen_ + step + count) % count;
    update();
}

} // namespace mirolux::app
