#pragma once
#include "app/theme.h"
#include <QPainter>
#include <QWidget>

namespace mirolux::app {

inline QString ms_text(double v) {
    return QString::number(v, 'f', v < 10 ? 2 : 1) + " ms";
}

/// What each page of the cost deck starts from: the panel's ground, smooth edges, small quiet text.
inline void begin_page(QPainter& p, const QWidget& page) {
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(page.rect(), theme().panel);
    QFont small = page.font();
    small.setPixelSize(11);
    p.setFont(small);
    p.setPen(theme().quiet);
}

} // namespace mirolux::app
