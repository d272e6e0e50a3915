#pragma once
#include "app/figures/figure.h"
#include "core/finish/size_costs.h"

class QPushButton;

namespace mirolux::app {

class Plot;

/// What a frame costs over the size that it is rendered at, measured at one click; a click on the plot takes the size.
class SizeFigure final : public Figure {
    Q_OBJECT
public:
    SizeFigure(Document& document, const RenderBridge& bridge, QWidget* parent = nullptr);
    void show_costs(const std::vector<SizeCost>& costs);
    /// Under way, by the share that is done; or why there are none.
    void say(const QString& words);
    const std::vector<SizeCost>& costs() const { return costs_; }
    /// Where a scale stands, in this widget.
    QPointF place_of(double scale) const;
    QSize sizeHint() const override { return {280, 232}; }
    QSize minimumSizeHint() const override { return {200, 232}; }

signals:
    void sizes_wanted();

protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;

private:
    class Curve;
    std::vector<SizeCost> costs_;
    Setup of_; // the setup that they were measured with, scales apart
    QString words_;
    Curve* plot_;
    QPushButton* measure_;
};

} // namespace mirolux::app
