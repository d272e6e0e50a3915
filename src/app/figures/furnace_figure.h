#pragma once
#include "app/figures/figure.h"
#include "core/ambient/furnace.h"
#include <optional>

namespace mirolux::app {

/// The furnace row: white balls of the chosen model, one width of lobe each, under radiance one from all around, before
/// that radiance. A ball that shows keeps too little or gives too much: percent under each. A second row of metal.
class FurnaceFigure final : public Figure {
    Q_OBJECT
public:
    FurnaceFigure(Document& document, const RenderBridge& bridge, QWidget* parent = nullptr);
    QRectF ball(int row, int which) const;
    /// Rows of balls: matt and, of GGX, metal.
    const std::vector<std::vector<FurnaceBall>>& rows() const { return rows_; }
    QString words_at(const QPointF& point) const;
    QSize sizeHint() const override { return {280, 188}; }
    QSize minimumSizeHint() const override { return {200, 188}; }

protected:
    void paintEvent(QPaintEvent*) override;
    void showEvent(QShowEvent*) override { refresh(); }
    void mouseMoveEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;

private:
    void refresh();
    std::vector<std::vector<FurnaceBall>> rows_;
    std::string of_; // what the rows were made of
    std::optional<QPointF> pointer_;
};

} // namespace mirolux::app
