#include "app/marks.h"
#include "app/setting_editor.h"
#include <cmath>

namespace mirolux::app {

void paint_mark(QPainter& p, const Light& l, const QPointF& at, std::optional<QPointF> tip, double size) {
    const QBrush fill = l.enabled ? QBrush(display_color(effective_color(l))) : QBrush(Qt::NoBrush);
    QPointF u(0, 1);
    if (tip) {
        const QPointF d = *tip - at;
        if (const double n = std::hypot(d.x(), d.y()); n > 1) u = d / n;
    }
    const QPointF v(-u.y(), u.x());
    switch (l.type) {
    case LightType::point:
        p.setBrush(fill);
        p.setPen(QPen(QColor(0, 0, 0, 170), 1));
        p.drawEllipse(at, size * 0.62, size * 0.62);
        p.setBrush(Qt::NoBrush);
        two_tone(p, ivory, 1.1, Qt::DotLine, [&] { p.drawEllipse(at, size + 1, size + 1); });
        break;
    case LightType::spot: {
        const QPolygonF wedge({at - u * size * 0.8, at + u * size * 1.2 + v * size, at + u * size * 1.2 - v * size});
        p.setBrush(Qt::NoBrush);
        two_tone(p, ivory, 1.1, Qt::SolidLine, [&] { p.drawPolygon(wedge); });
        p.setPen(Qt::NoPen);
        p.setBrush(fill);
        p.drawPolygon(wedge);
        break;
    }
    case LightType::directional:
        p.setBrush(Qt::NoBrush);
        for (const double k : {-0.9, 0.0, 0.9}) {
            const QLineF stroke(at - u * size * 1.2 + v * size * k, at + u * size * 1.2 + v * size * k);
            two_tone(p, ivory, 3, Qt::SolidLine, [&] { p.drawLine(stroke); });
            p.setPen(QPen(l.enabled ? display_color(effective_color(l)) : QColor(60, 60, 60), 1.6));
            p.drawLine(stroke);
        }
        break;
    }
}

void paint_plate(QPainter& p, const QPointF& at, const QString& text) {
    const QRectF box(at, QSizeF(p.fontMetrics().horizontalAdvance(text) + 12, 19));
    p.setPen(Qt::NoPen);
    p.setBrush(QColor(20, 20, 20, 225));
    p.drawRoundedRect(box, 2, 2);
    p.setPen(ivory);
    p.drawText(box, Qt::AlignCenter, text);
}

} // namespace mirolux::app
