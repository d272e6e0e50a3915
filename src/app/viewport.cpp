#include "app/viewport.h"
#include "app/setting_editor.h"
#include "app/theme.h"
#include "core/light/falloff.h"
#include "core/scene/geometry.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>

namespace mirolux::app {

Viewport::Viewport(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setMinimumSize(240, 160);
    setAccessibleName(tr("Picture"));
    flyTimer_.setInterval(16);
    connect(&flyTimer_, &QTimer::timeout, this, &Viewport::fly_step);
    wheelPause_.setSingleShot(true);
    wheelPause_.setInterval(180);
    connect(&wheelPause_, &QTimer::timeout, this, [this] { document_.set_interactive(false); });
    blinkTimer_.setInterval(600);
    connect(&blinkTimer_, &QTimer::timeout, this, [this] {
        blinkB_ = !blinkB_;
        update();
    });
    connect(&document_, &Document::changed, this, [this] {
        if (selected_ >= 0 && !document_.light(selected_)) {
            selected_ = -1;
            emit light_picked(-1);
        }
        update();
    });
    connect(&document_, &Document::camera_moved, this, qOverload<>(&QWidget::update));
}

void Viewport::show_picture(const QImage& scaled, QSize pictureSize, bool quick) {
    picture_ = scaled;
    pictureSize_ = pictureSize;
    quick_ = quick;
    update();
}

void Viewport::show_b(const QImage& scaled) {
    pictureB_ = scaled;
    if (scaled.isNull()) difference_.reset();
    set_pair_view(pairView_);
}

void Viewport::show_difference(const std::shared_ptr<const PairDifference>& difference) {
    difference_ = difference;
    update();
}

void Viewport::set_pair_view(PairView view) {
    pairView_ = view;
    blinkB_ = false;
    if (view == PairView::blink && !pictureB_.isNull()) blinkTimer_.start();
    else blinkTimer_.stop();
    update();
}

void Viewport::turn_wipe() {
    wipeAcross_ = !wipeAcross_;
    update();
}

bool Viewport::on_wipe(const QPointF& at) const {
    if (pictureB_.isNull() || pairView_ != PairView::wipe) return false;
    const QRectF r = picture_rect();
    return r.contains(at) && (wipeAcross_ ? std::abs(at.x() - (r.left() + wipe_ * r.width())) : std::abs(at.y() - (r.top() + wipe_ * r.height()))) < 7;
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
        p.setClipRect(wipeAcross_ ? QRectF(x, r.top(), r.right() - x, r.height()) : QRectF(r.left(), y, r.width(), r.bottom() - y));
        p.drawImage(r, pictureB_);
        p.restore();
        p.setPen(QPen(QColor(0, 0, 0, 160), 3.5));
        for (int pass = 0; pass < 2; ++pass) {
            if (wipeAcross_) p.drawLine(QPointF(x, r.top()), QPointF(x, r.bottom()));
            else p.drawLine(QPointF(r.left(), y), QPointF(r.right(), y));
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
        const QImage* map = !difference_ ? nullptr : pairView_ == PairView::absolute ? &difference_->absolute : pairView_ == PairView::relative ? &difference_->relative : &difference_->perceptual;
        if (map && !map->isNull()) p.drawImage(r, *map);
        const QString what = pairView_ == PairView::absolute   ? tr("absolute difference; brightest: a quarter of white")
                             : pairView_ == PairView::relative ? tr("relative difference; brightest: a half or more")
                                                               : tr("difference that the eye sees (spatial CIELAB); brightest: 20 or more");
        tag(map ? what : tr("the difference is on its way"), r.topLeft() + QPointF(10, 10), QColor(235, 233, 226));
        break;
    }
    }
}

void Viewport::show_message(const QString& text, bool trouble) {
    message_ = text;
    trouble_ = trouble;
    update();
}

void Viewport::set_lights_shown(bool on) {
    lightsShown_ = on;
    update();
}

void Viewport::set_tile_map(const TileMap& map) {
    tileMap_ = map;
    update();
}

void Viewport::set_tile_map_shown(bool on) {
    tileMapShown_ = on;
    update();
}

void Viewport::select_light(int id) {
    if (selected_ == id) return;
    selected_ = id;
    hoveredHandle_ = -1;
    update();
}

