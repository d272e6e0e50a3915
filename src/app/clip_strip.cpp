#include "app/clip_strip.h"
#include "app/theme.h"
#include "core/motion/rig.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

namespace mirolux::app {

static constexpr double head_height = 20, lane_height = 26, mark_width = 20;

ClipStrip::ClipStrip(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    setObjectName("clip strip");
    setAccessibleName(tr("Clips over the scene's time"));
    setToolTip(tr("What the file's clips move, over the scene's time. Drag over the lanes: the time. The mark before a "
                  "clip lets it play or not, its lane chooses it. Left and Right move the time by a thirtieth of a "
                  "second, Up and Down choose a clip, Space lets it play or not."));
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    setFocusPolicy(Qt::StrongFocus);
}

const Rig* ClipStrip::rig() const {
    return document_.is_open() && document_.asset()->rig ? document_.asset()->rig.get() : nullptr;
}

std::vector<ClipPlay> ClipStrip::plays() const {
    std::vector<ClipPlay> out;
    if (!rig()) return out;
    const std::vector<ClipPlay> usual = usual_clips(*rig());
    const std::vector<ClipPlay>& own = document_.project().clips;
    for (const ClipPlay& u : usual) {
        const auto it = std::find_if(own.begin(), own.end(), [&](const ClipPlay& c) { return c.clip == u.clip; });
        out.push_back(it != own.end() ? *it : u);
        if (it == own.end() && !own.empty()) out.back().on = false; // a choice was made without it
    }
    return out;
}

ClipStrip::Span ClipStrip::span() const {
    double longest = 4;
    if (rig())
        for (const Clip& c : rig()->clips)
            longest = std::max(longest, c.seconds);
    const double page = std::ceil(longest), at = document_.is_open() ? document_.project().view.seconds : 0;
    const double from = page * std::floor(at / page + 1e-9);
    return {from, from + page};
}

QRectF ClipStrip::lanes() const {
    return {mark_width, head_height, width() - mark_width - 6.0, height() - head_height - 4};
}
QRectF ClipStrip::mark(int clip) const {
    return {3, head_height + lane_height * clip + 6, 13, 13};
}
double ClipStrip::x_of(double seconds) const {
    const Span s = span();
    return lanes().left() + lanes().width() * (seconds - s.from) / (s.to - s.from);
}
double ClipStrip::seconds_at(double x) const {
    const Span s = span();
    return s.from + (s.to - s.from) * std::clamp((x - lanes().left()) / lanes().width(), 0.0, 1.0);
}

QSize ClipStrip::sizeHint() const {
    const int clips = rig() ? static_cast<int>(rig()->clips.size()) : 0;
    return {280, static_cast<int>(head_height + lane_height * std::max(1, clips) + 4)};
}

void ClipStrip::choose(int clip) {
    if (!rig() || rig()->clips.empty()) return;
    clip_ = std::clamp(clip, 0, static_cast<int>(rig()->clips.size()) - 1);
    update();
    emit clip_chosen(clip_);
}

/// Rounds as cells by turns lighter and darker, ticks where keys lie.
void ClipStrip::paint_lane(QPainter& p, int number, const ClipPlay& play) const {
    const Theme& t = theme();
    const Clip& clip = rig()->clips[static_cast<std::size_t>(number)];
    const QRectF lane(lanes().left(), head_height + lane_height * number + 1, lanes().width(), lane_height - 2);
    const bool chosen = number == clip_;
    const auto tinted = [](QColor c, double alpha) {
        c.setAlphaF(alpha);
        return c;
    };
    const QColor paper = chosen ? t.lit : t.field, ink = chosen ? t.ink : t.text;
    p.setClipRect(lane);
    p.fillRect(lane, paper);
    const Span s = span();
    if (play.on && clip.seconds > 0 && play.speed != 0) {
        const double round = clip.seconds / std::abs(play.speed), shift = play.offset / play.speed;
        const double first = play.speed > 0 ? -shift : -shift - round; // a round begins here
        const int low = static_cast<int>(std::floor((s.from - first) / round)),
                  high = std::min(static_cast<int>(std::floor((s.to - first) / round)), low + 400);
        for (int k = low; k <= high; ++k) {
            if (!play.loop && k != 0) continue;
            const double from = x_of(first + k * round), to = x_of(first + (k + 1) * round);
            p.fillRect(QRectF(from, lane.top(), to - from, lane.height()), tinted(ink, k % 2 == 0 ? 0.13 : 0.07));
            p.fillRect(QRectF(from, lane.top(), 1, lane.height()), tinted(ink, 0.5));
            double last = -10; // ticks no closer than two pixels
            std::vector<float> keys;
            for (const ClipChannel& c : clip.channels)
                keys.insert(keys.end(), c.track.times.begin(), c.track.times.end());
            std::sort(keys.begin(), keys.end());
            for (const float key : keys) {
                const double x =
                    x_of(first + k * round + (play.speed > 0 ? key : clip.seconds - key) / std::abs(play.speed));
                if (std::abs(x - last) < 2) continue;
                last = x;
                p.fillRect(QRectF(x, lane.bottom() - 4, 1, 4), tinted(ink, 0.35));
            }
        }
    }
    p.setFont(sized(font(), 11));
    p.setPen(play.on ? ink : tinted(ink, 0.55));
    const QString facts = QString("%1 s").arg(clip.seconds, 0, 'f', 1);
    const QRectF words = lane.adjusted(6, 0, -6, -3);
    p.drawText(words, Qt::AlignRight | Qt::AlignVCenter, facts);
    const double room = words.width() - p.fontMetrics().horizontalAdvance(facts) - 8;
    p.drawText(words, Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(QString::fromStdString(clip.name), Qt::ElideRight, static_cast<int>(room)));
    p.setClipping(false);
}

void ClipStrip::paintEvent(QPaintEvent*) {
    if (!rig()) return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    const std::vector<ClipPlay> all = plays();
    for (int i = 0; i < static_cast<int>(all.size()); ++i) {
        const ClipPlay& play = all[static_cast<std::size_t>(i)];
        paint_lane(p, i, play);
        const QRectF m = mark(i);
        p.setPen(QPen(play.on ? t.text : t.quiet, 1.2));
        p.setBrush(play.on ? QBrush(t.text) : QBrush(Qt::NoBrush));
        p.drawEllipse(m.adjusted(2, 2, -2, -2));
    }
    // The scale, and the time that the picture shows.
    const Span s = span();
    p.setFont(sized(font(), 11));
    const double now = document_.project().view.seconds, x = std::round(x_of(now)) + 0.5; // a whole pixel
    const QString told = QString("%1 s").arg(now, 0, 'f', 2);
    const double wide = p.fontMetrics().horizontalAdvance(told) + 10.0;
    const QRectF flag(std::clamp(x - wide / 2, lanes().left(), lanes().right() - wide), 2, wide, head_height - 4);
    p.setPen(t.quiet);
    for (const auto& [at, where] : {std::pair(s.from, Qt::AlignLeft), {s.to, Qt::AlignRight}}) {
        const QRectF room(lanes().left(), 2, lanes().width(), head_height - 4);
        const bool covered = where == Qt::AlignLeft ? flag.left() < room.left() + 40 : flag.right() > room.right() - 40;
        if (!covered) p.drawText(room, where | Qt::AlignVCenter, QString("%1 s").arg(at, 0, 'f', 0));
    }
    p.fillRect(QRectF(x - 1.5, head_height - 2, 3, lanes().height() + 2), QColor(0, 0, 0, 150));
    p.fillRect(QRectF(x - 0.5, head_height - 2, 1, lanes().height() + 2), QColor(240, 236, 222));
    p.setPen(Qt::NoPen);
    p.setBrush(t.lit);
    p.drawRoundedRect(flag, 3, 3);
    p.setPen(t.ink);
    p.drawText(flag, Qt::AlignCenter, told);
    if (hasFocus()) {
        p.setPen(QPen(t.quiet, 1, Qt::DotLine));
        p.setBrush(Qt::NoBrush);
        p.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
    }
}

void ClipStrip::mousePressEvent(QMouseEvent* e) {
    if (!rig() || e->button() != Qt::LeftButton) return;
    const int at = static_cast<int>(std::floor((e->position().y() - head_height) / lane_height));
    const bool onLane = at >= 0 && at < static_cast<int>(rig()->clips.size());
    if (onLane && e->position().x() < lanes().left()) {
        choose(at);
        emit toggled(at);
        return;
    }
    if (onLane) choose(at);
    scrubbing_ = true;
    document_.set_interactive(true);
    document_.set_seconds(seconds_at(e->position().x()));
}

void ClipStrip::mouseMoveEvent(QMouseEvent* e) {
    if (!scrubbing_) return;
    // The page that it began on: the strip does not turn under the pointer.
    document_.set_seconds(std::min(seconds_at(e->position().x()), span().to - 1e-3));
}

void ClipStrip::mouseReleaseEvent(QMouseEvent*) {
    if (!scrubbing_) return;
    scrubbing_ = false;
    document_.set_interactive(false);
    emit document_.settled();
}

void ClipStrip::keyPressEvent(QKeyEvent* e) {
    const double now = document_.is_open() ? document_.project().view.seconds : 0;
    switch (e->key()) {
    case Qt::Key_Left:
    case Qt::Key_Right:
        document_.set_seconds(std::max(0.0, now + (e->key() == Qt::Key_Right ? 1.0 : -1.0) / 30));
        emit document_.settled();
        break;
    case Qt::Key_Up:
    case Qt::Key_Down:
        choose(clip_ + (e->key() == Qt::Key_Down ? 1 : -1));
        break;
    case Qt::Key_Space:
        emit toggled(clip_);
        break;
    default:
        QWidget::keyPressEvent(e);
    }
}

} // namespace mirolux::app
