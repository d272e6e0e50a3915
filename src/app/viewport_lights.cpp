#include "app/marks.h"
#include "app/setting_editor.h"
#include "app/theme.h"
#include "app/viewport.h"
#include "core/air/cloud_place.h"
#include "core/ambient/probe_place.h"
#include "core/base/text.h"
#include "core/light/falloff.h"
#include "core/motion/carried.h"
#include <QPainterPath>
#include <cmath>

// Lights in the picture: their marks, and the handles of the one that is selected.
namespace mirolux::app {

/// What clips move lights by.
static Scene moving_scene(const Document& document) {
    Scene s{document.asset(), {}, {}, {}, document.placed()};
    s.clips = document.project().clips;
    return s;
}

std::optional<Light> Viewport::held() const {
    if (const Light* l = document_.light(selection_.light())) // handles stand where clips have carried it
        return carried(moving_scene(document_), *l, document_.project().view.seconds);
    if (const AirVolume* cloud = document_.cloud(selection_.cloud()); cloud && selection_.empty())
        return as_light(*cloud);
    if (const Probe* probe = document_.probe(selection_.probe()); probe && selection_.empty()) return as_light(*probe);
    const CheapLight* cheap = document_.cheap_light(selection_.cheap());
    if (!cheap || !cheap->solid() || !selection_.lights().empty() || takes_ != Takes::lights) return std::nullopt;
    return as_light(*cheap);
}

std::vector<Handle> Viewport::handles() const {
    const std::optional<Light> l = held();
    return l ? handles_of(*l, shown_view(), reach_of(*l)) : std::vector<Handle>{};
}

int Viewport::light_near(const QPointF& at) const {
    int best = -1;
    double bestDistance = 12;
    for (const Light& l : document_.lights_now())
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

void Viewport::paint_lights(QPainter& p) {
    if (takes_ != Takes::lights) return;
    const std::vector<Light> lights = document_.lights_now();
    const View view = shown_view();
    const bool isFlat = document_.is_flat();
    const std::vector<int>& isolated = document_.isolated();
    for (Light l : lights) {
        if (l.id == selection_.light()) continue;
        if (!isolated.empty()) l.enabled = std::find(isolated.begin(), isolated.end(), l.id) != isolated.end();
        const auto at = place_of(l.position);
        if (!at || !picture_rect().contains(*at)) continue;
        const float distance = glm::length(l.position - view.camera.eye);
        const double size = l.id == hovered_ ? 8 : isFlat ? 6 : std::clamp(46.0 / distance + 2.0, 2.5, 6.0);
        const double left = fade_of(l);
        p.setOpacity((l.enabled ? 0.95 : 0.6) * (0.35 + 0.65 * left));
        if (selection_.has_light(l.id)) {
            p.setBrush(ivory);
            p.setPen(QPen(QColor(0, 0, 0, 200), 1.2));
            p.drawEllipse(*at, size + 5, size + 5);
        }
        paint_mark(p, l, *at, place_of(l.position + l.direction * metres_per_pixel(view, l.position) * 16.0f), size);
        p.setOpacity(1);
        if (left < 1.0) { // what fades stands behind a stroke
            p.setPen(QPen(QColor(0, 0, 0, 170), 3));
            p.drawLine(*at + QPointF(-size - 2, size + 2), *at + QPointF(size + 2, -size - 2));
            p.setPen(QPen(ivory, 1));
            p.drawLine(*at + QPointF(-size - 2, size + 2), *at + QPointF(size + 2, -size - 2));
        }
        if (l.id == hovered_)
            paint_plate(p, *at + QPointF(14, -9),
                        QString::fromStdString(l.name) + (left >= 1.0 ? QString()
                                                          : left <= 0.0
                                                              ? tr(", too far away: not rendered")
                                                              : tr(", faded to %1 %").arg(left * 100, 0, 'f', 0)));
    }
}

/// The selected light's reach: rings of a point, rims and edges of a cone, in its own colour.
void Viewport::paint_reach(QPainter& p, const Light& l) {
    if (document_.is_flat()) return paint_flat_reach(p, l);
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

/// A closed curve or an edge in the world, as far as it lies before the eye.
static QPainterPath path_of(const Viewport& viewport, const std::function<glm::vec3(float)>& point, int steps) {
    QPainterPath path;
    bool started = false;
    for (int i = 0; i <= steps; ++i) {
        const auto at = viewport.place_of(point(static_cast<float>(i) / static_cast<float>(steps)));
        if (!at)
            started = false;
        else if (!std::exchange(started, true))
            path.moveTo(*at);
        else
            path.lineTo(*at);
    }
    return path;
}

/// The twelve edges of a box; place: of its points, -1 to 1 from side to side.
void Viewport::paint_sides(QPainter& p, const std::function<glm::vec3(const glm::vec3&)>& place, const QColor& color) {
    p.setBrush(Qt::NoBrush);
    for (int axis = 0; axis < 3; ++axis)
        for (int corner = 0; corner < 4; ++corner) {
            const QPainterPath edge = path_of(
                *this,
                [&](float t) {
                    glm::vec3 u(0.0f);
                    u[axis] = 2 * t - 1;
                    u[(axis + 1) % 3] = corner & 1 ? 1.0f : -1.0f;
                    u[(axis + 2) % 3] = corner & 2 ? 1.0f : -1.0f;
                    return place(u);
                },
                8);
            two_tone(p, color, 1.2, Qt::SolidLine, [&] { p.drawPath(edge); });
        }
}

/// The sides of a box of air, or the three rings of a ball.
void Viewport::paint_cloud(QPainter& p, const AirVolume& cloud) {
    const auto place = [&](const glm::vec3& unit) { return place_in(cloud, unit); };
    if (cloud.shape == VolumeShape::box) return paint_sides(p, place, ivory);
    p.setBrush(Qt::NoBrush);
    for (int axis = 0; axis < 3; ++axis) {
        const QPainterPath ring = path_of(
            *this,
            [&](float t) {
                glm::vec3 u(0.0f);
                u[(axis + 1) % 3] = std::cos(t * 6.2831853f);
                u[(axis + 2) % 3] = std::sin(t * 6.2831853f);
                return place(u);
            },
            64);
        two_tone(p, ivory, 1.2, axis == 1 ? Qt::SolidLine : Qt::DotLine, [&] { p.drawPath(ring); });
    }
}

/// What its distance to the eye leaves of a light, 0 to 1.
double Viewport::fade_of(const Light& l) const {
    if (document_.is_flat() || l.type == LightType::directional) return 1.0;
    const Setup& s = document_.project().setup;
    const bool own = l.fadeOuter > 0.0f;
    return distance_fade(glm::length(l.position - document_.project().view.camera.eye),
                         own ? l.fadeInner : s.number("light.fadeInner"),
                         own ? l.fadeOuter : s.number("light.fadeOuter"));
}

/// Where the eye must be for the light to be full, and from where on it is gone: two level rings about it.
void Viewport::paint_fade(QPainter& p, const Light& l) {
    if (l.type == LightType::directional) return;
    const Setup& s = document_.project().setup;
    const bool own = l.fadeOuter > 0.0f;
    const double radii[] = {own ? l.fadeInner : s.number("light.fadeInner"),
                            own ? l.fadeOuter : s.number("light.fadeOuter")};
    if (radii[1] <= 0.0) return;
    for (int k = 0; k < 2; ++k) {
        QPainterPath ring;
        bool started = false;
        for (int i = 0; i <= 96; ++i) {
            const float a = static_cast<float>(i) * 6.2831853f / 96.0f, r = static_cast<float>(radii[k]);
            const auto at = place_of(l.position + glm::vec3(std::cos(a) * r, 0, std::sin(a) * r));
            if (!at)
                started = false;
            else if (!std::exchange(started, true))
                ring.moveTo(*at);
            else
                ring.lineTo(*at);
        }
        p.setBrush(Qt::NoBrush);
        two_tone(p, ivory, 1.1, k == 0 ? Qt::DashLine : Qt::DashDotDotLine, [&] { p.drawPath(ring); });
    }
}

/// What a handle changes, as a number.
static QString handle_text(HandleKind kind, const Light& l, bool units) {
    const auto number = [](double v) { return QString::fromStdString(number_text(v, 3)); };
    switch (kind) {
    case HandleKind::axisX:
        return "x " + number(l.position.x);
    case HandleKind::axisY:
        return "y " + number(l.position.y);
    case HandleKind::axisZ:
        return "z " + number(l.position.z);
    case HandleKind::range:
        return number(l.range) + (units ? "" : " m");
    case HandleKind::end:
        return number(l.flat.shape == FlatShape::line ? l.flat.length : l.flat.size) + ", " +
               number(glm::degrees(l.flat.turn)) + "\u00b0";
    case HandleKind::outerCone:
        return number(glm::degrees(l.outerConeAngle)) + "\u00b0";
    case HandleKind::innerCone:
        return number(glm::degrees(l.innerConeAngle)) + "\u00b0";
    case HandleKind::fadeInner:
        return "full to " + number(l.fadeInner) + " m";
    case HandleKind::fadeOuter:
        return "gone at " + number(l.fadeOuter) + " m";
    default:
        return {};
    }
}

void Viewport::paint_handles(QPainter& p) {
    const std::optional<Light> l = held();
    if (!l) return;
    if (const AirVolume* cloud = document_.cloud(selection_.cloud()); cloud && selection_.empty())
        paint_cloud(p, *cloud);
    else if (const Probe* probe = document_.probe(selection_.probe()); probe && selection_.empty())
        paint_sides(
            p, [&](const glm::vec3& unit) { return place_in(*probe, unit); }, ivory);
    else
        paint_reach(p, *l);
    if (selection_.light() >= 0 && !document_.is_flat()) paint_fade(p, *l);
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
        QString text = handle_text(kind, *l, document_.is_flat());
        if (hot)
            text = (kind == HandleKind::aim && document_.is_flat() ? tr("aim") : QString(word(kind))) +
                   (text.isEmpty() ? "" : "  " + text);
        // Beside its handle, where the others' words are not.
        const QPointF beside = kind == HandleKind::axisX   ? QPointF(-10, 9)
                               : kind == HandleKind::axisZ ? QPointF(-58, -9)
                                                           : QPointF(9, -9);
        if (!text.isEmpty()) paint_plate(p, *at + beside, text);
    }
    p.setFont(font());
}

void Viewport::drag_light(const QPointF& to) {
    const Ray from = ray_at(press_), ray = ray_at(to);
    std::optional<glm::vec3> surface;
    if (draggedKind_ == HandleKind::aim && !document_.is_flat())
        if (const RayHit hit = document_.rays().nearest(ray); hit.object >= 0)
            surface = ray.origin + ray.direction * hit.distance;
    const bool light = selection_.light() >= 0, cloud = !light && selection_.empty() && selection_.cloud() >= 0,
               probe = !light && !cloud && selection_.empty() && selection_.probe() >= 0;
    const Light moved = dragged(dragStart_, draggedKind_, shown_view(), from, ray, surface, dragReach_);
    const QString label = tr("%1: %2").arg(QString::fromStdString(dragStart_.name), word(draggedKind_));
    if (cloud)
        document_.edit_cloud(
            label, selection_.cloud(), [&](AirVolume& v) { take_place(v, moved); }, "handle");
    else if (probe)
        document_.edit_probe(
            label, selection_.probe(), [&](Probe& p) { take_place(p, moved); }, "handle");
    else if (!light)
        document_.edit_cheap_light(
            label, selection_.cheap(), [&](CheapLight& l) { take_place(l, moved); }, "handle");
    else
        document_.edit_light(
            label, dragStart_.id,
            [&](Light& l) {
                const Scene scene = moving_scene(document_);
                const double seconds = document_.project().view.seconds;
                l = put_back(scene, l, carried(scene, l, seconds), moved, seconds);
            },
            "handle");
}

} // namespace mirolux::app
