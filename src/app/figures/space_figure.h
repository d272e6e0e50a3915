#pragma once
#include "app/figures/figure.h"

namespace mirolux::app {

class Plot;

/// What the working space does: a half-lit ball and a lamp's fall-off, summed in linear values and in gamma-coded ones,
/// as the setup's tone curve shows them; and the two as A and B with one click.
class SpaceFigure final : public Figure {
    Q_OBJECT
public:
    SpaceFigure(Document& document, const RenderBridge& bridge, QWidget* parent = nullptr);
    /// What a display is sent, 0 to 1, of a grey surface that gets `irradiance` (1: as much as shows white as white).
    double sent(double irradiance, bool linear) const;
    QSize sizeHint() const override { return {280, 306}; }
    QSize minimumSizeHint() const override { return {200, 306}; }

protected:
    void paintEvent(QPaintEvent*) override;
    void showEvent(QShowEvent*) override { refresh(); }

private:
    class FallOff;
    void refresh();
    Setup linear_, coded_; // the present setup in either space
    FallOff* plot_;
};

} // namespace mirolux::app
