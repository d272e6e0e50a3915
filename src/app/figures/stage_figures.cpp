#include "app/figures/stage_figures.h"
#include "app/marks.h"
#include "app/setting_editor.h"
#include "app/theme.h"
#include "core/cost/target.h"
#include "core/flat/flat_light.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainterPath>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace mirolux::app {

/// From the finest level's to the coarsest one's.
static QColor level_color(int level, int count) {
    return QColor::fromHsvF(0.09 + 0.5 * level / std::max(1, count - 1), 0.75, theme().dark ? 0.95 : 0.75);
}

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
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    column->addSpacing(140); // the pictures
    column->addWidget(new CascadesFigure(document, bridge, this));
}

void WayFigure::paintEvent(QPaintEvent*) {
    if (!document_.is_flat()) return;
    QPainter p(this);
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    p.setFont(sized(font(), 11));
    const std::string& kind = document_.project().setup.choice("flat.kind");
    const bool cut = kind == "cut", grade = kind == "grade", computed = kind == "compute", plane = kind == "cascades";
    const struct {
        QString layer, words;
    } tiles[] = {{grade ? "graded" : "unlit", grade ? tr("graded") : tr("sheets")},
                 {cut        ? "darkness"
                  : grade    ? "lamps"
                  : computed ? "computed"
                  : plane    ? "planelight"
                             : "lightmask",
                  cut        ? tr("dark layer")
                  : grade    ? tr("lamps")
                  : computed ? tr("lights")
                  : plane    ? tr("light")
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
    p.drawText(QRect(0, top + tall + 22, width(), 50), Qt::AlignLeft | Qt::TextWordWrap,
               grade ? tr("The scene is tinted by the time of day; where lamps fall, the sheet shows in their colour.")
               : plane
                   ? tr("Light travels through the plane, level by level; each sheet's colour is multiplied by what "
                        "comes by, 1 at most.")
               : cut ? tr("Lights are subtracted from a dark layer; what is left of it hides the sheets.")
                     : tr("Ambient and lights are summed; each sheet's colour is multiplied by the sum, 1 at most."));
}

CascadesFigure::CascadesFigure(Document& document, const RenderBridge& bridge, QWidget* parent)
    : Figure(document, bridge, parent) {
    setObjectName("cascades figure");
    setAccessibleName(tr("Levels of the cascades"));
    setToolTip(tr("Every level's probes and the intervals of its rays, on the view. Point at a level's line to see its "
                  "probes alone."));
    setMouseTracking(true);
    connect(&document_, &Document::changed, this, &CascadesFigure::take);
    take();
}

/// Shown only where light travels.
void CascadesFigure::take() {
    const bool on = document_.is_flat() && document_.project().setup.choice("flat.kind") == "cascades";
    setVisible(on);
    if (!on) return;
    const Project& p = document_.project();
    shape_ = flat::cascade_shape(p.setup, eye_views(on_target(p.view, document_.target())).front());
    setFixedHeight(drawing().bottom() + 14 + line_height * (static_cast<int>(shape_.levels.size()) + 1));
    update();
}

QRect CascadesFigure::drawing() const {
    const int wide = std::max(200, width());
    const double aspect = double(shape_.grid.height) / std::max(1, shape_.grid.width);
    return {0, 4, wide - 1, std::clamp(static_cast<int>(wide * aspect), 60, 190)};
}

void CascadesFigure::resizeEvent(QResizeEvent*) {
    take();
}

void CascadesFigure::mouseMoveEvent(QMouseEvent* e) {
    const int line = (static_cast<int>(e->position().y()) - drawing().bottom() - 8) / line_height - 1;
    const int level = line >= 0 && line < static_cast<int>(shape_.levels.size()) ? line : -1;
    if (level != level_) {
        level_ = level;
        update();
    }
}

void CascadesFigure::leaveEvent(QEvent*) {
    level_ = -1;
    update();
}

void CascadesFigure::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setFont(sized(font(), 11));
    const QRect r = drawing();
    p.fillRect(r, theme().pictureSurround);
    const flat::OccluderGrid& g = shape_.grid;
    const double cell = double(r.width()) / g.width;
    const auto at = [&](const glm::dvec2& cells) {
        return QPointF(r.left() + cells.x * cell, r.bottom() - cells.y * double(r.height()) / g.height);
    };
    p.save();
    p.setClipRect(r);
    p.setPen(Qt::NoPen);
    p.setBrush(theme().line);
    for (const flat::Occluder& o : flat::outlines_of(*document_.project().flat)) {
        QPolygonF polygon;
        for (const glm::dvec2& point : o.points)
            polygon << at(g.at(point));
        p.drawPolygon(polygon);
    }
    const int count = static_cast<int>(shape_.levels.size());
    for (int n = count - 1; n >= 0; --n) {
        if (level_ >= 0 && n != level_) continue;
        const flat::CascadeLevel& l = shape_.levels[static_cast<std::size_t>(n)];
        QColor color = level_color(n, count);
        if (level_ == n || (level_ < 0 && l.step * cell >= 10)) { // its probes, where they can be told apart
            const double step = l.step * std::max(1.0, std::ceil(3 / (l.step * cell)));
            p.setPen(Qt::NoPen);
            p.setBrush(color);
            for (double y = 0.5 * l.step; y < g.height; y += step)
                for (double x = 0.5 * l.step; x < g.width; x += step)
                    p.drawEllipse(at({x, y}), 1.3, 1.3);
        }
        // One probe in the middle with its rays, each from where its interval begins to where it ends.
        const glm::dvec2 probe =
            (glm::floor(0.5 * glm::dvec2(g.width, g.height) / double(l.step)) + 0.5) * double(l.step);
        color.setAlpha(l.rays > 64 ? 90 : 200);
        p.setPen(QPen(color, 1));
        const int drawn = std::min(l.rays, 256);
        for (int k = 0; k < drawn; ++k) {
            const double angle = (k + 0.5) * 2 * M_PI / drawn;
            const glm::dvec2 way(std::cos(angle), std::sin(angle));
            p.drawLine(at(probe + way * l.start), at(probe + way * l.end));
        }
    }
    p.restore();
    p.setPen(theme().line);
    p.setBrush(Qt::NoBrush);
    p.drawRect(r);
    int y = r.bottom() + 8;
    const int columns[] = {0, width() * 26 / 100, width() * 58 / 100, width()};
    const auto line = [&](const QString& a, const QString& b, const QString& c, const QColor& color) {
        p.setPen(color);
        const QString words[] = {a, b, c};
        for (int k = 0; k < 3; ++k)
            p.drawText(QRect(columns[k] + (k == 0 ? 14 : 0), y, columns[k + 1] - columns[k], line_height),
                       Qt::AlignLeft | Qt::AlignVCenter, words[k]);
        y += line_height;
    };
    line(tr("level"), tr("probes x rays"), tr("from to, cells"), theme().quiet);
    for (int n = 0; n < count; ++n) {
        const flat::CascadeLevel& l = shape_.levels[static_cast<std::size_t>(n)];
        p.setPen(Qt::NoPen);
        p.setBrush(level_color(n, count));
        p.drawEllipse(QPointF(6, y + 0.5 * line_height), 3.5, 3.5);
        line(QString::number(n), tr("%1 x %2").arg(l.columns * l.rows).arg(l.rays),
             tr("%1 to %2").arg(l.start, 0, 'g', 3).arg(l.end, 0, 'g', 4), level_ == n ? theme().text : theme().quiet);
    }
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
