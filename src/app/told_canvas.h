#pragma once
#include <QString>
#include <functional>

class QVBoxLayout;
class QWidget;

namespace mirolux::app {

/// Adds a canvas that scrolls, and under it two lines that tell what the pointer is at. Returns what sets them; empty:
/// `rest`.
std::function<void(const QString&)> add_told_canvas(QVBoxLayout* column, QWidget* canvas, const QString& rest);

} // namespace mirolux::app
