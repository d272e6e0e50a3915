#pragma once
#include "app/figures/figure.h"
#include "core/air/medium.h"
#include <optional>

namespace mirolux::app {

/// The air of the setup: how it scatters by angle, with the angles of sun and lamps as the pointer's ray sees them, and
/// along that ray how dense it is, what comes through, and where the slices of cells lie.
class AirFigure final : public Figure {
    Q_OBJECT
public:
    AirFigure(Document& document, const RenderBridge& bridge, QWidget* parent = nullptr);
    /// The ray that the pointer rests on in the picture; none: the middle of the picture.
    void set_way(const std::optional<glm::vec3>& direction);
    /// What is shown about the ray, in words.
    QString words() const;
    QSize sizeHint() const override { return {280, 166}; }
    QSize minimumSizeHint() const override { return {200, 166}; }

protected:
    void paintEvent(QPaintEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;

private:
    QRectF lobe() const;
    QPointF lobe_middle() const;
    QRectF along() const;
    glm::dvec3 way() const;
    AirMedium air() const;
    double far() const; // metres, at the right end
    double end_of_ray() const;
    void paint_lobe(QPainter& p, const AirMedium& m) const;
    void paint_along(QPainter& p, const AirMedium& m) const;
    std::optional<glm::vec3> way_;
    std::optional<QPointF> pointer_;
};

} // namespace mirolux::app
