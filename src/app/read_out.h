#pragma once
#include <QString>
#include <algorithm>

class QWidget;
class QKeyEvent;

// What drawn things say to those who hear the window, and how keys walk them.
namespace mirolux::app {

/// Says what the keys have come to: kept as the widget's description and as its tooltip, and told to screen readers.
void read_out(QWidget* widget, const QString& words);

/// Where a key leads from `at` in a row of `count` things: Left, Right, Home, End (rows: Up, Down too); -1: it is none
/// of these, or there is nothing.
int walked_to(const QKeyEvent& key, int at, int count, bool rows = false);

/// Number fields as sliders with a value: to be called once, before any is asked for.
void tell_number_fields();

} // namespace mirolux::app
