#include "app/figures/occlusion_figure.h"
#include "app/setting_editor.h"
#include "app/theme.h"
#include "core/ambient/occlusion.h"
#include "core/base/text.h"
#include "core/path/path_kind.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

namespace mirolux::app {

namespace {

constexpr double wallShare = 0.6;                                   // of the radius: how high the wall stands
constexpr double wallWidth = 14, floorHeight = 16, domeHeight = 96; // pixels; the radius is as long as its dome is high

double fade_of(const Setup& setup) {
    return setup.choice("occlusion.kind") == "horizon" ? setup.number("occlusion.fade") : 0;
}

QString figures_of(double v) {
    return QString::fromStdString(number_text(v, 2));
}

} // namespace

OcclusionFigure::OcclusionFigure(Document& document, const RenderBridge& bridge, QWidget* parent)
    : Figure(document, bridge, parent) {
    setObjectName("occlusion figure");
    setAccessibleName(tr("A floor before a wall, as occlusion darkens it"));
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    setToolTip(tr("A section: how far occlusion looks, from where on things count less, and what it leaves of the "
                  "ambient light of a grey floor. Move along the floor."));
    connect(&document_, &Document::changed, this, qOverload<>(&QWidget::update));
}

QRectF OcclusionFigure::area() const {
    return {4, 5, std::min(width() - 8.0, 272.0), 118};
}

double OcclusionFigure::metres_at(double x) const {
    return document_.project().setup.number("occlusion.radius") * (x - area().left() - wallWidth) / domeHeight;
}

double OcclusionFigure::x_at(double metres) const {
    return area().left() + wallWidth + domeHeight * metres / document_.project().setup.number("occlusion.radius");
}

double OcclusionFigure::open_at(double metres) const {
    const Setup& setup = document_.project().setup;
    const double radius = setup.number("occlusion.radius"),
                 open = std::pow(open_before_wall(metres, wallShare * radius, radius, fade_of(setup)),
                                 setup.number("occlusion.power"));
    return setup.flag("occlusion.bounced") ? bounced_occlusion(open, glm::dvec3(0.5)).x : open;
}

/// The floor's greys: each is a sum over directions, so they are kept while nothing that they come from changes.
const QImage& OcclusionFigure::floor(int width) {
    const Setup& setup = document_.project().setup;
    const std::vector<double> of = {double(width), setup.number("occlusion.radius"), fade_of(setup),
                                    setup.number("occlusion.power"), double(setup.flag("occlusion.bounced"))};
    if (of == floorOf_) return floor_;
    floorOf_ = of;
    floor_ = QImage(width, 1, QImage::Format_RGB32);
    for (int x = 0; x < width; ++x)
        floor_.setPixelColor(x, 0, display_color(glm::vec3(float(0.7 * open_at(metres_at(x_at(0) + x + 0.5))))));
    return floor_;
}

void OcclusionFigure::paintEvent(QPaintEvent*) {
    if (!document_.is_open()) return;
    const Setup& setup = document_.project().setup;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    p.setFont(sized(font(), 11));
    p.setPen(t.quiet);
    if (!occludes_ambient(setup)) {
        p.drawText(rect().adjusted(4, 5, -4, 0), Qt::TextWordWrap,
                   tr("No occlusion on the screen: creases are as bright as open ground, but for what materials' "
                      "textures darken. Choose a kind below."));
        return;
    }
    const QRectF a = area();
    const double radius = setup.number("occlusion.radius"), ground = a.bottom() - floorHeight, left = x_at(0),
                 reach = x_at(radius) - left, fade = fade_of(setup);
    p.save();
    p.setClipRect(a);
    p.drawImage(QRectF(left, ground, a.right() - left, floorHeight), floor(int(a.right() - left)));
    const double top = ground - wallShare * reach;
    p.fillRect(QRectF(a.left(), top, wallWidth, a.bottom() - top), t.line);
    const QPointF at(x_at(pointer_.value_or(0.5 * radius)), ground);
    p.setBrush(Qt::NoBrush);
    const auto dome = [&](double r, Qt::PenStyle style) {
        p.setPen(QPen(t.quiet, 1.2, style));
        p.drawArc(QRectF(at.x() - r, at.y() - r, 2 * r, 2 * r), 0, 180 * 16);
    };
    dome(reach, Qt::SolidLine);
    if (fade > 0 && fade < 1) dome(reach * (1 - fade), Qt::DotLine); // from here on things count less
    p.setPen(QPen(t.text, 1.4));
    p.drawLine(at, QPointF(left, top)); // to the horizon
    p.setBrush(t.text);
    p.drawEllipse(at, 2.5, 2.5);
    p.restore();
    p.setPen(t.quiet);
    const QRectF words(a.left(), a.bottom() + 3, a.width(), 15);
    p.drawText(words, Qt::AlignLeft, tr("a wall of %1 m").arg(figures_of(wallShare * radius)));
    p.drawText(words, Qt::AlignRight, tr("%1 m away").arg(figures_of(metres_at(a.right()))));
    p.setPen(t.text);
    p.drawText(words.translated(0, 17).adjusted(0, 0, 0, 15), Qt::TextWordWrap, words_at(at));
}

QString OcclusionFigure::words_at(const QPointF& point) const {
    if (!document_.is_open() || !occludes_ambient(document_.project().setup)) return {};
    const double d = metres_at(point.x());
    if (d < 0 || !area().adjusted(0, 0, 1, 1).contains(point)) return {};
    const Setup& setup = document_.project().setup;
    const double radius = setup.number("occlusion.radius");
    return tr("%1 m from it %2 of the hemisphere is open; a grey floor keeps %3 of its ambient light.")
        .arg(figures_of(d), figures_of(open_before_wall(d, wallShare * radius, radius, fade_of(setup))),
             figures_of(open_at(d)));
}

void OcclusionFigure::mouseMoveEvent(QMouseEvent* e) {
    if (!document_.is_open()) return;
    const double d = metres_at(e->position().x());
    pointer_ = std::clamp(d, 0.0, metres_at(area().right()));
    update();
}

void OcclusionFigure::leaveEvent(QEvent*) {
    if (!hasFocus()) pointer_.reset();
    update();
}

/// Left and right move the place that is read.
void OcclusionFigure::keyPressEvent(QKeyEvent* e) {
    if (!document_.is_open() || (e->key() != Qt::Key_Left && e->key() != Qt::Key_Right))
        return Figure::keyPressEvent(e);
    const double radius = document_.project().setup.number("occlusion.radius"),
                 step = (e->key() == Qt::Key_Left ? -0.03 : 0.03) * radius;
    pointer_ = std::clamp(pointer_.value_or(0.5 * radius) + step, 0.0, metres_at(area().right()));
    update();
}

} // namespace mirolux::app
