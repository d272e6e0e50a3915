#pragma once
#include "app/figures/figure.h"
#include "app/figures/sky_aside.h"
#include "core/ambient/ambient_light.h"
#include <optional>

namespace mirolux::app {

/// A white ball lit by the ambient light alone, turned with the camera, in the picture's exposure; under the pointer,
/// the direction and what arrives from around it.
class AmbientFigure final : public Figure {
    Q_OBJECT
public:
    AmbientFigure(Document& document, const RenderBridge& bridge, QWidget* parent = nullptr);
    /// The ball's normal (world) at a point of the figure, if the ball is there.
    std::optional<glm::dvec3> normal_at(const QPointF& point) const;
    QString words_at(const QPointF& point) const;
    /// True while the sky's light is being summed.
    bool waiting() const { return sky_.busy(); }
    QSize sizeHint() const override { return {280, 150}; }
    QSize minimumSizeHint() const override { return {200, 150}; }

protected:
    void paintEvent(QPaintEvent*) override;
    void showEvent(QShowEvent*) override { ask(); }
    void mouseMoveEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

private:
    QRectF ball() const;
    AmbientLight present() const;
    void ask();
    std::optional<QPointF> pointer_;
    SkyAside sky_; // of ambient light that is the sky's
};

} // namespace mirolux::app
