#pragma once
#include "app/theme.h"
#include "core/base/text.h"
#include <QPainter>
#include <QWidget>
#include <cmath>

namespace mirolux::app {

inline QString ms_text(double v) {
    return QString::number(v, 'f', v < 10 ? 2 : 1) + " ms";
}

inline QString text_of(const std::string& text) {
    return QString::fromStdString(text);
}

inline QString megabytes(std::size_t bytes) {
    return text_of(number_text(static_cast<double>(bytes) / 1e6, 3)) + " MB";
}

/// The smallest of 1, 2, 5 times a power of ten that divides the span into at most `most` steps.
inline double round_step(double span, int most) {
    const double least = span / most, power = std::pow(10.0, std::floor(std::log10(least)));
    for (const double m : {1.0, 2.0, 5.0})
        if (power * m >= least) return power * m;
    return power * 10;
}

/// What each page of the cost deck starts from: the panel's ground, smooth edges, small quiet text.
inline void begin_page(QPainter& p, const QWidget& page) {
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(page.rect(), theme().panel);
    p.setFont(sized(page.font(), 11));
    p.setPen(theme().quiet);
}

} // namespace mirolux::app
