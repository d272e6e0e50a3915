#include "app/marks.h"
#include "app/theme.h"
#include "app/viewport.h"
#include "core/plan/camera_motion.h"
#include <QPainter>

// What is to be built, at the pointer: where it would stand, and the click that puts it there.
namespace mirolux::app {

void Viewport::build(std::optional<BuildWish> wish) {
    wish_ = std::move(wish);
    ghost_.reset();
    if (wish_) {
        const QPointF here = mapFromGlobal(QCursor::pos());
        if (rect().contains(here.toPoint())) find_ghost(here);
    }
    setCursor(wish_ ? Qt::CrossCursor : Qt::ArrowCursor);
    update();
}

std::optional<Viewport::Met> Viewport::surface_at(const QPointF& at, std::span<const int> without) const {
    if (!picture_rect().contains(at)) return std::nullopt;
    const Ray ray = ray_at(at);
    const RayHit hit = document_.rays().nearest(ray, document_.project().view.camera.near, without);
    Met met{{}, {0, 1, 0}};
    if (hit.object >= 0) {
        met.point = ray.origin + ray.direction * hit.distance;
        met.normal = hit.normal;
    } else if (const auto ground = on_plane(ray, glm::vec3(0.0f), {0, 1, 0})) // nothing there: the ground's level
        met.point = *ground;
    else
        return std::nullopt;
    met.point = on_grid(met.point, met.normal, snap_.grid);
    return met;
}

void Viewport::find_ghost(const QPointF& at) {
    ghost_.reset();
    if (const auto met = surface_at(at)) {
        ObjectEdit e;
        e.scale = glm::vec3(wish_->scale);
        ghost_ = standing_on(e, wish_->box, met->point, met->normal);
    }
    update();
}

bool Viewport::put_thing(const QPointF& at, bool more) {
    find_ghost(at);
    if (!ghost_) return true; // the sky: it waits for a surface
    emit thing_put(*ghost_, more);
    return true;
}

void Viewport::paint_ghost(QPainter& p) {
    if (!wish_ || !ghost_) return;
    const glm::mat4 m = matrix_of(*ghost_);
    QVector<QLineF> lines;
    for (const auto& [a, b] : wish_->edges)
        if (const auto from = place_of(glm::vec3(m * glm::vec4(a, 1))), to = place_of(glm::vec3(m * glm::vec4(b, 1)));
            from && to)
            lines << QLineF(*from, *to);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(QColor(0, 0, 0, 150), 2.6, Qt::SolidLine, Qt::RoundCap));
    p.drawLines(lines);
    p.setPen(QPen(ivory, 1.0, Qt::SolidLine, Qt::RoundCap));
    p.drawLines(lines);
    const glm::vec3 foot = ghost_->translation;
    if (const auto at = place_of(foot))
        paint_plate(p, *at + QPointF(12, 8),
                    QString("%1   %2, %3, %4 m")
                        .arg(wish_->name)
                        .arg(foot.x, 0, 'f', 2)
                        .arg(foot.y, 0, 'f', 2)
                        .arg(foot.z, 0, 'f', 2));
}

} // namespace mirolux::app