QRectF Viewport::picture_rect() const {
    const double w = document_.is_open() ? document_.target().width : 16, h = document_.is_open() ? document_.target().height : 9;
    const double scale = std::min(width() / w, height() / h);
    return {(width() - w * scale) / 2, (height() - h * scale) / 2, w * scale, h * scale};
}

View Viewport::shown_view() const {
    View v = document_.project().view;
    const QRectF r = picture_rect();
    v.width = std::max(1, static_cast<int>(std::lround(r.width())));
    v.height = std::max(1, static_cast<int>(std::lround(r.height())));
    return v;
}

Ray Viewport::ray_at(const QPointF& at) const {
    const QRectF r = picture_rect();
    return ray_through(shown_view(), at.x() - r.left(), at.y() - r.top());
}

std::optional<QPointF> Viewport::place_of(const glm::vec3& point) const {
    const auto p = project(shown_view(), point);
    if (!p) return std::nullopt;
    const QRectF r = picture_rect();
    return QPointF(r.left() + p->x, r.top() + p->y);
}

float Viewport::reach_of(const Light& l) const {
    return l.range > 0 ? l.range : derived_range(l, static_cast<float>(document_.project().setup.number("light.threshold")));
}

std::vector<Handle> Viewport::handles() const {
    const Light* l = document_.light(selected_);
    return l ? handles_of(*l, shown_view(), reach_of(*l)) : std::vector<Handle>{};
}

int Viewport::light_near(const QPointF& at) const {
    int best = -1;
    double bestDistance = 12;
    for (const Light& l : lights_at(document_.project().lights, document_.project().motions, document_.project().view.seconds))
        if (const auto p = place_of(l.position)) {
            const double d = std::hypot(p->x() - at.x(), p->y() - at.y());
            if (d < bestDistance) bestDistance = d, best = l.id;
        }
    return best;
}

int Viewport::handle_near(const QPointF& at) const {
    const auto all = handles();
    int best = -1;
    double bestDistance = 11;
    for (std::size_t i = 0; i < all.size(); ++i)
        if (const auto p = place_of(all[i].position)) {
            const double d = std::hypot(p->x() - at.x(), p->y() - at.y());
            if (d < bestDistance) bestDistance = d, best = static_cast<int>(i);
        }
    return best;
}

void Viewport::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), theme().pictureSurround);
    const QRectF r = picture_rect();
    if (!picture_.isNull()) {
        if (picture_.size() == r.size().toSize()) p.drawImage(r.topLeft(), picture_);
        else p.drawImage(r, picture_);
        if (!pictureB_.isNull()) paint_pair(p, r);
    } else {
        p.setPen(theme().quiet);
        p.drawText(rect(), Qt::AlignCenter, document_.is_open() ? tr("The first picture is on its way") : tr("Open a scene: a .mirolux project or a glTF 2.0 file"));
    }
    if (document_.is_open()) {
        p.setClipRect(r);
        p.setRenderHint(QPainter::Antialiasing);
        if (tile_map_visible()) {
            tileMap_.paint(p, r);
            paint_tile_label(p);
        }
        if (lightsShown_) paint_lights(p);
        paint_handles(p);
        paint_account(p);
        p.setClipping(false);
    }
    if (!message_.isEmpty()) {
        const QRect box = p.fontMetrics().boundingRect(QRect(0, 0, width() - 60, 200), Qt::TextWordWrap, message_).translated(22, 16).adjusted(-10, -7, 10, 7);
        QColor back = theme().panel;
        back.setAlpha(235);
        p.setPen(trouble_ ? theme().alarm : theme().line);
        p.setBrush(back);
        p.drawRoundedRect(box, 4, 4);
        p.setPen(theme().text);
        p.drawText(box.adjusted(10, 7, -10, -7), Qt::TextWordWrap, message_);
    }
    if (!picture_.isNull()) emit painted_picture();
}

