#pragma once
#include <QByteArray>
#include <QString>

namespace mirolux::app {

/// The font with its tabular digits in the place of the proportional ones: what its `tnum` feature substitutes
/// (OpenType 1.9, GSUB lookup type 1) becomes its character map (cmap format 12). Qt 6.4 cannot ask for a feature by
/// itself. Empty if the font has no such feature or cannot be read.
QByteArray with_tabular_digits(const QByteArray& font, const QString& family);

/// Adds the weights of Inter that the interface uses, from where Debian installs them, with tabular digits. Returns the
/// family's name, or an empty one.
QString add_tabular_inter();

} // namespace mirolux::app
