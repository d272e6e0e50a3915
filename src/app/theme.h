#pragma once
#include <QApplication>
#include <QColor>
#include <QFont>
#include <string>

namespace mirolux::app {

/// Greys without a hue around the picture. What is selected is lit: filled with `lit`, words on it in `ink`. Hue is for
/// data only: pass families, A (cool), B (violet), verdicts.
struct Theme {
    bool dark = true;
    QColor window, panel, field, line, text, quiet, lit, ink, a, b, alarm, pictureSurround;
};

const Theme& theme();
void use_theme(QApplication& app, bool dark);

/// The font in another size (pixels) and weight.
QFont sized(QFont font, int pixels, QFont::Weight weight = QFont::Normal);

/// Colour of a pass family, from a set that colour-blind people can tell apart; every segment carries its label too.
QColor family_color(const std::string& family);

} // namespace mirolux::app
