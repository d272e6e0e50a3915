#include "app/setting_editor.h"
#include "app/theme.h"
#include "app/viewport.h"
#include <QPainter>
#include <QPainterPath>
#include <cmath>

// What is painted over the picture: B's share of it, labels, lights and handles.
namespace mirolux::app {

void Viewport::paint_pair(QPainter& p, const QRectF& r) {
    const Theme& t = theme();
    const auto tag = [&](const QString& text, const QPointF& at, const QColor& color) {
        const QRectF box(at, QSizeF(p.fontMetrics().horizontalAdvance(text) + 14, 20));
        p.setPen(Qt::NoPen);
        p.setBrush(QColor(18, 18, 19, 215));
        p.drawRoundedRect(box, 3, 3);
        p.setPen(color);
        p.drawText(box, Qt::AlignCenter, text);
    };
    switch (pairView_) {
    case PairView::wipe: {
        const double x = r.left() + wipe_ * r.width(), y = r.top() + wipe_ * r.height();
        p.save();
        p.setClipRect(wipeAcross_ ? QRectF(x, r.top(), r.right() - x, r.height())
                                  : QRectF(r.left(), y, r.width(), r.bottom() - y));
        p.drawImage(r, pictureB_);
        p.restore();
        p.setPen(QPen(QColor(0, 0, 0, 160), 3.5));
        for (int pass = 0; pass < 2; ++pass) {
            if (wipeAcross_)
                p.drawLine(QPointF(x, r.top()), QPointF(x, r.bottom()));
            else
                p.drawLine(QPointF(r.left(), y), QPointF(r.right(), y));
            p.setPen(QPen(QColor(240, 238, 232), 1.4));
        }
        if (wipeAcross_) {
            tag("A", QPointF(x - 34, r.top() + 10), t.a.lighter(130));
            tag("B", QPointF(x + 10, r.top() + 10), t.b.lighter(130));
        } else {
            tag("A", QPointF(r.left() + 10, y - 28), t.a.lighter(130));
            tag("B", QPointF(r.left() + 10, y + 8), t.b.lighter(130));
        }
        break;
    }
    case PairView::blink:
        if (blinkB_) p.drawImage(r, pictureB_);
        tag(blinkB_ ? "B" : "A", r.topLeft() + QPointF(10, 10), (blinkB_ ? t.b : t.a).lighter(130));
        break;
    default: {
        const QImage* map = !difference_                      ? nullptr
                            : pairView_ == PairView::absolute ? &difference_->absolute
                            : pairView_ == PairView::relative ? &difference_->relative
                                                              : &difference_->perceptual;
        if (map && !map->isNull()) p.drawImage(r, *map);
        const QString what = pairView_ == PairView::absolute ? tr("absolute difference; brightest: a quarter of white")
                             : pairView_ == PairView::relative
                                 ? tr("relative difference; brightest: a half or more")
                                 : tr("difference that the eye sees (spatial CIELAB); brightest: 20 or more");
        tag(map ? what : tr("the difference is on its way"), r.topLeft() + QPointF(10, 10), QColor(235, 233, 226));
        break;
    }
    }
}

void Viewport::paint_tile_label(QPainter& p) {
    if (drag_ == Drag::none && underMouse() && !asksForPixel_)
        paint_label(p, pointer_, tileMap_.describe(pointer_, picture_rect()));
}

void Viewport::paint_label(QPainter& p, const QPointF& at, const QStringList& lines) {
    if (lines.isEmpty()) return;
    double width = 0;
    for (const QString& line : lines)
        width = std::max(width, double(p.fontMetrics().horizontalAdvance(line)));
    QRectF box(at + QPointF(16, 12), QSizeF(width + 16, lines.size() * 16 + 8));
    const QRectF r = picture_rect();
    if (box.right() > r.right()) box.moveRight(std::max(r.left() + box.width(), at.x() - 10));
    if (box.bottom() > r.bottom()) box.moveBottom(r.bottom() - 4);
    p.setPen(Qt::NoPen);
    p.setBrush(QColor(18, 18, 19, 230));
    p.drawRoundedRect(box, 3, 3);
    p.setPen(QColor(235, 233, 226));
    for (int i = 0; i < lines.size(); ++i)
        p.drawText(QPointF(box.left() + 8, box.top() + 17 + 16 * i), lines[i]);
}

void Viewport::paint_account(QPainter& p) {
    const QRectF r = picture_rect();
    if (!account_) {
        if (asksForPixel_) paint_label(p, pointer_, {tr("asking why\u2026")});
        return;
    }
    const Target& t = document_.target();
    const QPointF at(r.left() + (account_->pixel.x + 0.5) * r.width() / t.width,
                     r.top() + (account_->pixel.y + 0.5) * r.height() / t.height);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(QColor(0, 0, 0, 180), 3.5));
    p.drawEllipse(at, 7, 7);
    p.setPen(QPen(QColor(240, 170, 72), 1.6));
    p.drawEllipse(at, 7, 7);
    // The one line, broken where it would run out of the picture.
    QStringList lines{QString()};
    const QStringList words = QString::fromStdString(account_->reason).split(' ');
    for (const QString& w : words) {
        if (p.fontMetrics().horizontalAdvance(lines.back() + " " + w) > std::min(340.0, r.width() - 40))
            lines << QString();
        lines.back() += (lines.back().isEmpty() ? "" : " ") + w;
    }
    paint_label(p, at, lines);
}