void Viewport::paint_tile_label(QPainter& p) {
    if (drag_ == Drag::none && underMouse() && !asksForPixel_) paint_label(p, pointer_, tileMap_.describe(pointer_, picture_rect()));
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
    const QPointF at(r.left() + (account_->pixel.x + 0.5) * r.width() / t.width, r.top() + (account_->pixel.y + 0.5) * r.height() / t.height);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(QColor(0, 0, 0, 180), 3.5));
    p.drawEllipse(at, 7, 7);
    p.setPen(QPen(QColor(240, 170, 72), 1.6));
    p.drawEllipse(at, 7, 7);
    // The one line, broken where it would run out of the picture.
    QStringList lines{QString()};
    const QStringList words = QString::fromStdString(account_->reason).split(' ');
    for (const QString& w : words) {
        if (p.fontMetrics().horizontalAdvance(lines.back() + " " + w) > std::min(340.0, r.width() - 40)) lines << QString();
        lines.back() += (lines.back().isEmpty() ? "" : " ") + w;
    }
    paint_label(p, at, lines);
}

void Viewport::show_account(const std::optional<PixelAccount>& account) {
    account_ = account;
    update();
}

void Viewport::ask_for_pixel(const QPointF& at, bool hold) {
    const QRectF r = picture_rect();
    if (!document_.is_open() || !r.contains(at)) return;
    asksForPixel_ = true;
    const Target& t = document_.target();
    emit pixel_wanted(QPoint(std::clamp(static_cast<int>((at.x() - r.left()) * t.width / r.width()), 0, t.width - 1), std::clamp(static_cast<int>((at.y() - r.top()) * t.height / r.height()), 0, t.height - 1)), hold);
    update();
}

void Viewport::stop_asking() {
    if (!asksForPixel_) return;
    asksForPixel_ = false;
    emit pixel_left();
    update();
}

void Viewport::paint_lights(QPainter& p) {
    const std::vector<Light> lights = lights_at(document_.project().lights, document_.project().motions, document_.project().view.seconds);
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
        if (l.type == LightType::point) p.drawEllipse(*at, size, size);
        else {
            // A wedge for spots, a bar for directional lights: told apart without colour.
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
            } else p.drawRect(QRectF(at->x() - size, at->y() - size, 2 * size, 2 * size));
        }
        if (l.id == hovered_) {
            const QString name = QString::fromStdString(l.name);
            const QRectF box = QRectF(p.fontMetrics().boundingRect(name)).translated(at->x() + 14, at->y() + 4).adjusted(-5, -3, 5, 3);
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
            if (!at) started = false;
            else if (!started) path.moveTo(*at), started = true;
            else path.lineTo(*at);
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
            curve([&](float t) {
                const float a = t * 6.2831853f;
                const float c = std::cos(a) * reach, s = std::sin(a) * reach;
                return o + (k == 0 ? glm::vec3(c, 0, s) : k == 1 ? glm::vec3(c, s, 0) : glm::vec3(0, c, s));
            }, 64);
    if (l->type == LightType::spot) {
        const glm::vec3 d = l->direction, u = handle_side(*l, view), v = glm::cross(d, u);
        for (const float angle : {l->outerConeAngle, l->innerConeAngle}) {
            if (angle < 0.01f) continue;
            for (const float share : {0.6f, 1.0f})
                curve([&](float t) {
                    const float a = t * 6.2831853f;
                    return o + (d * std::cos(angle) + (u * std::cos(a) + v * std::sin(a)) * std::sin(angle)) * reach * share;
                }, 48);
        }
        for (int k = 0; k < 4; ++k) {
            const float a = 1.5707963f * static_cast<float>(k);
            const glm::vec3 rim = (d * std::cos(l->outerConeAngle) + (u * std::cos(a) + v * std::sin(a)) * std::sin(l->outerConeAngle)) * reach;
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
            p.setPen(QPen(kind == HandleKind::aim ? accent : QColor(225, 225, 220), 1.6, arm ? Qt::SolidLine : Qt::DashLine));
            p.drawLine(*center, *at);
        }
        p.setPen(QPen(QColor(0, 0, 0, 200), 1.4));
        p.setBrush(hot ? accent : arm ? QColor(225, 225, 220) : kind == HandleKind::ground ? display_color(effective_color(*l)) : QColor(250, 214, 150));
        if (arm) {
            p.drawEllipse(*at, r - 0.5, r - 0.5);
            p.setPen(QColor(20, 20, 20));
            QFont small = font();
            small.setPixelSize(11);
            const QString name = kind == HandleKind::axisX ? "x" : kind == HandleKind::axisY ? "y" : "z";
            p.setFont(small);
            p.setPen(QColor(245, 244, 240));
            p.drawText(*at + QPointF(8, -5), name);
            p.setFont(font());
        } else if (kind == HandleKind::ground) p.drawEllipse(*at, r + 2, r + 2);
        else if (kind == HandleKind::aim) p.drawPolygon(QPolygonF({*at + QPointF(0, -r - 2), *at + QPointF(r + 2, 0), *at + QPointF(0, r + 2), *at + QPointF(-r - 2, 0)}));
        else p.drawRect(QRectF(at->x() - r, at->y() - r, 2 * r, 2 * r));
        if (hot) {
            p.setPen(QColor(245, 240, 230));
            p.drawText(*at + QPointF(14, 18), word(kind));
        }
    }
}

