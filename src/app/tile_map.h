#pragma once
#include "core/cull/inspection.h"
#include <QImage>
#include <QPainter>
#include <memory>
#include <optional>

namespace mirolux::app {

struct TileCell {
    int column = 0, row = 0, slice = 0;
    bool operator==(const TileCell&) const = default;
};

/// The picture's light lists as a map of their lengths, to lie over the picture. For clusters: the longest list among a
/// tile's slices.
class TileMap {
public:
    TileMap() = default;
    explicit TileMap(std::shared_ptr<const cull::Inspection> inspection);

    /// Lightness rises evenly from end to end, so that the map reads in grey as well; hue turns from blue over green to
    /// yellow.
    static QColor ramp(double t);

    bool empty() const { return !inspection_; }
    int longest() const { return longest_; }
    int count(int column, int row) const { return cull::tile_length(inspection_->grid, column, row); }
    /// Tiles whose longest list has low..high lights stand out; low -1: none do.
    void mark_lengths(int low, int high);
    void select(std::optional<TileCell> cell) { selected_ = cell; }
    void paint(QPainter& p, const QRectF& picture) const;
    /// The tile under a place of the picture rectangle, at its fullest slice.
    std::optional<TileCell> cell_at(const QPointF& at, const QRectF& picture) const;
    QRectF tile_rect(int column, int row, const QRectF& picture) const;
    /// What lies under a place of the picture rectangle, as lines of text; empty outside.
    QStringList describe(const QPointF& at, const QRectF& picture) const;

private:
    std::shared_ptr<const cull::Inspection> inspection_;
    QImage image_; // one pixel a tile
    int longest_ = 0, markLow_ = -1, markHigh_ = -1;
    std::optional<TileCell> selected_;
};

} // namespace mirolux::app