void Viewport::paint_lights(QPainter& p) {
    const std::vector<Light> lights =
        lights_at(document_.project().lights, document_.project().motions, document_.project().view.seconds);
    const View view = shown_view();
    for (const Light& l : lights) {
        if (l.id == selected_) continue;
        const auto at = place_of(l.position);
        if (!at || !picture_rect().contains(*at)) continue;
        const float distance = glm::length(l.position - view.camera.eye);
        const double size = l.id == hovered_ ? 7 : std::clamp(46.0 / distance + 2.0, 2.5, 5.5);
        const QColor color = display_color(effective_color(l));
        p.setOpacity(l.enabled ? 0.95 : 0.45);
        p.setPen(QPen(QColor(0, 0, 0, 170), 1.4));
        p.setBrush(l.enabled ? QBrush(color) : QBrush(Qt::NoBrush));
        if (l.type == LightType::point)
            p.drawEllipse(*at, size, size);
        else {
            // A wedge for spots, a bar for directional lights: distinct without colour.
            const auto tip = place_of(l.position + l.direction * metres_per_pixel(view, l.position) * 16.0f);
            if (tip && l.type == LightType::spot) {
                const QPointF d = *tip - *at;
                const double n = std::max(1.0, std::hypot(d.x(), d.y()));
                const QPointF u = d / n, v(-u.y(), u.x());
                QPainterPath wedge(*at - u * size);
                wedge.lineTo(*at + u * size + v * size);
                wedge.lineTo(*at + u * size - v * size);
                wedge.closeSubpath();
                p.drawPath(wedge);
            } else
                p.drawRect(QRectF(at->x() - size, at->y() - size, 2 * size, 2 * size));
        }
        if (l.id == hovered_) {
            const QString name = QString::fromStdString(l.name);
            const QRectF box =
                QRectF(p.fontMetrics().boundingRect(name)).translated(at->x() + 14, at->y() + 4).adjusted(-5, -3, 5, 3);
            p.setOpacity(1);
            p.setPen(Qt::NoPen);
            p.setBrush(QColor(20, 20, 20, 215));
            p.drawRoundedRect(box, 3, 3);
            p.setPen(QColor(240, 238, 232));
            p.drawText(box, Qt::AlignCenter, name);
        }
    }
    p.setOpacity(1);
}

