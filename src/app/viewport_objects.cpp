#include "app/marks.h"
#include "app/setting_editor.h"
#include "app/theme.h"
#include "app/viewport.h"
#include "core/base/text.h"
#include "core/shadow/caster_proxies.h"
#include <QPainterPath>
#include <cmath>
#include <unordered_map>

// Taking hold of things in the picture: clicks, bands, and the handles that place a selection.
namespace mirolux::app {

int Viewport::object_at(const QPointF& at, std::span<const int> without) const {
    if (!document_.is_open() || !picture_rect().contains(at)) return -1;
    const Ray ray = ray_at(at);
    const Camera& c = document_.project().view.camera;
    return document_.rays()
        .nearest(ray, c.near / glm::dot(ray.direction, glm::normalize(c.aim - c.eye)), without)
        .object;
}

/// A click takes the whole of a thing, the next one at the same place the part, each further one what lies behind.
void Viewport::pick(const QPointF& at, bool more) {
    const bool again = (at - pickedAt_).manhattanLength() < 4;
    pickedAt_ = at;
    if (!again) lookedThrough_.clear();
    if (takes_ == Takes::lights) {
        const int id = light_near(at);
        if (id < 0 && more) return;
        if (more)
            selection_.toggle({id}, {});
        else
            selection_.set_lights(id >= 0 ? std::vector<int>{id} : std::vector<int>{});
        return;
    }
    if (document_.is_flat()) return pick_piece(at, again);
    if (takes_ == Takes::proxies) {
        const int proxy = picture_rect().contains(at) ? nearest_proxy(document_.scene(), ray_at(at)).first : -1;
        if (proxy >= 0 && more) return selection_.toggle({}, {proxy});
        if (proxy >= 0 || !more) selection_.set_objects(proxy >= 0 ? std::vector<int>{proxy} : std::vector<int>{});
        return;
    }
    const int object = takes_ == Takes::objects ? object_at(at, lookedThrough_) : -1;
    if (object < 0) {
        lookedThrough_.clear();
        if (!more) selection_.clear();
        return;
    }
    const SceneAsset& asset = *document_.asset();
    const int node = asset.objectNames[static_cast<std::size_t>(object)].node;
    std::vector<int> whole;
    if (const BuiltThing* thing = thing_of(asset, object))
        whole = objects_of(asset, thing->id);
    else
        for (std::size_t i = 0; i < asset.objectNames.size() && node >= 0; ++i)
            if (asset.objectNames[i].node == node) whole.push_back(static_cast<int>(i));
    if (whole.empty()) whole = {object};
    if (more) return selection_.toggle({}, whole);
    if (again && selection_.objects() == whole && whole.size() > 1) return selection_.set_objects({object});
    if (again && selection_.objects() == std::vector<int>{object} && selection_.lights().empty()) {
        lookedThrough_.push_back(object);
        const int behind = object_at(at, lookedThrough_);
        if (behind < 0) lookedThrough_.clear(); // and from the front again
        return selection_.set_objects(behind >= 0 ? std::vector<int>{behind} : whole);
    }
    selection_.set_objects(whole);
}

void Viewport::hover(const QPointF& now) {
    const int light = takes_ == Takes::lights ? light_near(now) : -1, handle = handle_near(now),
              place = handle < 0 ? place_handle_near(now) : -1, grip = grip_near(now);
    if (light == hovered_ && handle == hoveredHandle_ && place == hoveredPlace_ && grip == hoveredGrip_) return;
    hoveredGrip_ = grip;
    hovered_ = light;
    hoveredHandle_ = handle;
    hoveredPlace_ = place;
    setCursor(handle >= 0 || light >= 0 || place >= 0 || grip >= 0 || on_spot(now) ? Qt::PointingHandCursor
                                                                                   : Qt::ArrowCursor);
    update();
}

std::optional<QRectF> Viewport::on_screen(const Box& b) const {
    QRectF box;
    for (int i = 0; i < 8; ++i) {
        const auto at = place_of({i & 1 ? b.high.x : b.low.x, i & 2 ? b.high.y : b.low.y, i & 4 ? b.high.z : b.low.z});
        if (!at) return std::nullopt;
        const QRectF corner(*at, QSizeF(1e-6, 1e-6));
        box = i == 0 ? corner : box.united(corner);
    }
    return box;
}

std::vector<int> Viewport::inside(const QRectF& band) const {
    std::vector<int> out;
    if (takes_ == Takes::lights) {
        for (const Light& l : document_.lights_now())
            if (const auto at = place_of(l.position); at && band.contains(*at)) out.push_back(l.id);
        return out;
    }
    if (takes_ == Takes::nothing) return out;
    const Scene scene = document_.scene();
    const View view = shown_view();
    const auto planes = frustum_planes(view.camera, aspect_of(view));
    for (std::size_t o = 0; o < scene.objects().size(); ++o) {
        const Object& object = scene.objects()[o];
        if (object.proxy != (takes_ == Takes::proxies)) continue;
        if (object.hidden || !intersects(planes, object.bounds)) continue;
        if (const auto box = on_screen(object.bounds); box && band.contains(*box)) out.push_back(static_cast<int>(o));
    }
    return out;
}

std::vector<Viewport::Thing> Viewport::things() const {
    std::vector<Thing> out;
    std::unordered_map<int, std::size_t> ofNode;
    for (const int o : selection_.objects()) {
        const Box inFile = box_before_edit(*document_.asset(), o);
        const ObjectEdit edit = document_.object_edit(o);
        const auto together = [&](const ObjectEdit& other) {
            return other.translation == edit.translation && other.rotation == edit.rotation &&
                   other.scale == edit.scale;
        };
        const ObjectName name = document_.object_name(o);
        const int node = name.thing >= 0 ? std::numeric_limits<int>::max() - name.thing : name.node;
        const auto it = ofNode.find(node);
        if (node >= 0 && it != ofNode.end() && together(out[it->second].edit)) {
            out[it->second].inFile.add(inFile);
            continue;
        }
        ofNode[node] = out.size();
        out.push_back({inFile, edit});
    }
    return out;
}

std::optional<PlaceFrame> Viewport::place_frame() const {
    if (!document_.is_open() || selection_.empty() || selection_.light() >= 0) return std::nullopt;
    const std::vector<int>& objects = selection_.objects();
    if (selection_.lights().empty())
        if (const std::vector<Thing> all = things(); all.size() == 1)
            return frame_of(all.front().inFile, all.front().edit);
    const Scene scene = document_.scene();
    Box box;
    for (const int o : objects)
        box.add(scene.objects()[static_cast<std::size_t>(o)].bounds);
    for (const int id : selection_.lights())
        box.add(document_.light(id)->position);
    PlaceFrame frame;
    frame.pivot = box.center();
    frame.foot = {box.center().x, box.low.y, box.center().z};
    return frame;
}

std::vector<PlacedHandle> Viewport::place_handles() const {
    const auto frame = place_frame();
    return frame ? handles_of(*frame, shown_view()) : std::vector<PlacedHandle>{};
}

int Viewport::place_handle_near(const QPointF& at) const {
    const auto all = place_handles();
    int best = -1;
    double nearest = 11;
    for (std::size_t i = 0; i < all.size(); ++i)
        if (const auto p = place_of(all[i].position)) {
            const double d = std::hypot(p->x() - at.x(), p->y() - at.y());
            if (d < nearest) nearest = d, best = static_cast<int>(i);
        }
    return best;
}

void Viewport::begin_placing(PlaceHandle kind) {
    drag_ = Drag::place;
    placing_ = Placing{kind, *place_frame(), {}, {}, {}};
    if (selection_.lights().empty())
        if (const std::vector<Thing> all = things(); all.size() == 1) placing_->alone = all.front().inFile;
    for (const int id : selection_.lights())
        placing_->lights.push_back(*document_.light(id));
    for (const int o : selection_.objects())
        placing_->objects.push_back(document_.object_edit(o));
    document_.set_interactive(true);
}

/// What a drag has done, as numbers.
static QString words_of(PlaceHandle kind, const PlaceDrag& drag) {
    const auto number = [](double v) { return QString::fromStdString(number_text(v, 3)); };
    const Placement& p = drag.placement;
    switch (kind) {
    case PlaceHandle::ground:
    case PlaceHandle::axisX:
    case PlaceHandle::axisY:
    case PlaceHandle::axisZ:
        return number(glm::length(p.move)) + " m";
    case PlaceHandle::turnX:
    case PlaceHandle::turnY:
    case PlaceHandle::turnZ:
        return number(glm::degrees(glm::angle(p.turn) > 3.1416f ? 6.2832f - glm::angle(p.turn) : glm::angle(p.turn))) +
               "\u00b0";
    case PlaceHandle::size:
        return number(100 * p.size) + " %";
    default:
        return number(100 * drag.factors[static_cast<int>(kind) - static_cast<int>(PlaceHandle::sizeX)]) + " %";
    }
}

void Viewport::place_to(const QPointF& at, bool stepped) {
    if (!placing_) return;
    Snap snap = snap_;
    if (stepped) {
        snap.angle = std::max(snap.angle, glm::radians(15.0f));
        snap.tenths = true;
    }
    PlaceDrag drag = dragged(placing_->frame, placing_->kind, shown_view(), ray_at(press_), ray_at(at), snap);
    std::optional<Met> met;
    if (snap.surface && placing_->kind == PlaceHandle::ground) {
        met = surface_at(at, selection_.objects());
        if (met) drag.placement.move = met->point - placing_->frame.foot;
    }
    placedBy_ = words_of(placing_->kind, drag);
    std::vector<ObjectEdit> edits;
    for (const ObjectEdit& start : placing_->objects)
        edits.push_back(met && placing_->alone ? standing_on(start, *placing_->alone, met->point, met->normal)
                                               : placed_by(start, drag));
    std::unordered_map<int, Light> lights;
    for (const Light& start : placing_->lights)
        lights[start.id] = placed_by(start, drag);
    const std::size_t count = edits.size() + lights.size();
    const QString what = count > 1       ? tr("%1 things").arg(count)
                         : edits.empty() ? QString::fromStdString(placing_->lights.front().name)
                                         : QString::fromStdString(edits.front().name);
    document_.edit(
        tr("%1: %2").arg(what, word(placing_->kind)),
        [&](Project& p) {
            take_edits(p.objects, edits);
            for (Light& l : p.lights)
                if (const auto it = lights.find(l.id); it != lights.end()) l = it->second;
        },
        "place");
}

/// Corners of the boxes of what is selected, each as the file's own box stands now.
void Viewport::paint_objects(QPainter& p) {
    if (selection_.objects().empty()) return;
    constexpr std::size_t most = 300; // more would hide the picture, and cost
    QVector<QLineF> lines;
    std::vector<Thing> all = things();
    if (all.size() > most) all.resize(most);
    for (const auto& [b, edit] : all) {
        const glm::mat4 m = matrix_of(edit);
        std::optional<QPointF> corner[8];
        for (int k = 0; k < 8; ++k)
            corner[k] = place_of(glm::vec3(
                m * glm::vec4(k & 1 ? b.high.x : b.low.x, k & 2 ? b.high.y : b.low.y, k & 4 ? b.high.z : b.low.z, 1)));
        for (int k = 0; k < 8; ++k)
            for (const int bit : {1, 2, 4}) {
                const auto &from = corner[k], &to = corner[k ^ bit];
                if (!from || !to) continue;
                const QPointF d = *to - *from;
                const double share = std::min(0.22, 22.0 / std::max(1.0, std::hypot(d.x(), d.y())));
                lines << QLineF(*from, *from + d * share);
            }
    }
    // Thousands of smooth strokes would take longer than the picture.
    const bool many = all.size() > 40;
    p.setRenderHint(QPainter::Antialiasing, !many);
    p.setPen(QPen(QColor(0, 0, 0, 170), many ? 3 : 3.4, Qt::SolidLine, Qt::FlatCap));
    p.drawLines(lines);
    p.setPen(QPen(ivory, many ? 1 : 1.3, Qt::SolidLine, Qt::FlatCap));
    p.drawLines(lines);
    p.setRenderHint(QPainter::Antialiasing);
}

void Viewport::paint_place_handles(QPainter& p) {
    const auto all = place_handles();
    if (all.empty()) return;
    const auto frame = place_frame();
    const auto center = place_of(frame->pivot);
    if (!center) return;
    const float arm = 64.0f * metres_per_pixel(shown_view(), frame->pivot);
    p.setFont(sized(font(), 11));
    for (std::size_t i = 0; i < all.size(); ++i) {
        const auto at = place_of(all[i].position);
        if (!at) continue;
        const PlaceHandle kind = all[i].kind;
        const bool held = placing_ && placing_->kind == kind, hot = held || static_cast<int>(i) == hoveredPlace_;
        const double r = hot ? 6 : 4;
        const int k = static_cast<int>(kind);
        if (kind >= PlaceHandle::axisX && kind <= PlaceHandle::axisZ)
            two_tone(p, ivory, 1.2, Qt::SolidLine, [&] { p.drawLine(*center, *at); });
        if (kind >= PlaceHandle::turnX && kind <= PlaceHandle::turnZ) {
            glm::vec3 u(0), v(0);
            u[(k - static_cast<int>(PlaceHandle::turnX) + 1) % 3] = arm;
            v[(k - static_cast<int>(PlaceHandle::turnX) + 2) % 3] = arm;
            QPainterPath arc;
            for (int s = 0; s <= 12; ++s) {
                const float a = 0.2f + 1.17f * static_cast<float>(s) / 12.0f;
                if (const auto q = place_of(frame->pivot + u * std::cos(a) + v * std::sin(a)))
                    arc.elementCount() == 0 ? arc.moveTo(*q) : arc.lineTo(*q);
            }
            p.setBrush(Qt::NoBrush);
            two_tone(p, ivory, hot ? 2.0 : 1.1, Qt::SolidLine, [&] { p.drawPath(arc); });
        }
        p.setPen(QPen(QColor(0, 0, 0, 200), 1.4));
        p.setBrush(hot ? ivory : QColor(210, 209, 206));
        if (kind == PlaceHandle::ground) // lies on the ground, as it moves there
            p.drawPolygon(
                QPolygonF({*at + QPointF(-9, 0), *at + QPointF(0, -5), *at + QPointF(9, 0), *at + QPointF(0, 5)}));
        else if (kind >= PlaceHandle::size)
            p.drawRect(QRectF(at->x() - r + 0.5, at->y() - r + 0.5, 2 * r - 1, 2 * r - 1));
        else
            p.drawEllipse(*at, r, r);
        static constexpr const char* arms[] = {"x", "y", "z"};
        if (hot)
            paint_plate(p, *at + QPointF(10, -9),
                        held && !placedBy_.isEmpty() ? QString("%1  %2").arg(word(kind), placedBy_)
                                                     : QString(word(kind)));
        else if (kind >= PlaceHandle::axisX && kind <= PlaceHandle::axisZ && !placing_)
            paint_plate(p, *at + QPointF(7, -9), arms[k - static_cast<int>(PlaceHandle::axisX)]);
    }
    p.setFont(font());
}

void Viewport::paint_band(QPainter& p) {
    if (drag_ != Drag::band) return;
    QColor fill = ivory;
    fill.setAlpha(30);
    const QRectF band = QRectF(press_, last_).normalized();
    p.fillRect(band, fill);
    p.setBrush(Qt::NoBrush);
    two_tone(p, ivory, 1, Qt::DashLine, [&] { p.drawRect(band); });
    const std::size_t count = inside(band).size();
    if (band.width() > 30)
        paint_plate(p, band.bottomRight() + QPointF(6, 4),
                    takes_ == Takes::lights ? tr("%1 lights").arg(count) : tr("%1 objects").arg(count));
}

} // namespace mirolux::app
