#pragma once
#include "app/figures/figure.h"
#include "app/figures/sky_aside.h"
#include "core/ambient/ambient_light.h"
#include "core/ambient/environment.h"
#include <array>
#include <mutex>
#include <optional>

namespace mirolux::app {

/// A white ball lit by the ambient light alone, turned with the camera, in the picture's exposure; under the pointer,
/// the direction and what arrives from around it. Of surroundings, their picture as well, with what the place under the
/// pointer sees of it, and metal balls of three roughnesses.
class AmbientFigure final : public Figure {
    Q_OBJECT
public:
    AmbientFigure(Document& document, const RenderBridge& bridge, QWidget* parent = nullptr);
    /// The ball's normal (world) at a point of the figure, if the ball is there.
    std::optional<glm::dvec3> normal_at(const QPointF& point) const;
    QString words_at(const QPointF& point) const;
    /// True while the sky's light is being summed.
    bool waiting() const { return sky_.busy(); }
    /// The direction that a point of the surroundings' picture shows.
    std::optional<glm::dvec3> direction_at(const QPointF& point) const;
    QSize sizeHint() const override { return {280, around() ? 322 : 150}; }
    QSize minimumSizeHint() const override { return {200, around() ? 322 : 150}; }

protected:
    void paintEvent(QPaintEvent*) override;
    void showEvent(QShowEvent*) override { ask(); }
    void mouseMoveEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

private:
    static constexpr std::array<double, 3> metals = {0.0, 0.25, 0.6}; // roughness of each ball
    bool around() const;
    QRectF ball() const;
    QRectF strip() const;
    QRectF metal(int which) const;
    /// Normal (world) of a ball in the figure, and its normal in view.
    std::optional<glm::dvec3> normal_on(const QRectF& ball, const QPointF& point) const;
    glm::dvec3 mirrored(const glm::dvec3& normal) const;
    void paint_around(QPainter& p, double scale);
    void paint_seen(QPainter& p);
    AmbientLight present() const;
    void ask();
    std::optional<QPointF> pointer_;
    mutable std::mutex mutex_;
    std::array<SkyPicture, 1 + metals.size()> pictures_; // of the surroundings: as they are, and by the metals' lobes
    SkyAside sky_;                                       // of surroundings
};

} // namespace mirolux::app
