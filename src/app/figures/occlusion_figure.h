#pragma once
#include "app/figures/figure.h"
#include <QImage>
#include <optional>

namespace mirolux::app {

/// A section through a floor before a wall: the floor as grey as occlusion leaves ambient light there, with the setup's
/// radius, fade, strength and bounces, and over the place under the pointer what it looks for.
class OcclusionFigure final : public Figure {
    Q_OBJECT
public:
    OcclusionFigure(Document& document, const RenderBridge& bridge, QWidget* parent = nullptr);
    /// What the floor keeps at a place; empty outside.
    QString words_at(const QPointF& point) const;
    QSize sizeHint() const override { return {280, 172}; }
    QSize minimumSizeHint() const override { return {200, 172}; }

protected:
    void paintEvent(QPaintEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

private:
    QRectF area() const;
    double metres_at(double x) const;
    double x_at(double metres) const;
    double open_at(double metres) const; // what of ambient light a grey floor keeps
    const QImage& floor(int width);
    QImage floor_;                  // as it was painted last
    std::vector<double> floorOf_;   // and what of
    std::optional<double> pointer_; // metres from the wall
};

} // namespace mirolux::app
