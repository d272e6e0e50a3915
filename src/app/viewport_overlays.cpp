#include "app/setting_editor.h"
#include "app/theme.h"
#include "app/viewport.h"
#include "core/base/text.h"
#include "core/image/target_picture.h"
#include <QPainter>
#include <QPainterPath>
#include <cmath>

// What is painted over the picture: B's share of it, labels, lights and handles.
namespace mirolux::app {

/// Where A's own picture is shown.
QRectF Viewport::a_part(const QRectF& r) const {
    if (pictureB_.isNull()) return r;
    switch (pairView_) {
    case PairView::wipe:
        return wipeAcross_ ? QRectF(r.left(), r.top(), wipe_ * r.width(), r.height())
                           : QRectF(r.left(), r.top(), r.width(), wipe_ * r.height());
    case PairView::blink:
        return blinkB_ ? QRectF() : r;
    default:
        return {};
    }
}

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
        if (map && !map->isNull())
            p.drawImage(r, *map);
        else
            p.fillRect(r, t.pictureSurround); // never the plain picture in a difference's place
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
    p.setPen(QPen(QColor(246, 242, 232), 1.6));
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

namespace {

/// Two tones that read on black and on white: dark under, light over.
template <class Draw>
void two_tone(QPainter& p, const QColor& over, double width, Qt::PenStyle style, const Draw& draw) {
    p.setPen(QPen(QColor(0, 0, 0, 170), width + 2.2, Qt::SolidLine, Qt::RoundCap));
    draw();
    p.setPen(QPen(over, width, style, Qt::RoundCap));
    draw();
}

const QColor ivory(246, 242, 232);

/// A light's mark: its own colour inside a two-tone outline. A dotted ring for points, a wedge for spots, parallel
/// strokes for directional ones; hollow if it is off. `tip`: a point that it shines toward, on screen.
void paint_mark(QPainter& p, const Light& l, const QPointF& at, std::optional<QPointF> tip, double size) {
    const QBrush fill = l.enabled ? QBrush(display_color(effective_color(l))) : QBrush(Qt::NoBrush);
    QPointF u(0, 1);
    if (tip) {
        const QPointF d = *tip - at;
        if (const double n = std::hypot(d.x(), d.y()); n > 1) u = d / n;
    }
    const QPointF v(-u.y(), u.x());
    switch (l.type) {
    case LightType::point:
        p.setBrush(fill);
        p.setPen(QPen(QColor(0, 0, 0, 170), 1));
        p.drawEllipse(at, size * 0.62, size * 0.62);
        p.setBrush(Qt::NoBrush);
        two_tone(p, ivory, 1.1, Qt::DotLine, [&] { p.drawEllipse(at, size + 1, size + 1); });
        break;
    case LightType::spot: {
        const QPolygonF wedge({at - u * size * 0.8, at + u * size * 1.2 + v * size, at + u * size * 1.2 - v * size});
        p.setBrush(Qt::NoBrush);
        two_tone(p, ivory, 1.1, Qt::SolidLine, [&] { p.drawPolygon(wedge); });
        p.setPen(Qt::NoPen);
        p.setBrush(fill);
        p.drawPolygon(wedge);
        break;
    }
    case LightType::directional:
        p.setBrush(Qt::NoBrush);
        for (const double k : {-0.9, 0.0, 0.9}) {
            const QLineF stroke(at - u * size * 1.2 + v * size * k, at + u * size * 1.2 + v * size * k);
            two_tone(p, ivory, 3, Qt::SolidLine, [&] { p.drawLine(stroke); });
            p.setPen(QPen(l.enabled ? display_color(effective_color(l)) : QColor(60, 60, 60), 1.6));
            p.drawLine(stroke);
        }
        break;
    }
}

/// Words on a plate of ink.
void paint_plate(QPainter& p, const QPointF& at, const QString& text) {
    const QRectF box(at, QSizeF(p.fontMetrics().horizontalAdvance(text) + 12, 19));
    p.setPen(Qt::NoPen);
    p.setBrush(QColor(20, 20, 20, 225));
    p.drawRoundedRect(box, 2, 2);
    p.setPen(ivory);
    p.drawText(box, Qt::AlignCenter, text);
}

} // namespace

/// The map is of A's lists, so it lies on A's part.
void Viewport::paint_tile_map(QPainter& p) {
    if (!tile_map_visible()) return;
    const QRectF r = picture_rect();
    p.setClipRect(a_part(r));
    tileMap_.paint(p, r);
    p.setClipRect(r);
    if (a_part(r).contains(pointer_)) paint_tile_label(p);
}

void Viewport::paint_lights(QPainter& p) {
    if (!lightsShown_) return;
    const std::vector<Light> lights =
        lights_at(document_.project().lights, document_.project().motions, document_.project().view.seconds);
    const View view = shown_view();
    for (const Light& l : lights) {
        if (l.id == selected_) continue;
        const auto at = place_of(l.position);
        if (!at || !picture_rect().contains(*at)) continue;
        const float distance = glm::length(l.position - view.camera.eye);
        const double size = l.id == hovered_ ? 8 : std::clamp(46.0 / distance + 2.0, 2.5, 6.0);
        p.setOpacity(l.enabled ? 0.95 : 0.6);
        paint_mark(p, l, *at, place_of(l.position + l.direction * metres_per_pixel(view, l.position) * 16.0f), size);
        p.setOpacity(1);
        if (l.id == hovered_) paint_plate(p, *at + QPointF(14, -9), QString::fromStdString(l.name));
    }
}

/// The selected light's reach: rings of a point, rims and edges of a cone, in its own colour.
void Viewport::paint_reach(QPainter& p, const Light& l) {
    const View view = shown_view();
    const float reach = reach_of(l);
    const QColor color = display_color(effective_color(l));
    const auto curve = [&](auto&& point, int steps, Qt::PenStyle style) {
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
        two_tone(p, color, 1.2, style, [&] { p.drawPath(path); });
    };
    const glm::vec3 o = l.position;
    if (l.type == LightType::point)
        for (int k = 0; k < 3; ++k)
            curve(
                [&](float t) {
                    const float a = t * 6.2831853f;
                    const float c = std::cos(a) * reach, s = std::sin(a) * reach;
                    return o + (k == 0 ? glm::vec3(c, 0, s) : k == 1 ? glm::vec3(c, s, 0) : glm::vec3(0, c, s));
                },
                64, k == 0 ? Qt::SolidLine : Qt::DotLine);
    if (l.type != LightType::spot) return;
    const glm::vec3 d = l.direction, u = handle_side(l, view), v = glm::cross(d, u);
    const auto on_cone = [&](float angle, float around) {
        return d * std::cos(angle) + (u * std::cos(around) + v * std::sin(around)) * std::sin(angle);
    };
    for (const float angle : {l.outerConeAngle, l.innerConeAngle}) {
        if (angle < 0.01f) continue;
        for (const float share : {0.6f, 1.0f})
            curve([&](float t) { return o + on_cone(angle, t * 6.2831853f) * reach * share; }, 48,
                  angle == l.outerConeAngle ? Qt::SolidLine : Qt::DotLine);
    }
    for (int k = 0; k < 4; ++k) {
        const glm::vec3 rim = on_cone(l.outerConeAngle, 1.5707963f * static_cast<float>(k)) * reach;
        curve([&](float t) { return o + rim * t; }, 8, Qt::SolidLine);
    }
}

/// What a handle changes, as a number.
static QString handle_text(HandleKind kind, const Light& l) {
    const auto number = [](double v) { return QString::fromStdString(number_text(v, 3)); };
    switch (kind) {
    case HandleKind::axisX:
        return "x " + number(l.position.x);
    case HandleKind::axisY:
        return "y " + number(l.position.y);
    case HandleKind::axisZ:
        return "z " + number(l.position.z);
    case HandleKind::range:
        return number(l.range) + " m";
    case HandleKind::outerCone:
        return number(glm::degrees(l.outerConeAngle)) + "\u00b0";
    case HandleKind::innerCone:
        return number(glm::degrees(l.innerConeAngle)) + "\u00b0";
    default:
        return {};
    }
}

void Viewport::paint_handles(QPainter& p) {
    const Light* l = document_.light(selected_);
    if (!l) return;
    paint_reach(p, *l);
    const auto all = handles();
    const auto center = place_of(l->position);
    if (!center) return;
    p.setFont(sized(font(), 11));
    for (std::size_t i = 0; i < all.size(); ++i) {
        const auto at = place_of(all[i].position);
        if (!at) continue;
        const bool hot = static_cast<int>(i) == hoveredHandle_;
        const double r = hot ? 6 : 4;
        const HandleKind kind = all[i].kind;
        const bool arm = kind == HandleKind::axisX || kind == HandleKind::axisY || kind == HandleKind::axisZ;
        if (arm || kind == HandleKind::aim)
            two_tone(p, ivory, 1.2, arm ? Qt::SolidLine : Qt::DashLine, [&] { p.drawLine(*center, *at); });
        if (kind == HandleKind::ground) {
            paint_mark(p, *l, *at, place_of(l->position + l->direction * 0.5f), hot ? 10 : 8);
            continue;
        }
        p.setPen(QPen(QColor(0, 0, 0, 200), 1.4));
        p.setBrush(hot ? ivory : QColor(210, 209, 206));
        if (kind == HandleKind::aim)
            p.drawPolygon(QPolygonF({*at + QPointF(0, -r - 2), *at + QPointF(r + 2, 0), *at + QPointF(0, r + 2),
                                     *at + QPointF(-r - 2, 0)}));
        else if (arm)
            p.drawEllipse(*at, r, r);
        else
            p.drawRect(QRectF(at->x() - r, at->y() - r, 2 * r, 2 * r));
        QString text = handle_text(kind, *l);
        if (hot) text = QString(word(kind)) + (text.isEmpty() ? "" : "  " + text);
        // Beside its handle, where the others' words are not.
        const QPointF beside = kind == HandleKind::axisX   ? QPointF(-10, 9)
                               : kind == HandleKind::axisZ ? QPointF(-58, -9)
                                                           : QPointF(9, -9);
        if (!text.isEmpty()) paint_plate(p, *at + beside, text);
    }
    p.setFont(font());
}

void Viewport::set_values(std::shared_ptr<const FloatImage> values, const QImage& picture, bool whole) {
    values_ = std::move(values);
    fullPicture_ = picture;
    wholeValues_ = whole;
    update();
}

void Viewport::set_loupe(bool on) {
    loupe_ = on;
    update();
}

QPoint Viewport::texel_under() const {
    const QRectF r = shown_rect();
    if (!values_ || !r.contains(pointer_)) return {-1, -1};
    return {std::min(static_cast<int>((pointer_.x() - r.left()) / r.width() * values_->width), values_->width - 1),
            std::min(static_cast<int>((pointer_.y() - r.top()) / r.height() * values_->height), values_->height - 1)};
}

QStringList Viewport::loupe_words() const {
    const QPoint texel = texel_under();
    if (texel.x() < 0) return {};
    return {QString("%1, %2").arg(texel.x()).arg(texel.y()),
            QString::fromStdString(texel_text(*values_, texel.x(), texel.y(), wholeValues_))};
}

/// Eleven by eleven texels round the pointer, each told apart, and the numbers of the middle one.
void Viewport::paint_loupe(QPainter& p) {
    const QStringList words = loupe_words();
    if (!loupe_ || !underMouse() || words.isEmpty() || drag_ != Drag::none) return;
    constexpr int texels = 11, side = 12;
    const Theme& t = theme();
    const QPoint middle = texel_under();
    const QRectF r = shown_rect();
    QRectF box(pointer_.x() + 24, pointer_.y() + 24, texels * side, texels * side + 36);
    if (box.right() > r.right()) box.moveRight(pointer_.x() - 24);
    if (box.bottom() > r.bottom()) box.moveBottom(pointer_.y() - 24);
    p.fillRect(box.adjusted(-2, -2, 2, 2), t.lit);
    p.fillRect(box, t.panel);
    for (int y = 0; y < texels; ++y)
        for (int x = 0; x < texels; ++x) {
            const QPoint texel = middle + QPoint(x - texels / 2, y - texels / 2);
            if (fullPicture_.rect().contains(texel))
                p.fillRect(QRectF(box.left() + x * side, box.top() + y * side, side, side),
                           fullPicture_.pixelColor(texel));
        }
    const QRectF centre(box.left() + texels / 2 * side, box.top() + texels / 2 * side, side, side);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(Qt::black, 3));
    p.drawRect(centre);
    p.setPen(QPen(Qt::white, 1));
    p.drawRect(centre);
    p.setFont(sized(font(), 11));
    p.setPen(t.text);
    const QRectF line(box.left() + 4, box.bottom() - 35, box.width() - 8, 17);
    p.drawText(line, Qt::AlignVCenter, words[0]);
    p.drawText(line.translated(0, 16), Qt::AlignVCenter,
               p.fontMetrics().elidedText(words[1], Qt::ElideRight, static_cast<int>(line.width())));
}

} // namespace mirolux::app
