#pragma once
#include "core/cull/light_grid.h"
#include <QImage>
#include <QPainter>
#include <string>
#include <vector>

namespace mirolux::app {

/// The picture's light lists as a map of their lengths, to lie over the picture. For clusters: the longest list among a tile's slices.
class TileMap {
public:
    TileMap() = default;
    /// names: of the lights that the lists count, by index.
    TileMap(const cull::LightGrid& grid, QSize picture, std::vector<std::string> names);

    bool empty() const { return grid_.columns == 0; }
    int longest() const { return longest_; }
    int count(int column, int row) const; // the longest list of the tile
    void paint(QPainter& p, const QRectF& picture) const;
    /// What lies under a place of the picture rectangle, as lines of text; empty outside.
    QStringList describe(const QPointF& at, const QRectF& picture) const;

private:
    std::size_t cell(int column, int row, int slice) const { return (std::size_t(slice) * grid_.rows + row) * grid_.columns + column; }
    cull::LightGrid grid_;
    QSize picture_;
    std::vector<std::string> names_;
    QImage image_; // one pixel a tile
    int longest_ = 0;
};

} // namespace mirolux::app
