#include "app/marks.h"
#include "app/setting_editor.h"
#include "app/theme.h"
#include "app/viewport.h"
#include "core/base/text.h"
#include "core/shadow/caster_proxies.h"
#include <cmath>

// Shadows in the picture: proxies, drawn as what they are and laid out by hand, and marks where rays disagree.
namespace mirolux::app {

static constexpr float firstHeight = 2.0f; // metres of a new box, until its handle says otherwise

void Viewport::draw_proxy(bool on) {
    drawsProxy_ = on && document_.is_open();
    drawnProxy_.reset();
    setCursor(drawsProxy_ ? Qt::CrossCursor : Qt::ArrowCursor);
    update();
}

/// Where a ray of the picture meets the level of the first corner.
static std::optional<glm::vec3> on_level(const Ray& ray, float y) {
    const float t = (y - ray.origin.y) / ray.direction.y;
    if (!std::isfinite(t) || t <= 0 || t > 500) return std::nullopt;
    return ray.origin + ray.direction * t;
}

bool Viewport::begin_proxy(const QPointF& at) {
    const Ray ray = ray_at(at);
    const RayHit hit = document_.rays().nearest(ray, document_.project().view.camera.near);
    const auto corner = hit.object >= 0 ? std::optional(ray.origin + ray.direction * hit.distance) : on_level(ray, 0);
    if (!corner) return false; // the sky
    proxyCorner_ = *corner;
    drawnProxy_ = ObjectEdit{};
    drawnProxy_->proxy = true;
    drag_ = Drag::proxy;
    size_proxy(at);
    return true;
}

void Viewport::size_proxy(const QPointF& at) {
    const auto other = on_level(ray_at(at), proxyCorner_.y);
    if (!other || !drawnProxy_) return;
    const glm::vec3 size = glm::abs(*other - proxyCorner_);
    drawnProxy_->scale = glm::vec3(std::max(size.x, 0.05f), firstHeight, std::max(size.z, 0.05f));
    drawnProxy_->translation = 0.5f * (*other + proxyCorner_) + glm::vec3(0, 0.5f * firstHeight, 0);
    update();
}

void Viewport::end_proxy() {
    const auto drawn = std::exchange(drawnProxy_, std::nullopt);
    update();
    if (!drawn || std::max(drawn->scale.x, drawn->scale.z) < 0.1f) return; // a click, not a drag
    emit proxy_drawn(*drawn);
}

void Viewport::paint_box(QPainter& p, const glm::mat4& place, bool strong) {
    std::optional<QPointF> corner[8];
    for (int k = 0; k < 8; ++k)
        corner[k] =
            place_of(glm::vec3(place * glm::vec4(k & 1 ? 0.5f : -0.5f, k & 2 ? 0.5f : -0.5f, k & 4 ? 0.5f : -0.5f, 1)));
    QVector<QLineF> lines;
    for (int k = 0; k < 8; ++k)
        for (const int bit : {1, 2, 4})
            if (!(k & bit) && corner[k] && corner[k | bit]) lines << QLineF(*corner[k], *corner[k | bit]);
    QPen under(QColor(0, 0, 0, 150), strong ? 3.2 : 2.4, Qt::SolidLine, Qt::FlatCap);
    QPen over(ivory, strong ? 1.4 : 1.0, Qt::CustomDashLine, Qt::FlatCap);
    over.setDashPattern({5, 3});
    p.setPen(under);
    p.drawLines(lines);
    p.setPen(over);
    p.drawLines(lines);
}

void Viewport::paint_proxies(QPainter& p) {
    if (drawnProxy_) {
        paint_box(p, matrix_of(*drawnProxy_), true);
        if (const auto at = place_of(drawnProxy_->translation)) {
            const auto metres = [](float v) { return QString::fromStdString(number_text(v, 3)); };
            paint_label(p, *at,
                        {tr("%1 x %2 m, %3 m high")
                             .arg(metres(drawnProxy_->scale.x), metres(drawnProxy_->scale.z), metres(firstHeight))});
        }
    }
    if (takes_ != Takes::proxies) return;
    const Scene scene = document_.scene();
    for (int o = static_cast<int>(scene.asset->objects.size()); o < static_cast<int>(scene.objects().size()); ++o) {
        const Object& box = scene.objects()[static_cast<std::size_t>(o)];
        if (!box.hidden) paint_box(p, box.transform, selection_.has_object(o));
    }
}

/// Told apart without hue by their lightness as well (M. Okabe and K. Ito, Color Universal Design, 2008).
static QColor color_of(ShadowFault fault) {
    switch (fault) {
    case ShadowFault::acne:
        return QColor(230, 159, 0);
    case ShadowFault::detached:
        return QColor(86, 180, 233);
    case ShadowFault::leaking:
        return QColor(204, 121, 167);
    default:
        return Qt::transparent;
    }
}

void Viewport::set_faults(const std::shared_ptr<const ShadowReport>& report) {
    faults_ = {};
    faultCounts_ = {};
    if (report && report->width > 0) {
        const int every = report->every; // a mark covers the pixels between
        faults_ = QImage((report->width + every - 1) / every, (report->height + every - 1) / every,
                         QImage::Format_ARGB32_Premultiplied);
        faults_.fill(Qt::transparent);
        for (int y = 0; y < report->height; y += every)
            for (int x = 0; x < report->width; x += every) {
                const ShadowFault f =
                    report->faults[static_cast<std::size_t>(y) * static_cast<std::size_t>(report->width) +
                                   static_cast<std::size_t>(x)];
                ++faultCounts_[static_cast<std::size_t>(f)];
                if (f != ShadowFault::none && f != ShadowFault::edge)
                    faults_.setPixelColor(x / every, y / every, color_of(f));
            }
    }
    update();
}

void Viewport::paint_faults(QPainter& p) {
    if (faults_.isNull()) return;
    const QRectF r = picture_rect();
    p.fillRect(r, QColor(0, 0, 0, 90)); // so that marks stand out
    p.setRenderHint(QPainter::SmoothPixmapTransform, false);
    p.drawImage(r, faults_);
    p.setFont(sized(font(), 11));
    const std::pair<ShadowFault, QString> kinds[] = {{ShadowFault::acne, tr("acne: shadow where there is none")},
                                                     {ShadowFault::detached, tr("detached: the shadow has come off")},
                                                     {ShadowFault::leaking, tr("leaking: light behind a caster")}};
    double y = r.bottom() - 12;
    for (auto it = std::rbegin(kinds); it != std::rend(kinds); ++it) {
        const QString text = tr("%1 (%L2)").arg(it->second).arg(faultCounts_[static_cast<std::size_t>(it->first)]);
        const QRectF plate(r.left() + 10, y - 20, p.fontMetrics().horizontalAdvance(text) + 30, 20);
        p.setPen(Qt::NoPen);
        p.setBrush(QColor(0, 0, 0, 190));
        p.drawRect(plate);
        p.fillRect(QRectF(plate.left() + 6, plate.top() + 5, 10, 10), color_of(it->first));
        p.setPen(ivory);
        p.drawText(plate.adjusted(22, 0, 0, 0), Qt::AlignVCenter, text);
        y -= 20;
    }
}

} // namespace mirolux::app
