#pragma once
#include "app/figures/figure.h"
#include "core/scene/scene.h"
#include <optional>

namespace mirolux::app {

/// Light beneath the surface: balls of four sizes of a material that lets light in, lit from the left as the setup has
/// it, and under them how far each channel goes, with what comes through to the far side. The pointer reads both; left
/// and right keys turn to the scene's other such materials.
class SubsurfaceFigure final : public Figure {
    Q_OBJECT
public:
    SubsurfaceFigure(Document& document, const RenderBridge& bridge, QWidget* parent = nullptr);
    /// The material that is shown; null: none of the scene lets light in.
    const Material* material() const;
    QRectF ball(int which) const;
    QRectF plot() const;
    QString words_at(const QPointF& point) const;
    QSize sizeHint() const override { return {280, 232}; }
    QSize minimumSizeHint() const override { return {200, 232}; }

protected:
    void paintEvent(QPaintEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

private:
    std::vector<const Material*> materials() const;
    void paint_balls(QPainter& p, const brdf::Optics& optics);
    void paint_profile(QPainter& p, const brdf::Optics& optics);
    int chosen_ = 0;
    std::optional<QPointF> pointer_;
};

} // namespace mirolux::app
