#pragma once
#include "app/figures/figure.h"
#include "core/finish/histogram.h"
#include <optional>

namespace mirolux::app {

/// The tone curve over the picture's histogram, in stops of luminance around the exposed value 1; what is clipped and
/// crushed is counted and marked, and so is what a meter found. Dragging the curve sideways changes the exposure, or
/// what it is compensated by.
class ToneFigure final : public Figure {
    Q_OBJECT
public:
    ToneFigure(Document& document, const RenderBridge& bridge, QWidget* parent = nullptr);
    QRectF plot() const;
    QPointF handle_at(int i) const;
    const std::optional<LuminanceHistogram>& histogram() const { return histogram_; }
    QSize sizeHint() const override { return {280, 176}; }
    QSize minimumSizeHint() const override { return {200, 176}; }

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

private:
    double x_of(double stops) const;
    double stops_at(double x) const;
    /// Handles of a curve of one's own; none of the others has any.
    int handles() const;
    int handle_near(const QPointF& at) const; // -1 none
    void drag_handle(int i, double code);
    bool metered() const;
    double hand() const;
    void expose(double hand);
    void paint_clips(QPainter& p) const;
    void paint_meter(QPainter& p) const;
    std::optional<LuminanceHistogram> histogram_;
    std::optional<double> pointer_;                 // stops
    std::optional<std::pair<double, double>> drag_; // where it began, stops; what is set by hand then
    int held_ = -1;                                 // handle
};

} // namespace mirolux::app
