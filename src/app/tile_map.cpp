#include "app/tile_map.h"
#include <QStringList>
#include <algorithm>

namespace mirolux::app {

QColor TileMap::ramp(double t) {
    static const QColor stops[] = {QColor(24, 28, 74), QColor(24, 78, 118), QColor(28, 128, 122), QColor(112, 176, 92),
                                   QColor(246, 224, 112)};
    const double x = std::clamp(t, 0.0, 1.0) * 4;
    const int i = std::min(3, static_cast<int>(x));
    const double f = x - i;
    auto mix = [f](int a, int b) { return static_cast<int>(a + (b - a) * f); };
    return {mix(stops[i].red(), stops[i + 1].red()), mix(stops[i].green(), stops[i + 1].green()),
            mix(stops[i].blue(), stops[i + 1].blue())};
}

TileMap::TileMap(std::shared_ptr<const cull::Inspection> inspection) : inspection_(std::move(inspection)) {
    if (!inspection_) return;
    const cull::LightGrid& g = inspection_->grid;
    for (int y = 0; y < g.rows; ++y)
        for (int x = 0; x < g.columns; ++x)
            longest_ = std::max(longest_, count(x, y));
    mark_lengths(-1, -1);
}

void TileMap::mark_lengths(int low, int high) {
    markLow_ = low;
    markHigh_ = high;
    if (!inspection_) return;
    const cull::LightGrid& g = inspection_->grid;
    image_ = QImage(g.columns, g.rows, QImage::Format_ARGB32);
    image_.fill(Qt::transparent);
    for (int y = 0; y < g.rows; ++y)
        for (int x = 0; x < g.columns; ++x) {
            const int n = count(x, y);
            const bool marked = low < 0 || (n >= low && n <= high);
            if (n == 0 && low < 0) continue;
            QColor c = ramp(static_cast<double>(n) / std::max(1, longest_));
            c.setAlpha(marked ? (low < 0 ? 165 : 225) : 28);
            image_.setPixelColor(x, y, c);
        }
}

QRectF TileMap::tile_rect(int column, int row, const QRectF& r) const {
    const double sx = r.width() / inspection_->view.width, sy = r.height() / inspection_->view.height;
    const int tile = inspection_->grid.tile;
    return QRectF(r.left() + column * tile * sx, r.top() + row * tile * sy, tile * sx, tile * sy);
}

std::optional<TileCell> TileMap::cell_at(const QPointF& at, const QRectF& r) const {
    if (empty() || !r.contains(at)) return std::nullopt;
    const cull::LightGrid& g = inspection_->grid;
    TileCell c;
    c.column = static_cast<int>((at.x() - r.left()) * inspection_->view.width / r.width()) / g.tile;
    c.row = static_cast<int>((at.y() - r.top()) * inspection_->view.height / r.height()) / g.tile;
    if (c.column >= g.columns || c.row >= g.rows) return std::nullopt;
    for (int s = 1; s < g.slices; ++s)
        if (g.count(inspection_->cell(c.column, c.row, s)) > g.count(inspection_->cell(c.column, c.row, c.slice)))
            c.slice = s;
    return c;
}

void TileMap::paint(QPainter& p, const QRectF& r) const {
    if (empty()) return;
    // The last column and row may reach over the picture's edge.
    const cull::LightGrid& grid = inspection_->grid;
    const double sx = r.width() / inspection_->view.width, sy = r.height() / inspection_->view.height;
    p.save();
    p.setClipRect(r);
    p.setRenderHint(QPainter::SmoothPixmapTransform, false);
    p.drawImage(QRectF(r.left(), r.top(), grid.columns * grid.tile * sx, grid.rows * grid.tile * sy), image_);
    // Numbers where they fit.
    if (grid.tile * sx >= 24) {
        QFont small = p.font();
        small.setPixelSize(11);
        p.setFont(small);
        for (int y = 0; y < grid.rows; ++y)
            for (int x = 0; x < grid.columns; ++x)
                if (const int n = count(x, y)) {
                    p.setPen(n * 5 > longest_ * 3 ? QColor(20, 20, 20) : QColor(238, 238, 232));
                    p.drawText(QRectF(r.left() + x * grid.tile * sx, r.top() + y * grid.tile * sy, grid.tile * sx,
                                      grid.tile * sy),
                               Qt::AlignCenter, QString::number(n));
                }
    }
    if (selected_) {
        const QRectF tile = tile_rect(selected_->column, selected_->row, r);
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(QColor(0, 0, 0, 200), 4));
        p.drawRect(tile);
        p.setPen(QPen(QColor(246, 242, 232), 2));
        p.drawRect(tile);
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
    p.drawText(QRectF(box.left(), box.top() + 2, box.width(), 15), Qt::AlignCenter,
               grid.slices > 1 ? QObject::tr("lights listed, fullest slice") : QObject::tr("lights listed in a tile"));
    p.drawText(QRectF(box.left(), box.top() + 16, 22, 15), Qt::AlignRight | Qt::AlignVCenter, "0");
    p.drawText(QRectF(box.left() + 150, box.top() + 16, 40, 15), Qt::AlignLeft | Qt::AlignVCenter,
               QString::number(longest_));
    p.restore();
}

QStringList TileMap::describe(const QPointF& at, const QRectF& r) const {
    const auto cell = cell_at(at, r);
    if (!cell) return {};
    const cull::LightGrid& g = inspection_->grid;
    QStringList lines{
        QObject::tr("tile %1, %2: %3 lights").arg(cell->column).arg(cell->row).arg(count(cell->column, cell->row))};
    if (g.slices > 1)
        for (int s = 0, shown = 0; s < g.slices && shown < 4; ++s)
            if (const auto n = g.count(inspection_->cell(cell->column, cell->row, s))) {
                lines << QObject::tr("slice %1: %2 lights").arg(s).arg(n);
                ++shown;
            }
    const std::size_t fullest = inspection_->cell(cell->column, cell->row, cell->slice);
    for (std::uint32_t k = 0; k < g.count(fullest) && k < 8; ++k)
        lines << "  " + QString::fromStdString(inspection_->lights[g.indices[g.offsets[fullest] + k]].name);
    if (g.count(fullest) > 8) lines << QObject::tr("  and %1 more").arg(g.count(fullest) - 8);
    return lines;
}

} // namespace mirolux::app
