#include "app/marks.h"
#include "app/theme.h"
#include "app/viewport.h"
#include "core/ambient/probe_place.h"
#include "core/ambient/probes.h"
#include "core/finish/exposure.h"
#include "core/finish/histogram.h"
#include <cmath>

// Probes in the picture: a mirror ball and a matt one at each place.
namespace mirolux::app {

static constexpr float ball_metres = 0.4f; // their radius

void Viewport::show_probes(bool on) {
    if (std::exchange(probesShown_, on) == on) return;
    balls_.clear();
    update();
}

double Viewport::ball_radius(const Probe& probe) const {
    const bool chosen = probe.id == selection_.probe();
    return std::clamp(double(ball_metres) / metres_per_pixel(shown_view(), probe.position), chosen ? 26.0 : 9.0, 48.0);
}

int Viewport::probe_near(const QPointF& at) const {
    int best = -1;
    double nearest = 1e9;
    if (!probesShown_ || !uses_probes(document_.project().setup)) return best;
    for (const Probe& p : document_.project().probes)
        if (const auto place = place_of(p.position)) {
            const double r = ball_radius(p), dx = std::abs(place->x() - at.x()), dy = std::abs(place->y() - at.y()),
                         metres = glm::length(p.position - document_.project().view.camera.eye);
            if (dx < 2 * r && dy < r && metres < nearest) {
                nearest = metres;
                best = p.id;
            }
        }
    return best;
}

/// Matt balls under each probe's light, where nothing stands before them; a cross where one stands within something.
void Viewport::paint_space_probes(QPainter& p) {
    constexpr double most_metres = 40, ball = 0.09; // how far they are looked at, and their radius
    if (!probesShown_ || document_.interactive() || !uses_probe_grid(document_.project().setup)) return;
    const auto grid = shown_grid(document_.scene(), document_.project().setup);
    if (!grid) { // those that were placed by hand wait to be computed
        spaceBalls_ = {};
        p.setPen(QPen(ivory, 1.4));
        p.setBrush(Qt::NoBrush);
        const Scene scene = document_.scene();
        for (const int o : objects_named(scene, document_.project().setup.choice("grid.at")))
            if (const auto at = place_of(scene.objects()[static_cast<std::size_t>(o)].bounds.center())) {
                p.drawEllipse(*at, 6, 6);
                ++spaceBalls_.shown;
            }
        return;
    }
    const View view = shown_view();
    const Setup setup = metered_ ? exposed_by(document_.project().setup, *metered_) : document_.project().setup;
    const QRectF rect = picture_rect();
    SpaceBalls& s = spaceBalls_;
    if (s.grid != grid || !(s.view == view) || !(s.setup == setup) || s.rect != rect) {
        s = {grid, view, setup, rect, QImage(size(), QImage::Format_ARGB32_Premultiplied), 0};
        s.picture.fill(Qt::transparent);
        const glm::vec3 eye = view.camera.eye;
        std::vector<std::size_t> seen; // farthest first
        for (std::size_t i = 0; i < grid->size(); ++i)
            if (glm::distance(grid->place(i), eye) < static_cast<float>(most_metres)) seen.push_back(i);
        std::sort(seen.begin(), seen.end(), [&](std::size_t a, std::size_t b) {
            return glm::distance(grid->place(a), eye) > glm::distance(grid->place(b), eye);
        });
        QPainter own(&s.picture);
        own.setRenderHint(QPainter::Antialiasing);
        own.setClipRect(rect);
        for (const std::size_t i : seen) {
            const glm::vec3 place = grid->place(i), way = place - eye;
            const auto at = place_of(place);
            const float metres = glm::length(way);
            if (!at || metres < 0.3f || !rect.contains(*at) ||
                document_.rays().occluded({eye, way / metres}, 0.05f, metres - 0.02f))
                continue;
            const double r = std::clamp(ball / metres_per_pixel(view, place), 2.5, 16.0);
            ++s.shown;
            if (grid->walled[i]) {
                own.setPen(QPen(ivory, 1));
                own.drawLine(*at - QPointF(2, 2), *at + QPointF(2, 2));
                own.drawLine(*at - QPointF(2, -2), *at + QPointF(2, -2));
                continue;
            }
            ProbeLight light;
            for (std::size_t c = 0; c < 9; ++c)
                light.harmonics[c] = glm::dvec3(grid->light[i][c]);
            const int size = 2 * static_cast<int>(std::lround(r));
            const FloatImage radiance = ball_picture(light, Ball::matt, view, place, size);
            ByteImage bytes = displayed_picture(radiance, setup);
            for (std::size_t k = 3; k < bytes.rgba.size(); k += 4)
                bytes.rgba[k] = static_cast<std::uint8_t>(std::lround(255 * radiance.data[k]));
            own.drawImage(QPointF(at->x() - size / 2.0, at->y() - size / 2.0),
                          QImage(bytes.rgba.data(), size, size, size * 4, QImage::Format_RGBA8888));
        }
    }
    p.drawImage(0, 0, s.picture);
}

void Viewport::show_stale(const QString& names) {
    if (std::exchange(stale_, names) != names) update();
}

void Viewport::show_shot(ShownShot shot) {
    shot_ = std::move(shot);
    update();
}

/// The patch that shot, outlined; what it lit, a fill the stronger the more of its rays came there.
void Viewport::paint_shot(QPainter& p) {
    patchesDrawn_ = 0;
    if (shot_.number == 0) return;
    const glm::vec3 eye = document_.project().view.camera.eye;
    const QColor lit(0xF2, 0xB2, 0x4B);
    const auto outline = [&](const ShownPatch& patch) {
        QPolygonF out;
        for (const glm::vec2 corner : {glm::vec2(-0.5f, -0.5f), {0.5f, -0.5f}, {0.5f, 0.5f}, {-0.5f, 0.5f}})
            if (const auto at = place_of(patch.middle + corner.x * patch.across + corner.y * patch.down)) out << *at;
        return out;
    };
    const auto seen = [&](const ShownPatch& patch) {
        const glm::vec3 way = patch.middle + 0.02f * patch.side - eye;
        const float metres = glm::length(way);
        return metres > 0.1f && glm::dot(patch.side, way) < 0 &&
               !document_.rays().occluded({eye, way / metres}, 0.05f, metres - 0.01f);
    };
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    p.setClipRect(picture_rect());
    float most = 0;
    for (const ShownPatch& patch : shot_.lit)
        most = std::max(most, patch.share);
    p.setPen(Qt::NoPen);
    for (const ShownPatch& patch : shot_.lit) {
        const QPolygonF shape = outline(patch);
        if (shape.size() != 4 || !seen(patch)) continue;
        QColor fill = lit;
        fill.setAlphaF(0.12f + 0.6f * std::sqrt(patch.share / most));
        p.setBrush(fill);
        p.drawPolygon(shape);
        ++patchesDrawn_;
    }
    if (const QPolygonF shape = outline(shot_.from); shape.size() == 4 && seen(shot_.from)) {
        p.setBrush(QColor(ivory.red(), ivory.green(), ivory.blue(), 90));
        p.setPen(Qt::NoPen);
        p.drawPolygon(shape);
        p.setBrush(Qt::NoBrush);
        two_tone(p, ivory, 2, Qt::SolidLine, [&] { p.drawPolygon(shape); });
        ++patchesDrawn_;
    }
    p.restore();
}

void Viewport::paint_probes(QPainter& p) {
    paint_space_probes(p);
    paint_shot(p);
    if (!probesShown_ || document_.is_flat() || !uses_probes(document_.project().setup)) return;
    std::vector<const Probe*> all; // farthest first
    for (const Probe& probe : document_.project().probes)
        if (probe.enabled) all.push_back(&probe);
    const glm::vec3 eye = document_.project().view.camera.eye;
    std::sort(all.begin(), all.end(), [&](const Probe* a, const Probe* b) {
        return glm::length(a->position - eye) > glm::length(b->position - eye);
    });
    for (const Probe* probe : all)
        paint_probe(p, *probe);
}

void Viewport::paint_probe(QPainter& p, const Probe& probe) {
    const auto at = place_of(probe.position);
    if (!at || !picture_rect().adjusted(-60, -60, 60, 60).contains(*at)) return;
    const View view = shown_view();
    const Setup setup = metered_ ? exposed_by(document_.project().setup, *metered_) : document_.project().setup;
    const double r = ball_radius(probe);
    const bool chosen = probe.id == selection_.probe();
    // Behind something it is only hinted at.
    const glm::vec3 eye = view.camera.eye, way = probe.position - eye;
    const float metres = glm::length(way);
    const bool hidden = metres > 0.2f && document_.rays().occluded({eye, way / metres}, 0.05f, metres - 0.1f);
    if (hidden && !chosen) {
        p.setOpacity(0.55);
        p.setBrush(Qt::NoBrush);
        two_tone(p, ivory, 1.1, Qt::DotLine, [&] { p.drawEllipse(*at, 6.0, 6.0); });
        p.setOpacity(1);
        return;
    }
    const QPointF middle = *at + QPointF(0, chosen ? r + 22 : 0), // under its handles
        mirrorAt = middle - QPointF(r, 0), mattAt = middle + QPointF(r, 0);
    const auto light =
        probe.file.empty() ? nullptr : read_probe(probe.file, std::stoi(setup.choice("probe.size"))).value_or(nullptr);
    if (!light) { // not captured yet
        p.setBrush(QColor(0, 0, 0, 90));
        for (const QPointF& place : {mirrorAt, mattAt})
            two_tone(p, ivory, 1.2, Qt::DashLine, [&] { p.drawEllipse(place, r, r); });
    } else {
        Balls& balls = balls_[probe.id];
        const int size = 2 * static_cast<int>(std::lround(r));
        if (balls.light != light || balls.eye != eye || !(balls.setup == setup) || balls.mirror.width() != size) {
            balls = {light, eye, setup, {}, {}};
            for (const auto& [ball, image] : {std::pair(Ball::mirror, &balls.mirror), {Ball::matt, &balls.matt}}) {
                const FloatImage radiance = ball_picture(*light, ball, view, probe.position, size);
                ByteImage bytes = displayed_picture(radiance, setup);
                for (std::size_t i = 3; i < bytes.rgba.size(); i += 4)
                    bytes.rgba[i] = static_cast<std::uint8_t>(std::lround(255 * radiance.data[i]));
                *image = QImage(bytes.rgba.data(), size, size, size * 4, QImage::Format_RGBA8888).copy();
            }
        }
        for (const auto& [place, image] : {std::pair(mirrorAt, &balls.mirror), {mattAt, &balls.matt}}) {
            p.drawImage(QRectF(place.x() - r, place.y() - r, 2 * r, 2 * r), *image);
            p.setBrush(Qt::NoBrush);
            two_tone(p, chosen ? ivory : QColor(200, 198, 192), chosen ? 1.6 : 0.8, Qt::SolidLine,
                     [&] { p.drawEllipse(place, r, r); });
        }
    }
    if (chosen || probe.id == probe_near(pointer_))
        paint_plate(p, middle + QPointF(2 * r + 4, -9), QString::fromStdString(probe.name));
}

} // namespace mirolux::app
