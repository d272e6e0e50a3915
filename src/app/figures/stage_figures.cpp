#include "app/figures/stage_figures.h"
#include "app/marks.h"
#include "app/setting_editor.h"
#include "app/theme.h"
#include "core/flat/flat_light.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

namespace mirolux::app {

WayFigure::WayFigure(Document& document, const RenderBridge& bridge, QWidget* parent)
    : Figure(document, bridge, parent) {
    setObjectName("way figure");
    setAccessibleName(tr("How the picture is made"));
    connect(&bridge, &RenderBridge::thumbnails_ready, this, [this](const QMap<QString, QImage>& pictures) {
        if (!document_.is_flat()) return;
        pictures_ = pictures;
        update();
    });
    connect(&document_, &Document::changed, this, qOverload<>(&QWidget::update));
}

void WayFigure::paintEvent(QPaintEvent*) {
    if (!document_.is_flat()) return;
    QPainter p(this);
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    p.setFont(sized(font(), 11));
    const std::string& kind = document_.project().setup.choice("flat.kind");
    const bool cut = kind == "cut", grade = kind == "grade", computed = kind == "compute";
    const struct {
        QString layer, words;
    } tiles[] = {{grade ? "graded" : "unlit", grade ? tr("graded") : tr("sheets")},
                 {cut        ? "darkness"
                  : grade    ? "lamps"
                  : computed ? "computed"
                             : "lightmask",
                  cut        ? tr("dark layer")
                  : grade    ? tr("lamps")
                  : computed ? tr("lights")
                             : tr("mask")},
                 {"final", tr("picture")}};
    const QString signs[] = {cut ? "\u2212" : grade ? "+" : "\u00d7", "="};
    constexpr int gap = 20;
    const int wide = (width() - 2 * gap) / 3, tall = wide * 9 / 16, top = 10;
    for (int i = 0; i < 3; ++i) {
        const QRect r(i * (wide + gap), top, wide, tall);
        p.fillRect(r, theme().pictureSurround);
        if (const QImage picture = pictures_.value(tiles[i].layer); !picture.isNull()) p.drawImage(r, picture);
        p.setPen(theme().line);
        p.setBrush(Qt::NoBrush);
        p.drawRect(r);
        p.setPen(theme().text);
        p.drawText(QRect(r.left(), r.bottom() + 3, wide, 16), Qt::AlignCenter, tiles[i].words);
        if (i < 2) {
            p.setFont(sized(font(), 15));
            p.drawText(QRect(r.right() + 1, r.top(), gap, tall), Qt::AlignCenter, signs[i]);
            p.setFont(sized(font(), 11));
        }
    }
    p.setPen(theme().quiet);
    p.drawText(QRect(0, top + tall + 22, width(), 34), Qt::AlignLeft | Qt::TextWordWrap,
               grade ? tr("The scene is tinted by the time of day; where lamps fall, the sheet shows in their colour.")
               : cut ? tr("Lights are subtracted from a dark layer; what is left of it hides the sheets.")
                     : tr("Ambient and lights are summed; each sheet's colour is multiplied by the sum, 1 at most."));
}

SeenFigure::SeenFigure(Document& document, const RenderBridge& bridge, QWidget* parent)
    : Figure(document, bridge, parent) {
    setObjectName("seen figure");
    setAccessibleName(tr("What a place sees past the walls"));
    setToolTip(tr("Rest on a place: what a light would see from there, exactly. Arrow keys: the lights' places."));
    connect(&document_, &Document::changed, this, qOverload<>(&QWidget::update));
}

QRectF SeenFigure::drawing() const {
    const flat::World& w = *document_.project().flat;
    const QSizeF size =
        QSizeF(w.high.x - w.low.x, w.high.y - w.low.y).scaled(width(), height() - 22, Qt::KeepAspectRatio);
    return {(width() - size.width()) / 2, 2, size.width(), size.height()};
}

void SeenFigure::paintEvent(QPaintEvent*) {
    if (!document_.is_flat()) return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const flat::World& w = *document_.project().flat;
    const QRectF r = drawing();
    const glm::dvec2 low(w.low), size(w.high - w.low);
    const auto at = [&](const glm::dvec2& u) {
        return QPointF(r.left() + (u.x - low.x) / size.x * r.width(), r.bottom() - (u.y - low.y) / size.y * r.height());
    };
    p.fillRect(r, theme().pictureSurround);
    p.setClipRect(r);
    const std::vector<flat::Occluder> outlines = flat::outlines_of(w);
    const std::vector<flat::Edge> edges = flat::edges_of(outlines);
    std::optional<glm::dvec2> place;
    QColor color = ivory;
    QString words;
    const auto& lights = document_.project().lights;
    if (pointer_) {
        place =
            low + size * glm::dvec2((pointer_->x() - r.left()) / r.width(), (r.bottom() - pointer_->y()) / r.height());
        words = tr("this place");
    } else
        for (std::size_t i = 0; i < lights.size() && !place; ++i) {
            const Light& l = lights[(static_cast<std::size_t>(light_) + i) % lights.size()];
            if (l.type == LightType::directional) continue;
            place = glm::dvec2(l.position);
            color = display_color(effective_color(l));
            words = QString::fromStdString(l.name);
        }
    share_.reset();
    if (place) {
        const glm::dvec2 farthest = glm::max(glm::abs(*place - low), glm::abs(low + size - *place));
        const auto seen = flat::visible_polygon(edges, *place, std::max(farthest.x, farthest.y) * 1.01);
        QPainterPath path;
        for (std::size_t i = 0; i < seen.size(); ++i)
            i == 0 ? path.moveTo(at(seen[i])) : path.lineTo(at(seen[i]));
        path.closeSubpath();
        color.setAlpha(110);
        p.fillPath(path, color);
        // Within the stage, on a grid of places.
        int inside = 0, all = 0;
        for (int y = 0; y < 18; ++y)
            for (int x = 0; x < 32; ++x, ++all)
                inside += flat::within(seen, *place, low + size * glm::dvec2((x + 0.5) / 32, (y + 0.5) / 18));
        share_ = double(inside) / all;
    }
    p.setPen(QPen(theme().text, 1.2));
    for (const flat::Occluder& o : outlines) {
        QPainterPath path;
        for (std::size_t i = 0; i < o.points.size(); ++i)
            i == 0 ? path.moveTo(at(o.points[i])) : path.lineTo(at(o.points[i]));
        if (o.closed) path.closeSubpath();
        p.drawPath(path);
    }
    for (const Light& l : lights)
        if (l.type != LightType::directional) paint_mark(p, l, at(glm::dvec2(l.position)), std::nullopt, 3);
    if (place) {
        p.setPen(QPen(QColor(0, 0, 0, 200), 1.2));
        p.setBrush(ivory);
        p.drawEllipse(at(*place), 3.5, 3.5);
    }
    p.setClipping(false);
    p.setPen(theme().quiet);
    p.setFont(sized(font(), 11));
    p.drawText(QRectF(0, height() - 18, width(), 18), Qt::AlignLeft | Qt::AlignVCenter,
               share_ ? tr("%1 sees %2 % of the stage; %3 edges stop light.")
                            .arg(words)
                            .arg(qRound(*share_ * 100))
                            .arg(edges.size())
                      : tr("%1 edges stop light.").arg(edges.size()));
}

void SeenFigure::mouseMoveEvent(QMouseEvent* e) {
    if (!document_.is_flat()) return;
    const QRectF r = drawing();
    pointer_ = r.contains(e->position()) ? std::optional(e->position()) : std::nullopt;
    update();
}

void SeenFigure::leaveEvent(QEvent*) {
    pointer_.reset();
    update();
}

void SeenFigure::keyPressEvent(QKeyEvent* e) {
    const int count = document_.is_open() ? static_cast<int>(document_.project().lights.size()) : 0;
    const int step = e->key() == Qt::Key_Right || e->key() == Qt::Key_Down ? 1
                     : e->key() == Qt::Key_Left || e->key() == Qt::Key_Up  ? -1
                                                                           : 0;
    if (step == 0 || count == 0) return QWidget::keyPressEvent(e);
    light_ = (light_ + step + count) % count;
    update();
}

LightPicture::LightPicture(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    setObjectName("light picture");
    setAccessibleName(tr("What the light gives around its place"));
    setToolTip(
        tr("What the light gives around its place, without shadows; the curve is its fall from the middle out."));
    connect(&document_, &Document::changed, this, qOverload<>(&QWidget::update));
}

void LightPicture::set_light(int id) {
    id_ = id;
    update();
}

void LightPicture::paintEvent(QPaintEvent*) {
    const Light* l = document_.light(id_);
    if (!l || !document_.is_flat()) return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const int side = height() - 8;
    const QRect r(0, 4, side, side), plot(side + 14, 4, width() - side - 16, side);
    glm::dvec2 low, high;
    flat::bounds_of(*l, *document_.project().flat, low, high);
    if (l->type == LightType::directional) low = glm::dvec2(-1), high = glm::dvec2(1);
    const double half = 0.52 * std::max(high.x - low.x, high.y - low.y);
    const glm::dvec2 middle = 0.5 * (low + high);
    const flat::Profile profile = flat::profile_of(*l, *document_.asset());
    QImage image(side, side, QImage::Format_RGB32);
    for (int y = 0; y < side; ++y)
        for (int x = 0; x < side; ++x) {
            const glm::dvec2 at = middle + half * glm::dvec2((x + 0.5) / side * 2 - 1, 1 - (y + 0.5) / side * 2);
            image.setPixelColor(x, y,
                                display_color(glm::clamp(glm::vec3(flat::light_at(*l, profile, at)), 0.0f, 1.0f)));
        }
    p.drawImage(r, image);
    p.setPen(theme().line);
    p.drawRect(r.adjusted(0, 0, -1, -1));
    p.drawLine(plot.bottomLeft(), plot.bottomRight());
    // From its middle out, along its way or its turn.
    const double angle = l->type == LightType::spot ? std::atan2(l->direction.y, l->direction.x) : double(l->flat.turn);
    const double reach = 1.05 * std::max(1.0, double(l->type == LightType::directional ? 1
                                                     : l->range > 0                    ? l->range
                                                                                       : float(half)));
    QPainterPath curve;
    for (int i = 0; i <= 80; ++i) {
        const double d = reach * i / 80;
        const glm::dvec3 v =
            flat::light_at(*l, profile, glm::dvec2(l->position) + d * glm::dvec2(std::cos(angle), std::sin(angle)));
        const double level = std::max({v.x, v.y, v.z});
        const QPointF at(plot.left() + plot.width() * i / 80.0,
                         plot.bottom() - std::min(1.0, level / 2) * plot.height());
        i == 0 ? curve.moveTo(at) : curve.lineTo(at);
    }
    const int one = plot.bottom() - plot.height() / 2;
    p.setPen(QPen(theme().quiet, 1, Qt::DotLine));
    p.drawLine(plot.left(), one, plot.right(), one);
    p.setPen(theme().quiet);
    p.setFont(sized(font(), 11));
    p.drawText(QRect(plot.left(), one - 16, plot.width(), 15), Qt::AlignRight, tr("shows sheets whole"));
    two_tone(p, display_color(effective_color(*l)), 1.6, Qt::SolidLine, [&] { p.drawPath(curve); });
}

Figure* make_flat_figure(const QString& station, Document& document, const RenderBridge& bridge, QWidget* parent) {
    if (station == "Path") return new WayFigure(document, bridge, parent);
    if (station == "Shadows") return new SeenFigure(document, bridge, parent);
    return nullptr;
}

} // namespace mirolux::app
