#pragma once
#include "core/light/light.h"
#include <QColor>
#include <QPainter>
#include <optional>

// What is drawn over the picture and must read on black and on white.
namespace mirolux::app {

inline const QColor ivory(246, 242, 232);

/// Two tones that read on black and on white: dark under, light over.
template <class Draw>
void two_tone(QPainter& p, const QColor& over, double width, Qt::PenStyle style, const Draw& draw) {
    p.setPen(QPen(QColor(0, 0, 0, 170), width + 2.2, Qt::SolidLine, Qt::RoundCap));
    draw();
    p.setPen(QPen(over, width, style, Qt::RoundCap));
    draw();
}

/// A light's mark: its own colour inside a two-tone outline. A dotted ring for points, a wedge for spots, parallel
/// strokes for directional ones; hollow if it is off. `tip`: a point that it shines toward, on screen.
void paint_mark(QPainter& p, const Light& l, const QPointF& at, std::optional<QPointF> tip, double size);
/// Words on a plate of ink.
void paint_plate(QPainter& p, const QPointF& at, const QString& text);

} // namespace mirolux::app
