#include "app/tile_map.h"
#include <QStringList>
#include <algorithm>

namespace mirolux::app {

/// Lightness rises evenly from end to end, so that the map reads in grey as well; hue turns from blue over green to yellow.
static QColor ramp(double t) {
    static const QColor stops[] = {QColor(24, 28, 74), QColor(24, 78, 118), QColor(28, 128, 122), QColor(112, 176, 92), QColor(246, 224, 112)};
    const double x = std::clamp(t, 0.0, 1.0) * 4;
    const int i = std::min(3, static_cast<int>(x));
    const double f = x - i;
    auto mix = [f](int a, int b) { return static_cast<int>(a + (b - a) * f); };
    return {mix(stops[i].red(), stops[i + 1].red()), mix(stops[i].green(), stops[i + 1].green()), mix(stops[i].blue(), stops[i + 1].blue())};
}

TileMap::TileMap(const cull::LightGrid& grid, QSize picture, std::vector<std::string> names) : grid_(grid), picture_(picture), names_(std::move(names)) {
    for (int y = 0; y < grid_.rows; ++y)
        for (int x = 0; x < grid_.columns; ++x)
            longest_ = std::max(longest_, count(x, y));
    image_ = QImage(std::max(1, grid_.columns), std::max(1, grid_.rows), QImage::Format_ARGB32);
    image_.fill(Qt::transparent);
    for (int y = 0; y < grid_.rows; ++y)
        for (int x = 0; x < grid_.columns; ++x) {
            const int n = count(x, y);
            if (n == 0) continue;
            QColor c = ramp(static_cast<double>(n) / std::max(1, longest_));
            c.setAlpha(165);
            image_.setPixelColor(x, y, c);
        }
}

int TileMap::count(int column, int row) const {
    int most = 0;
    for (int s = 0; s < grid_.slices; ++s)
        most = std::max(most, static_cast<int>(grid_.count(cell(column, row, s))));
    return most;
}

void TileMap::paint(QPainter& p, const QRectF& r) const {
    if (empty()) return;
    // The last column and row may reach over the picture's edge.
    const double sx = r.width() / picture_.width(), sy = r.height() / picture_.height();
    p.save();
    p.setClipRect(r);
    p.setRenderHint(QPainter::SmoothPixmapTransform, false);
    p.drawImage(QRectF(r.left(), r.top(), grid_.columns * grid_.tile * sx, grid_.rows * grid_.tile * sy), image_);
    // Numbers where they fit.
    if (grid_.tile * sx >= 24) {
        QFont small = p.font();
        small.setPixelSize(11);
        p.setFont(small);
        for (int y = 0; y < grid_.rows; ++y)
            for (int x = 0; x < grid_.columns; ++x)
                if (const int n = count(x, y)) {
                    p.setPen(n * 5 > longest_ * 3 ? QColor(20, 20, 20) : QColor(238, 238, 232));
                    p.drawText(QRectF(r.left() + x * grid_.tile * sx, r.top() + y * grid_.tile * sy, grid_.tile * sx, grid_.tile * sy), Qt::AlignCenter, QString::number(n));
                }
    }
    const QRectF box(r.left() + 10, r.bottom() - 44, 196, 34);
    p.setPen(Qt::NoPen);
    p.setBrush(QColor(18, 18, 19, 225));
    p.drawRoundedRect(box, 3, 3);
    for (int i = 0; i < 120; ++i) {
        p.setBrush(ramp(i / 119.0));
        p.drawRect(QRectF(box.left() + 26 + i, box.top() + 19, 1.5, 9));
    }
    QFont small = p.font();
    small.setPixelSize(11);
    p.setFont(small);
    p.setPen(QColor(230, 229, 224));
    p.drawText(QRectF(box.left(), box.top() + 2, box.width(), 15), Qt::AlignCenter, grid_.slices > 1 ? QObject::tr("lights listed, fullest slice") : QObject::tr("lights listed in a tile"));
    p.drawText(QRectF(box.left(), box.top() + 16, 22, 15), Qt::AlignRight | Qt::AlignVCenter, "0");
    p.drawText(QRectF(box.left() + 150, box.top() + 16, 40, 15), Qt::AlignLeft | Qt::AlignVCenter, QString::number(longest_));
    p.restore();
}

QStringList TileMap::describe(const QPointF& at, const QRectF& r) const {
    if (empty() || !r.contains(at)) return {};
    const int column = static_cast<int>((at.x() - r.left()) * picture_.width() / r.width()) / grid_.tile, row = static_cast<int>((at.y() - r.top()) * picture_.height() / r.height()) / grid_.tile;
    if (column >= grid_.columns || row >= grid_.rows) return {};
    QStringList lines;
    std::size_t fullest = cell(column, row, 0);
    for (int s = 0; s < grid_.slices; ++s) {
        const std::size_t c = cell(column, row, s);
        if (grid_.slices > 1 && grid_.count(c)) lines << QObject::tr("slice %1: %2 lights").arg(s).arg(grid_.count(c));
        if (grid_.count(c) > grid_.count(fullest)) fullest = c;
    }
    lines = lines.mid(0, 5);
    lines.prepend(QObject::tr("tile %1, %2: %3 lights").arg(column).arg(row).arg(grid_.count(fullest)));
    for (std::uint32_t k = 0; k < grid_.count(fullest) && k < 8; ++k) {
        const std::uint32_t l = grid_.indices[grid_.offsets[fullest] + k];
        if (l < names_.size()) lines << "  " + QString::fromStdString(names_[l]);
    }
    if (grid_.count(fullest) > 8) lines << QObject::tr("  and %1 more").arg(grid_.count(fullest) - 8);
    return lines;
}

} // namespace mirolux::app