void Viewport::mousePressEvent(QMouseEvent* e) {
    setFocus();
    if (!document_.is_open()) return;
    press_ = last_ = e->position();
    if (e->button() == Qt::LeftButton && e->modifiers() & Qt::AltModifier) {
        ask_for_pixel(press_, true);
        return;
    }
    if (e->button() == Qt::LeftButton && on_wipe(press_)) drag_ = Drag::wipe;
    else if (e->button() == Qt::RightButton) drag_ = Drag::look;
    else if (e->button() == Qt::MiddleButton) drag_ = Drag::pan;
    else if (const int h = handle_near(press_); h >= 0) {
        drag_ = Drag::handle;
        draggedKind_ = handles()[static_cast<std::size_t>(h)].kind;
        dragStart_ = *document_.light(selected_);
        dragReach_ = reach_of(dragStart_);
        document_.set_interactive(true);
    } else drag_ = Drag::maybePick;
}

void Viewport::mouseMoveEvent(QMouseEvent* e) {
    if (!document_.is_open()) return;
    const QPointF now = e->position(), step = now - last_;
    pointer_ = now;
    if (drag_ == Drag::none) {
        if (e->modifiers() & Qt::AltModifier) ask_for_pixel(now, false);
        else stop_asking();
        if (tile_map_visible()) update();
        if (on_wipe(now)) {
            setCursor(wipeAcross_ ? Qt::SplitHCursor : Qt::SplitVCursor);
            last_ = now;
            return;
        }
        if (cursor().shape() == Qt::SplitHCursor || cursor().shape() == Qt::SplitVCursor) setCursor(Qt::ArrowCursor);
        const int light = lightsShown_ ? light_near(now) : -1, handle = handle_near(now);
        if (light != hovered_ || handle != hoveredHandle_) {
            hovered_ = light;
            hoveredHandle_ = handle;
            setCursor(handle >= 0 || light >= 0 ? Qt::PointingHandCursor : Qt::ArrowCursor);
            update();
        }
        last_ = now;
        return;
    }
    if (drag_ == Drag::wipe) {
        const QRectF r = picture_rect();
        wipe_ = std::clamp(wipeAcross_ ? (now.x() - r.left()) / r.width() : (now.y() - r.top()) / r.height(), 0.0, 1.0);
        update();
        return;
    }
    if (drag_ == Drag::maybePick) {
        if ((now - press_).manhattanLength() < 4) return;
        drag_ = e->modifiers() & Qt::ShiftModifier ? Drag::pan : Drag::orbit;
    }
    if (drag_ != Drag::handle) document_.set_interactive(true);
    const Camera& c = document_.project().view.camera;
    const auto turn = [&](double pixels) { return static_cast<float>(pixels) * 0.006f; };
    switch (drag_) {
    case Drag::orbit: document_.move_camera(orbit(c, turn(step.x()), turn(-step.y()))); break;
    case Drag::look: document_.move_camera(look(c, turn(step.x()), turn(-step.y()))); break;
    case Drag::pan: {
        const float pixel = metres_per_pixel(shown_view(), c.aim);
        document_.move_camera(pan(c, static_cast<float>(-step.x()) * pixel, static_cast<float>(step.y()) * pixel));
        break;
    }
    case Drag::handle: {
        const Ray from = ray_at(press_), to = ray_at(now);
        std::optional<glm::vec3> surface;
        if (draggedKind_ == HandleKind::aim)
            if (const RayHit hit = nearest_hit(*document_.asset(), to.origin, to.direction); hit.object >= 0) surface = to.origin + to.direction * hit.distance;
        const Light moved = dragged(dragStart_, draggedKind_, shown_view(), from, to, surface, dragReach_);
        document_.edit_light(tr("%1: %2").arg(QString::fromStdString(dragStart_.name), word(draggedKind_)), selected_, [&](Light& l) { l = moved; }, "handle");
        break;
    }
    default: break;
    }
    last_ = now;
}

