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

void Viewport::paint_probes(QPainter& p) {
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
