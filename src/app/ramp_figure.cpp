#include "app/ramp_figure.h"
#include "app/setting_editor.h"
#include "app/theme.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

namespace mirolux::app {

/// What lies under the light in the figure: a grey of an eighth of white.
static constexpr double grey = 0.125;

RampFigure::RampFigure(QWidget* parent) : QWidget(parent) {
    setObjectName("ramp figure");
    setAccessibleName(tr("The light on a ball, and its ramp"));
    setToolTip(tr("Drag over the ball: the ramp's end turns there, as the eye sees it. Drag a stop along the ramp; a "
                  "double click adds one. Left and Right move the chosen stop, Up and Down choose another."));
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    setFocusPolicy(Qt::StrongFocus);
}

void RampFigure::show_light(const CheapLight& light, double white) {
    light_ = light;
    white_ = white;
    stop_ = std::clamp(stop_, 0, std::max(0, static_cast<int>(light.ramp.size()) - 1));
    update();
}

QRectF RampFigure::ball() const {
    return {4, 6, 100, 100};
}
QRectF RampFigure::strip() const {
    return {122, 30, width() - 134.0, 30};
}
QPointF RampFigure::place_of(int stop) const {
    const QRectF r = strip();
    return {r.left() + r.width() * light_.ramp[static_cast<std::size_t>(stop)].at, r.bottom() + 11};
}

QColor RampFigure::shown(const glm::dvec3& radiance) const {
    return display_color(glm::vec3(glm::clamp(radiance / white_, glm::dvec3(0.0), glm::dvec3(1.0))));
}

QImage RampFigure::ball_picture(int pixels) const {
    QImage image(pixels, pixels, QImage::Format_ARGB32_Premultiplied);
    image.fill(Qt::transparent);
    for (int y = 0; y < pixels; ++y)
        for (int x = 0; x < pixels; ++x) {
            const double u = 2 * (x + 0.5) / pixels - 1, v = 1 - 2 * (y + 0.5) / pixels, w2 = 1 - u * u - v * v;
            if (w2 < 0) continue;
            const glm::dvec3 normal(u, v, std::sqrt(w2));
            image.setPixelColor(
                x, y, shown(view_light_change(light_, normal).of(glm::dvec3(grey * white_ * (0.4 + 0.6 * normal.z)))));
        }
    return image;
}

void RampFigure::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    const double ratio = devicePixelRatioF();
    QImage image = ball_picture(static_cast<int>(ball().width() * ratio));
    image.setDevicePixelRatio(ratio);
    p.drawImage(ball().topLeft(), image);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.line, 1));
    p.drawEllipse(ball());
    // Where the ramp ends: a full dot before the ball, a ring behind it.
    const QPointF toward = ball().center() + QPointF(light_.toward.x, -light_.toward.y) * (0.5 * ball().width());
    p.setPen(QPen(QColor(0, 0, 0, 200), 1.4));
    p.setBrush(light_.toward.z >= 0 ? QBrush(QColor(240, 236, 222)) : QBrush(Qt::NoBrush));
    p.drawEllipse(toward, 5, 5);
    if (light_.toward.z < 0) {
        p.setPen(QPen(QColor(240, 236, 222), 1.4));
        p.drawEllipse(toward, 3.6, 3.6);
    }
    const QRectF r = strip();
    for (int x = 0; x < static_cast<int>(r.width()); ++x) {
        const glm::dvec4 c = ramp_at(light_.ramp, (x + 0.5) / r.width());
        p.fillRect(QRectF(r.left() + x, r.top(), 1.2, r.height()),
                   shown(glm::mix(glm::dvec3(grey * white_), glm::dvec3(c) * white_, c.w)));
    }
    p.setFont(sized(font(), 11));
    p.setPen(t.quiet);
    p.drawText(QRectF(r.left(), r.top() - 18, r.width(), 16), Qt::AlignLeft, tr("away"));
    p.drawText(QRectF(r.left(), r.top() - 18, r.width(), 16), Qt::AlignHCenter, tr("across"));
    p.drawText(QRectF(r.left(), r.top() - 18, r.width(), 16), Qt::AlignRight, tr("toward"));
    for (int i = 0; i < static_cast<int>(light_.ramp.size()); ++i) {
        const QPointF at = place_of(i);
        p.setPen(QPen(i == stop_ ? t.text : t.quiet, 1.2));
        p.setBrush(i == stop_ ? t.lit : t.panel);
        p.drawPolygon(QPolygonF({at + QPointF(0, -10), at + QPointF(6, -2), at + QPointF(6, 7), at + QPointF(-6, 7),
                                 at + QPointF(-6, -2)}));
        p.fillRect(QRectF(at.x() - 3, at.y() - 1, 6, 6),
                   display_color(glm::min(light_.ramp[static_cast<std::size_t>(i)].color, glm::vec3(1.0f))));
    }
    if (hasFocus()) {
        p.setPen(QPen(t.quiet, 1, Qt::DotLine));
        p.setBrush(Qt::NoBrush);
        p.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
    }
}