void Viewport::mouseReleaseEvent(QMouseEvent* e) {
    const Drag was = drag_;
    drag_ = Drag::none;
    if (was == Drag::maybePick && e->button() == Qt::LeftButton) {
        if (tile_map_visible()) {
            if (const auto cell = tileMap_.cell_at(e->position(), picture_rect())) {
                emit tile_picked(cell);
                return;
            }
        }
        const int id = light_near(e->position());
        selected_ = id;
        emit light_picked(id);
        update();
    } else if (was != Drag::none && was != Drag::wipe) document_.set_interactive(false);
}

void Viewport::wheelEvent(QWheelEvent* e) {
    if (!document_.is_open()) return;
    document_.set_interactive(true);
    document_.move_camera(dolly(document_.project().view.camera, std::pow(0.999f, static_cast<float>(e->angleDelta().y()))));
    wheelPause_.start();
}

void Viewport::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Alt && underMouse() && document_.is_open()) ask_for_pixel(pointer_, false);
    static const QSet<int> flying = {Qt::Key_Left, Qt::Key_Right, Qt::Key_Up, Qt::Key_Down, Qt::Key_PageUp, Qt::Key_PageDown};
    if (!document_.is_open() || !flying.contains(e->key())) {
        QWidget::keyPressEvent(e);
        return;
    }
    if (e->isAutoRepeat()) return;
    keys_.insert(e->key());
    if (!flyTimer_.isActive()) {
        document_.set_interactive(true);
        flyClock_.restart();
        flyTimer_.start();
    }
}

void Viewport::keyReleaseEvent(QKeyEvent* e) {
    if (e->isAutoRepeat()) return;
    if (e->key() == Qt::Key_Alt) stop_asking();
    keys_.remove(e->key());
    if (keys_.isEmpty() && flyTimer_.isActive()) {
        flyTimer_.stop();
        document_.set_interactive(false);
    }
}

void Viewport::focusOutEvent(QFocusEvent*) {
    keys_.clear();
    if (flyTimer_.isActive()) {
        flyTimer_.stop();
        document_.set_interactive(false);
    }
}

void Viewport::fly_step() {
    const float seconds = std::min(0.1f, static_cast<float>(flyClock_.restart()) * 1e-3f);
    const float pace = (QGuiApplication::keyboardModifiers() & Qt::ShiftModifier ? 16.0f : 4.0f) * seconds; // metres
    glm::vec3 m(0.0f);
    m.x = static_cast<float>(keys_.contains(Qt::Key_Right) - keys_.contains(Qt::Key_Left));
    m.z = static_cast<float>(keys_.contains(Qt::Key_Up) - keys_.contains(Qt::Key_Down));
    m.y = static_cast<float>(keys_.contains(Qt::Key_PageUp) - keys_.contains(Qt::Key_PageDown));
    document_.move_camera(fly(document_.project().view.camera, m * pace));
}

void Viewport::resizeEvent(QResizeEvent*) { emit display_resized(size() * devicePixelRatioF()); }

void Viewport::leaveEvent(QEvent*) {
    hovered_ = hoveredHandle_ = -1;
    stop_asking();
    update();
}

void Viewport::frame_selection() {
    if (!document_.is_open()) return;
    const Camera& c = document_.project().view.camera;
    if (const Light* l = document_.light(selected_)) document_.move_camera(frame_sphere(c, l->position, std::clamp(reach_of(*l) * 0.6f, 1.0f, 30.0f)));
    else {
        const Box& b = document_.asset()->bounds;
        document_.move_camera(frame_sphere(c, b.center(), 0.5f * glm::length(b.size())));
    }
    emit document_.settled();
}

} // namespace mirolux::app
