#include "app/viewport.h"
#include "app/marks.h"
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

Viewport::Viewport(Document& document, Selection& selection, QWidget* parent)
    : QWidget(parent), document_(document), selection_(selection) {
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
        if (quiet_) return;
        blinkB_ = !blinkB_;
        update();
    });
    connect(&document_, &Document::changed, this, qOverload<>(&QWidget::update));
    connect(&selection_, &Selection::cloud_changed, this, qOverload<>(&QWidget::update));
    connect(&selection_, &Selection::probe_changed, this, qOverload<>(&QWidget::update));
    connect(&selection_, &Selection::changed, this, [this] {
        hoveredHandle_ = hoveredPlace_ = -1;
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

void Viewport::show_b(const QImage& scaled, const QImage& full) {
    pictureB_ = scaled;
    fullB_ = full;
    if (scaled.isNull()) difference_.reset();
    set_pair_view(pairView_);
}

void Viewport::show_difference(const std::shared_ptr<const PairDifference>& difference) {
    difference_ = difference;
    update();
}

void Viewport::name_sides(const QString& a, const QString& b) {
    sideA_ = a;
    sideB_ = b;
    update();
}

void Viewport::set_pair_view(PairView view) {
    pairView_ = view;
    blinkB_ = false;
    if (view == PairView::blink && !pictureB_.isNull())
        blinkTimer_.start();
    else
        blinkTimer_.stop();
    update();
}

void Viewport::turn_wipe() {
    wipeAcross_ = !wipeAcross_;
    update();
}

bool Viewport::on_wipe(const QPointF& at) const {
    if (pictureB_.isNull() || pairView_ != PairView::wipe) return false;
    const QRectF r = picture_rect();
    return r.contains(at) && (wipeAcross_ ? std::abs(at.x() - (r.left() + wipe_ * r.width()))
                                          : std::abs(at.y() - (r.top() + wipe_ * r.height()))) < 7;
}

void Viewport::show_message(const QString& text, bool trouble) {
    message_ = text;
    trouble_ = trouble;
    update();
}

void Viewport::set_takes(Takes takes) {
    takes_ = takes;
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

QRectF Viewport::picture_rect() const {
    const double w = document_.is_open() ? document_.target().width : 16,
                 h = document_.is_open() ? document_.target().height : 9;
    const double scale = std::min(width() / w, height() / h);
    return {(width() - w * scale) / 2, (height() - h * scale) / 2, w * scale, h * scale};
}

View Viewport::shown_view() const {
    View v = eye_views(document_.project().view).front(); // the picture is the left eye's
    const QRectF r = picture_rect();
    v.width = std::max(1, static_cast<int>(std::lround(r.width())));
    v.height = std::max(1, static_cast<int>(std::lround(r.height())));
    return v;
}

/// Where what is shown lies: a target of another shape stands in the picture's middle.
QRectF Viewport::shown_rect() const {
    const QRectF r = picture_rect();
    if (pictureSize_.isEmpty() || picture_.isNull()) return r;
    const double shape = double(pictureSize_.width()) / pictureSize_.height();
    if (std::abs(shape * r.height() / r.width() - 1) < 0.02) return r; // a reduced size is not quite of the shape
    const QSizeF size = QSizeF(pictureSize_).scaled(r.size(), Qt::KeepAspectRatio);
    return {r.center().x() - size.width() / 2, r.center().y() - size.height() / 2, size.width(), size.height()};
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
    if (document_.is_flat()) return l.range;
    return l.range > 0 ? l.range
                       : derived_range(l, static_cast<float>(document_.project().setup.number("light.threshold")));
}

void Viewport::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), theme().pictureSurround);
    const QRectF r = picture_rect();
    if (!picture_.isNull()) {
        if (picture_.size() == r.size().toSize())
            p.drawImage(r.topLeft(), picture_);
        else
            p.drawImage(shown_rect(), picture_);
        if (!pictureB_.isNull()) paint_pair(p, r);
    } else {
        p.setPen(theme().quiet);
        p.drawText(rect(), Qt::AlignCenter,
                   document_.is_open() ? tr("The first picture is on its way")
                                       : tr("Open a scene: a .mirolux project or a glTF 2.0 file"));
    }
    if (document_.is_open()) {
        p.setClipRect(r);
        p.setRenderHint(QPainter::Antialiasing);
        static constexpr void (Viewport::*overlays[])(QPainter&) = {
            &Viewport::paint_tile_map,      &Viewport::paint_faults,  &Viewport::paint_objects,
            &Viewport::paint_proxies,       &Viewport::paint_stage,   &Viewport::paint_brush,
            &Viewport::paint_probes,        &Viewport::paint_lights,  &Viewport::paint_handles,
            &Viewport::paint_place_handles, &Viewport::paint_ghost,   &Viewport::paint_meter,
            &Viewport::paint_band,          &Viewport::paint_account, &Viewport::paint_loupe};
        for (const auto paint : overlays)
            (this->*paint)(p);
        QStringList plates;
        if (const std::size_t lit = document_.isolated().size())
            plates << (lit == 1 ? tr("only 1 light shines (I)") : tr("only %1 lights shine (I)").arg(lit));
        if (document_.head_lamp()) plates << tr("head lamp (E)");
        if (!stale_.isEmpty()) plates << tr("stale: %1").arg(stale_);
        if (!plates.isEmpty()) paint_plate(p, r.topLeft() + QPointF(10, 10), plates.join(", "));
        p.setClipping(false);
    }
    if (!message_.isEmpty()) {
        const QRect box = p.fontMetrics()
                              .boundingRect(QRect(0, 0, width() - 60, 200), Qt::TextWordWrap, message_)
                              .translated(22, 16)
                              .adjusted(-10, -7, 10, 7);
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

void Viewport::show_account(const std::optional<PixelAccount>& account) {
    account_ = account;
    update();
}

void Viewport::ask_for_pixel(const QPointF& at, bool hold) {
    const QRectF r = picture_rect();
    if (!document_.is_open() || !r.contains(at)) return;
    asksForPixel_ = true;
    const Target& t = document_.target();
    emit pixel_wanted(QPoint(std::clamp(static_cast<int>((at.x() - r.left()) * t.width / r.width()), 0, t.width - 1),
                             std::clamp(static_cast<int>((at.y() - r.top()) * t.height / r.height()), 0, t.height - 1)),
                      hold);
    update();
}

void Viewport::stop_asking() {
    if (!asksForPixel_) return;
    asksForPixel_ = false;
    emit pixel_left();
    update();
}

void Viewport::mousePressEvent(QMouseEvent* e) {
    setFocus();
    if (!document_.is_open()) return;
    press_ = last_ = e->position();
    if (e->button() == Qt::LeftButton && e->modifiers() & Qt::AltModifier) {
        ask_for_pixel(press_, true);
        return;
    }
    if (e->button() == Qt::LeftButton && drawsProxy_ && begin_proxy(press_)) return;
    if (e->button() == Qt::LeftButton && wish_ && put_thing(press_, e->modifiers() & Qt::ShiftModifier)) return;
    if (e->button() == Qt::LeftButton && brush_ && !on_wipe(press_) && begin_brush(press_))
        drag_ = Drag::brush;
    else if (e->button() == Qt::LeftButton && on_wipe(press_))
        drag_ = Drag::wipe;
    else if (e->button() == Qt::RightButton)
        drag_ = document_.is_flat() ? Drag::pan : Drag::look;
    else if (e->button() == Qt::MiddleButton)
        drag_ = Drag::pan;
    else if (e->button() == Qt::LeftButton && on_spot(press_)) {
        drag_ = Drag::meter;
        document_.set_interactive(true);
    } else if (const int h = handle_near(press_); h >= 0) {
        drag_ = Drag::handle;
        draggedKind_ = handles()[static_cast<std::size_t>(h)].kind;
        dragStart_ = *held();
        dragReach_ = reach_of(dragStart_);
        document_.set_interactive(true);
    } else if (const int probe = e->button() == Qt::LeftButton ? probe_near(press_) : -1; probe >= 0) {
        selection_.clear();
        selection_.set_probe(probe);
    } else if (begin_piece(press_))
        drag_ = Drag::piece;
    else if (const int place = place_handle_near(press_); place >= 0)
        begin_placing(place_handles()[static_cast<std::size_t>(place)].kind);
    else
        drag_ = Drag::maybePick;
}

void Viewport::mouseMoveEvent(QMouseEvent* e) {
    if (!document_.is_open()) return;
    const QPointF now = e->position(), step = now - last_;
    pointer_ = now;
    pinned_ = false;
    if (drag_ == Drag::none) {
        emit way_pointed(ray_at(now).direction);
        if (e->modifiers() & Qt::AltModifier)
            ask_for_pixel(now, false);
        else
            stop_asking();
        if (tile_map_visible() || loupe_ || brush_) update();
        if (wish_) {
            last_ = now;
            return find_ghost(now);
        }
        if (on_wipe(now)) {
            setCursor(wipeAcross_ ? Qt::SplitHCursor : Qt::SplitVCursor);
            last_ = now;
            return;
        }
        if (cursor().shape() == Qt::SplitHCursor || cursor().shape() == Qt::SplitVCursor) setCursor(Qt::ArrowCursor);
        hover(now);
        last_ = now;
        return;
    }
    if (drag_ == Drag::proxy) return size_proxy(now);
    if (drag_ == Drag::brush) return drag_brush(now);
    if (drag_ == Drag::wipe) {
        const QRectF r = picture_rect();
        wipe_ = std::clamp(wipeAcross_ ? (now.x() - r.left()) / r.width() : (now.y() - r.top()) / r.height(), 0.0, 1.0);
        update();
        return;
    }
    if (drag_ == Drag::place && placedBy_.isEmpty() && (now - press_).manhattanLength() < 4) return;
    if (drag_ == Drag::piece) {
        if (taking_->moved || (now - press_).manhattanLength() >= 4)
            drag_piece(now, e->modifiers() & Qt::ShiftModifier);
        return;
    }
    if (drag_ == Drag::maybePick) {
        if ((now - press_).manhattanLength() < 4) return;
        drag_ = e->modifiers() & Qt::ControlModifier                        ? Drag::band
                : e->modifiers() & Qt::ShiftModifier || document_.is_flat() ? Drag::pan
                                                                            : Drag::orbit;
    }
    if (drag_ == Drag::band) {
        last_ = now;
        return update();
    }
    if (drag_ == Drag::meter) {
        drag_spot(step);
        last_ = now;
        return;
    }
    if (drag_ != Drag::handle && drag_ != Drag::place) document_.set_interactive(true);
    const Camera& c = document_.project().view.camera;
    const auto turn = [&](double pixels) { return static_cast<float>(pixels) * 0.006f; };
    switch (drag_) {
    case Drag::orbit:
        document_.move_camera(orbit(c, turn(step.x()), turn(-step.y())));
        break;
    case Drag::look:
        document_.move_camera(look(c, turn(step.x()), turn(-step.y())));
        break;
    case Drag::pan: {
        const float pixel = metres_per_pixel(shown_view(), c.aim);
        document_.move_camera(pan(c, static_cast<float>(-step.x()) * pixel, static_cast<float>(step.y()) * pixel));
        break;
    }
    case Drag::handle:
        drag_light(now);
        break;
    case Drag::place:
        place_to(now, e->modifiers() & Qt::ShiftModifier);
        break;
    default:
        break;
    }
    last_ = now;
}

void Viewport::mouseReleaseEvent(QMouseEvent* e) {
    const Drag was = drag_;
    drag_ = Drag::none;
    if (was == Drag::proxy) return end_proxy();
    if (was == Drag::brush) return end_brush();
    if (was == Drag::piece) {
        if (taking_->moved) return end_piece();
        taking_.reset();
        return pick(e->position(), false);
    }
    if (was == Drag::maybePick && e->button() == Qt::LeftButton) {
        if (tile_map_visible()) {
            if (const auto cell = tileMap_.cell_at(e->position(), picture_rect())) {
                emit tile_picked(cell);
                return;
            }
        }
        pick(e->position(), e->modifiers() & (Qt::ShiftModifier | Qt::ControlModifier));
    } else if (was == Drag::band) {
        const std::vector<int> found = inside(QRectF(press_, e->position()).normalized());
        const bool lights = takes_ == Takes::lights;
        std::vector<int> some, none;
        if (e->modifiers() & Qt::ShiftModifier) some = lights ? selection_.lights() : selection_.objects();
        some.insert(some.end(), found.begin(), found.end());
        selection_.set(lights ? some : none, lights ? none : some);
        update();
    } else if (was == Drag::place && placedBy_.isEmpty()) {
        placing_.reset(); // a handle in the way of a click
        document_.set_interactive(false);
        pick(e->position(), e->modifiers() & (Qt::ShiftModifier | Qt::ControlModifier));
    } else if (was != Drag::none && was != Drag::wipe) {
        placing_.reset();
        placedBy_.clear();
        document_.set_interactive(false);
    }
}

void Viewport::wheelEvent(QWheelEvent* e) {
    if (!document_.is_open()) return;
    document_.set_interactive(true);
    const glm::dvec2 before = document_.is_flat() ? unit_at(e->position()) : glm::dvec2(0.0);
    Camera camera = dolly(document_.project().view.camera, std::pow(0.999f, static_cast<float>(e->angleDelta().y())));
    document_.move_camera(camera);
    if (document_.is_flat()) { // what lies under the pointer stays there
        const glm::dvec2 gone = before - unit_at(e->position());
        document_.move_camera(pan(camera, static_cast<float>(gone.x), static_cast<float>(gone.y)));
    }
    wheelPause_.start();
}

void Viewport::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Alt && underMouse() && document_.is_open()) ask_for_pixel(pointer_, false);
    static const QSet<int> flying = {Qt::Key_Left, Qt::Key_Right,  Qt::Key_Up,
                                     Qt::Key_Down, Qt::Key_PageUp, Qt::Key_PageDown};
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

void Viewport::resizeEvent(QResizeEvent*) {
    emit display_resized(size() * devicePixelRatioF());
}

void Viewport::leaveEvent(QEvent*) {
    hovered_ = hoveredHandle_ = hoveredPlace_ = -1;
    ghost_.reset();
    emit way_pointed(std::nullopt);
    stop_asking();
    update();
}

void Viewport::frame_selection() {
    if (!document_.is_open()) return;
    const Camera& c = document_.project().view.camera;
    if (const Light* l = document_.light(selection_.light()))
        document_.move_camera(frame_sphere(c, l->position, std::clamp(reach_of(*l) * 0.6f, 1.0f, 30.0f)));
    else {
        const Scene scene = document_.scene();
        Box b;
        for (const int o : selection_.objects())
            b.add(scene.objects()[static_cast<std::size_t>(o)].bounds);
        for (const int id : selection_.lights())
            b.add(document_.light(id)->position);
        if (b.empty()) b = scene.bounds();
        document_.move_camera(frame_sphere(c, b.center(), 0.5f * glm::length(b.size())));
    }
    emit document_.settled();
}

} // namespace mirolux::app