void RampFigure::choose(int stop) {
    stop_ = stop;
    emit stop_chosen(stop);
    update();
}

void RampFigure::turn_to(const QPointF& at) {
    glm::vec3 d((at.x() - ball().center().x()) / (0.5 * ball().width()),
                -(at.y() - ball().center().y()) / (0.5 * ball().height()), 0);
    const float length = glm::length(d);
    // Beyond its edge the far side begins: as far behind as the pointer is beside.
    d = length <= 1.0f ? glm::vec3(d.x, d.y, std::sqrt(1 - length * length))
                       : glm::vec3(d / length * std::max(0.0f, 2 - length)) -
                             glm::vec3(0, 0, std::sqrt(1 - std::pow(std::max(0.0f, 2 - length), 2.0f)));
    light_.toward = glm::normalize(d);
    emit edited(tr("turn"), light_);
    update();
}

void RampFigure::move_stop(double at) {
    auto& ramp = light_.ramp;
    const auto i = static_cast<std::size_t>(stop_);
    const double low = i > 0 ? ramp[i - 1].at : 0, high = i + 1 < ramp.size() ? ramp[i + 1].at : 1;
    ramp[i].at = static_cast<float>(std::clamp(at, low, high));
    emit edited(tr("stop"), light_);
    update();
}

void RampFigure::mousePressEvent(QMouseEvent* e) {
    drag_ = Drag::none;
    if (ball().adjusted(-12, -12, 12, 12).contains(e->position())) {
        drag_ = Drag::ball;
        emit scrubbing(true);
        return turn_to(e->position());
    }
    double best = 12;
    for (int i = 0; i < static_cast<int>(light_.ramp.size()); ++i)
        if (const double d = std::abs(place_of(i).x() - e->position().x());
            d < best && e->position().y() > strip().top()) {
            best = d;
            drag_ = Drag::stop;
            choose(i);
        }
    if (drag_ == Drag::stop) emit scrubbing(true);
}

void RampFigure::mouseMoveEvent(QMouseEvent* e) {
    if (drag_ == Drag::ball) turn_to(e->position());
    if (drag_ == Drag::stop) move_stop((e->position().x() - strip().left()) / strip().width());
}

void RampFigure::mouseReleaseEvent(QMouseEvent*) {
    if (drag_ != Drag::none) emit scrubbing(false);
    drag_ = Drag::none;
}

void RampFigure::mouseDoubleClickEvent(QMouseEvent* e) {
    if (!strip().contains(e->position()) || light_.ramp.size() >= most_ramp_stops) return;
    const double at = (e->position().x() - strip().left()) / strip().width();
    const glm::dvec4 c = ramp_at(light_.ramp, at);
    const auto where =
        std::find_if(light_.ramp.begin(), light_.ramp.end(), [&](const RampStop& s) { return s.at > at; });
    stop_ = static_cast<int>(where - light_.ramp.begin());
    light_.ramp.insert(where, {static_cast<float>(at), glm::vec3(c), static_cast<float>(c.w)});
    emit edited(tr("add stop"), light_);
    choose(stop_);
}

void RampFigure::keyPressEvent(QKeyEvent* e) {
    const int last = static_cast<int>(light_.ramp.size()) - 1;
    if (e->key() == Qt::Key_Up && stop_ > 0) return choose(stop_ - 1);
    if (e->key() == Qt::Key_Down && stop_ < last) return choose(stop_ + 1);
    if ((e->key() == Qt::Key_Left || e->key() == Qt::Key_Right) && last >= 0)
        return move_stop(light_.ramp[static_cast<std::size_t>(stop_)].at + (e->key() == Qt::Key_Left ? -0.01 : 0.01));
    QWidget::keyPressEvent(e);
}

} // namespace mirolux::app