void Viewport::paint_handles(QPainter& p) {
    const Light* l = document_.light(selected_);
    if (!l) return;
    const View view = shown_view();
    const float reach = reach_of(*l);
    const QColor accent(240, 170, 72);
    auto curve = [&](auto&& point, int steps) {
        QPainterPath path;
        bool started = false;
        for (int i = 0; i <= steps; ++i) {
            const auto at = place_of(point(static_cast<float>(i) / static_cast<float>(steps)));
            if (!at)
                started = false;
            else if (!started)
                path.moveTo(*at), started = true;
            else
                path.lineTo(*at);
        }
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(QColor(0, 0, 0, 120), 3));
        p.drawPath(path);
        p.setPen(QPen(accent, 1.3));
        p.drawPath(path);
    };
    const glm::vec3 o = l->position;
    if (l->type == LightType::point)
        for (int k = 0; k < 3; ++k)
            curve(
                [&](float t) {
                    const float a = t * 6.2831853f;
                    const float c = std::cos(a) * reach, s = std::sin(a) * reach;
                    return o + (k == 0 ? glm::vec3(c, 0, s) : k == 1 ? glm::vec3(c, s, 0) : glm::vec3(0, c, s));
                },
                64);
    if (l->type == LightType::spot) {
        const glm::vec3 d = l->direction, u = handle_side(*l, view), v = glm::cross(d, u);
        for (const float angle : {l->outerConeAngle, l->innerConeAngle}) {
            if (angle < 0.01f) continue;
            for (const float share : {0.6f, 1.0f})
                curve(
                    [&](float t) {
                        const float a = t * 6.2831853f;
                        return o + (d * std::cos(angle) + (u * std::cos(a) + v * std::sin(a)) * std::sin(angle)) *
                                       reach * share;
                    },
                    48);
        }
        for (int k = 0; k < 4; ++k) {
            const float a = 1.5707963f * static_cast<float>(k);
            const glm::vec3 rim =
                (d * std::cos(l->outerConeAngle) + (u * std::cos(a) + v * std::sin(a)) * std::sin(l->outerConeAngle)) *
                reach;
            curve([&](float t) { return o + rim * t; }, 8);
        }
    }
    const auto all = handles();
    const auto center = place_of(o);
    if (!center) return;
    for (std::size_t i = 0; i < all.size(); ++i) {
        const auto at = place_of(all[i].position);
        if (!at) continue;
        const bool hot = static_cast<int>(i) == hoveredHandle_;
        const double r = hot ? 7 : 5;
        const HandleKind kind = all[i].kind;
        const bool arm = kind == HandleKind::axisX || kind == HandleKind::axisY || kind == HandleKind::axisZ;
        if (arm || kind == HandleKind::aim) {
            p.setPen(QPen(QColor(0, 0, 0, 140), 3.4));
            p.drawLine(*center, *at);
            p.setPen(QPen(kind == HandleKind::aim ? accent : QColor(225, 225, 220), 1.6,
                          arm ? Qt::SolidLine : Qt::DashLine));
            p.drawLine(*center, *at);
        }
        p.setPen(QPen(QColor(0, 0, 0, 200), 1.4));
        p.setBrush(hot                          ? accent
                   : arm                        ? QColor(225, 225, 220)
                   : kind == HandleKind::ground ? display_color(effective_color(*l))
                                                : QColor(250, 214, 150));
        if (arm) {
            p.drawEllipse(*at, r - 0.5, r - 0.5);
            p.setPen(QColor(20, 20, 20));
            const QFont small = sized(font(), 11);
            const QString name = kind == HandleKind::axisX ? "x" : kind == HandleKind::axisY ? "y" : "z";
            p.setFont(small);
            p.setPen(QColor(245, 244, 240));
            p.drawText(*at + QPointF(8, -5), name);
            p.setFont(font());
        } else if (kind == HandleKind::ground)
            p.drawEllipse(*at, r + 2, r + 2);
        else if (kind == HandleKind::aim)
            p.drawPolygon(QPolygonF({*at + QPointF(0, -r - 2), *at + QPointF(r + 2, 0), *at + QPointF(0, r + 2),
                                     *at + QPointF(-r - 2, 0)}));
        else
            p.drawRect(QRectF(at->x() - r, at->y() - r, 2 * r, 2 * r));
        if (hot) {
            p.setPen(QColor(245, 240, 230));
            p.drawText(*at + QPointF(14, 18), word(kind));
        }
    }
}

} // namespace mirolux::app
