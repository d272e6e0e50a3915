#pragma once
#include "app/document.h"
#include "core/base/text.h"
#include "core/light/falloff.h"

// What the figures of lights share.
namespace mirolux::app {

inline RangeWindow window_of(const Document& document) {
    return document.project().setup.choice("light.window") == "squared" ? RangeWindow::squared : RangeWindow::unsquared;
}

inline QString number(double v, int digits = 3) {
    return QString::fromStdString(number_text(v, digits));
}

} // namespace mirolux::app
