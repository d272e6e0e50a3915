#include "app/figures/plan_figure.h"
#include "app/setting_editor.h"
#include "app/theme.h"
#include "core/base/text.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

namespace mirolux::app {

PlanFigure::PlanFigure(Document& document, const RenderBridge& bridge, QWidget* parent)
    : Figure(document, bridge, parent) {
    setObjectName("plan figure");
    setAccessibleName(tr("The scene from above"));
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    setToolTip(tr("The scene from above. Press to stand there, drag to look; the wheel comes nearer, Home shows it "
                  "whole."));
    connect(&document_, &Document::changed, this, [this] {
        if (document_.is_open() && document_.asset()->fileDigest != scene_) {
            scene_ = document_.asset()->fileDigest;
            fit();
        }
        // What stands where it stood is not painted again for every number that is scrubbed.
        settle_ground();
        if (marks_of() != marked_) marks_ = {};
        update();
    });
    connect(&document_, &Document::settled, this, [this] {
        settle_ground();
        update();
    });
    connect(&document_, &Document::camera_moved, this, [this] {
        if (document_.project().view.seconds != marked_.seconds) marks_ = {}; // some lights move
        update();
    });
}

/// Thousands of things are not painted anew for every step of a drag.
void PlanFigure::settle_ground() {
    if (!document_.is_open() || (document_.interactive() && document_.object_count() > 2000)) return;
    if (document_.scene().placed != placed_) ground_ = {};
}

void PlanFigure::forget() {
    ground_ = marks_ = {};
    update();
}

PlanFigure::Marks PlanFigure::marks_of() const {
    if (!document_.is_open()) return {};
    const Project& p = document_.project();
    return {p.lights, p.motions, p.walks, p.cameras, p.view.seconds};
}

void PlanFigure::fit() {
    if (!document_.is_open()) return;
    std::vector<double> xs, zs;
    const Scene scene = document_.scene();
    const auto shown =
        std::count_if(scene.objects().begin(), scene.objects().end(), [](const Object& o) { return !o.hidden; });
    const bool few = shown < 8; // nothing is told apart from the ground under it: all of them, and where one stands
    const auto add = [&](const glm::vec3& at) {
        xs.push_back(at.x);
        zs.push_back(at.z);
    };
    for (const Object& o : scene.objects()) {
        if (o.hidden) continue;
        if (few) {
            add(o.bounds.low);
            add(o.bounds.high);
        } else
            add(o.bounds.center());
    }
    if (xs.empty()) return;
    if (few) add(document_.project().view.camera.eye);
    // Of many: what lies about, the middle nine tenths of their places.
    const auto span = [few](std::vector<double>& v) {
        std::sort(v.begin(), v.end());
        const auto at = [&](double share) { return v[static_cast<std::size_t>(share * double(v.size() - 1))]; };
        return few ? std::pair(v.front(), v.back()) : std::pair(at(0.02), at(0.98));
    };
    const auto [x0, x1] = span(xs);
    const auto [z0, z1] = span(zs);
    center_ = {(x0 + x1) / 2, (z0 + z1) / 2};
    scale_ = std::min(width() / std::max(1.0, (x1 - x0) * 1.15), height() / std::max(1.0, (z1 - z0) * 1.15));
    forget();
}

QPointF PlanFigure::place_of(const glm::vec3& world) const {
    return {width() * 0.5 + (world.x - center_.x) * scale_, height() * 0.5 + (world.z - center_.y) * scale_};
}
glm::dvec2 PlanFigure::world_at(const QPointF& point) const {
    return center_ + glm::dvec2(point.x() - width() * 0.5, point.y() - height() * 0.5) / scale_;
}

/// Footprints, the higher the lighter; a grid of ten metres.
void PlanFigure::paint_ground(QPainter& p) const {
    const Theme& t = theme();
    p.fillRect(rect(), t.field);
    const glm::dvec2 low = world_at({0, 0}), high = world_at({double(width()), double(height())});
    p.setPen(QPen(t.line, 0.5));
    for (double x = std::ceil(low.x / 10) * 10; x < high.x; x += 10)
        p.drawLine(QPointF(place_of({x, 0, 0}).x(), 0), QPointF(place_of({x, 0, 0}).x(), height()));
    for (double z = std::ceil(low.y / 10) * 10; z < high.y; z += 10)
        p.drawLine(QPointF(0, place_of({0, 0, z}).y()), QPointF(width(), place_of({0, 0, z}).y()));
    std::vector<const Object*> objects;
    const Scene scene = document_.scene();
    for (const Object& o : scene.objects())
        if (!o.hidden && !o.proxy) objects.push_back(&o);
    std::sort(objects.begin(), objects.end(),
              [](const Object* a, const Object* b) { return a->bounds.high.y < b->bounds.high.y; });
    for (const Object* o : objects) {
        const QRectF r(place_of(o->bounds.low), place_of(o->bounds.high));
        if (r.width() > 1.5 * width() || r.height() > 1.5 * height()) continue; // ground, sea
        QColor fill = t.text;
        fill.setAlphaF(std::clamp(0.05 + 0.02 * double(o->bounds.high.y), 0.05, 0.3));
        p.setPen(QPen(t.line, 0.7));
        p.setBrush(fill);
        p.drawRect(r);
    }
}

/// Walks, and lights in their colours.
void PlanFigure::paint_marks(QPainter& p) const {
    const Theme& t = theme();
    const Project& project = document_.project();
    for (const Walk& walk : project.walks) {
        QPolygonF line;
        for (const WalkKey& k : walk.keys)
            line << place_of(k.eye);
        p.setPen(QPen(t.quiet, 1.2, Qt::DashLine));
        p.setBrush(Qt::NoBrush);
        p.drawPolyline(line);
    }
    for (const Light& l : document_.lights_now()) {
        if (l.type == LightType::directional || !l.enabled) continue;
        p.setPen(QPen(QColor(0, 0, 0, 150), 0.8));
        p.setBrush(display_color(effective_color(l)));
        p.drawEllipse(place_of(l.position), 1.9, 1.9);
    }
}

void PlanFigure::paintEvent(QPaintEvent*) {
    if (!document_.is_open()) return;
    if (std::exchange(dark_, theme().dark) != theme().dark) ground_ = marks_ = {};
    QPainter p(this);
    const auto kept = [&](QPixmap& pixmap, void (PlanFigure::*paint)(QPainter&) const) {
        if (pixmap.size() != size() * devicePixelRatio()) {
            pixmap = QPixmap(size() * devicePixelRatio());
            pixmap.setDevicePixelRatio(devicePixelRatio());
            pixmap.fill(Qt::transparent);
            QPainter painter(&pixmap);
            painter.setRenderHint(QPainter::Antialiasing);
            (this->*paint)(painter);
        }
        p.drawPixmap(0, 0, pixmap);
    };
    if (ground_.isNull()) placed_ = document_.scene().placed;
    if (marks_.isNull()) marked_ = marks_of();
    kept(ground_, &PlanFigure::paint_ground);
    kept(marks_, &PlanFigure::paint_marks);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    const Project& project = document_.project();
    const auto wedge = [&](const Camera& c, double length) {
        const glm::vec3 d = c.aim - c.eye;
        const double angle = std::atan2(d.z, d.x),
                     half = std::atan(std::tan(c.fovY / 2) * document_.target().width / document_.target().height);
        const QPointF at = place_of(c.eye);
        return QPolygonF({at, at + QPointF(std::cos(angle - half), std::sin(angle - half)) * length,
                          at + QPointF(std::cos(angle + half), std::sin(angle + half)) * length});
    };
    for (std::size_t i = 0; i < project.cameras.size(); ++i) {
        p.setPen(QPen(static_cast<int>(i) == under_ ? t.text : t.quiet, 1.2));
        p.setBrush(t.panel);
        p.drawPolygon(wedge(project.cameras[i], 10));
    }
    QColor seen = t.lit;
    seen.setAlpha(70);
    p.setPen(QPen(t.lit, 1.2));
    p.setBrush(seen);
    p.drawPolygon(wedge(project.view.camera, 46));
    p.setBrush(t.lit);
    p.drawEllipse(place_of(project.view.camera.eye), 3.4, 3.4);
    QString text;
    if (under_ >= 0)
        text = QString::fromStdString(project.cameras[static_cast<std::size_t>(under_)].name);
    else if (pointer_) {
        const glm::dvec2 w = world_at(*pointer_);
        text = QString("x %1, z %2 m").arg(w.x, 0, 'f', 1).arg(w.y, 0, 'f', 1);
    }
    if (text.isEmpty()) return;
    p.setFont(sized(font(), 11));
    const QRectF box(4, height() - 21.0, p.fontMetrics().horizontalAdvance(text) + 12, 17);
    p.fillRect(box, t.panel);
    p.setPen(t.text);
    p.drawText(box, Qt::AlignCenter, text);
}

int PlanFigure::camera_at(const QPointF& point) const {
    const auto& cameras = document_.project().cameras;
    for (std::size_t i = 0; i < cameras.size(); ++i) {
        const QPointF d = place_of(cameras[i].eye) - point;
        if (std::hypot(d.x(), d.y()) < 7) return static_cast<int>(i);
    }
    return -1;
}

/// The view moves there with its height and direction.
void PlanFigure::stand(const glm::dvec2& at) {
    Camera c = document_.project().view.camera;
    const glm::vec3 d = c.aim - c.eye;
    c.eye = {at.x, c.eye.y, at.y};
    c.aim = c.eye + d;
    document_.move_camera(c);
}

void PlanFigure::mousePressEvent(QMouseEvent* e) {
    setFocus();
    if (!document_.is_open() || e->button() != Qt::LeftButton) return;
    if (const int i = camera_at(e->position()); i >= 0) {
        document_.move_camera(document_.project().cameras[static_cast<std::size_t>(i)]);
        return emit document_.settled();
    }
    down_ = true;
    document_.set_interactive(true);
    stand(world_at(e->position()));
}

void PlanFigure::mouseMoveEvent(QMouseEvent* e) {
    if (!document_.is_open()) return;
    pointer_ = e->position();
    under_ = down_ ? -1 : camera_at(e->position());
    if (down_) {
        Camera c = document_.project().view.camera;
        const glm::dvec2 to = world_at(e->position()) - glm::dvec2(c.eye.x, c.eye.z);
        if (glm::length(to) * scale_ > 4) {
            const glm::vec3 d = c.aim - c.eye;
            const double level = std::hypot(d.x, d.z);
            const glm::dvec2 n = glm::normalize(to) * level;
            c.aim = c.eye + glm::vec3(n.x, d.y, n.y);
            document_.move_camera(c);
        }
    }
    setCursor(under_ >= 0 ? Qt::PointingHandCursor : Qt::CrossCursor);
    update();
}

void PlanFigure::mouseReleaseEvent(QMouseEvent*) {
    if (!std::exchange(down_, false)) return;
    document_.set_interactive(false);
    emit document_.settled();
}

void PlanFigure::wheelEvent(QWheelEvent* e) {
    const glm::dvec2 under = world_at(e->position());
    scale_ = std::clamp(scale_ * std::pow(1.0015, e->angleDelta().y()), 0.05, 500.0);
    center_ += under - world_at(e->position());
    forget();
}

void PlanFigure::leaveEvent(QEvent*) {
    pointer_.reset();
    under_ = -1;
    update();
}

/// Arrow keys walk, a metre at a time.
void PlanFigure::keyPressEvent(QKeyEvent* e) {
    const std::pair<int, glm::dvec2> steps[] = {
        {Qt::Key_Left, {-1, 0}}, {Qt::Key_Right, {1, 0}}, {Qt::Key_Up, {0, -1}}, {Qt::Key_Down, {0, 1}}};
    for (const auto& [key, step] : steps)
        if (e->key() == key && document_.is_open()) {
            const glm::vec3 eye = document_.project().view.camera.eye;
            stand(glm::dvec2(eye.x, eye.z) + step);
            return emit document_.settled();
        }
    if (e->key() == Qt::Key_Home) return fit();
    QWidget::keyPressEvent(e);
}

} // namespace mirolux::app
