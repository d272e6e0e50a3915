#pragma once
#include "app/figures/figure.h"
#include <QPixmap>
#include <optional>

namespace mirolux::app {

/// The scene from above: footprints of its objects, lights in their colours, cameras, the walk, and the present view.
/// Press to stand there, drag to look; the wheel comes nearer; a camera's mark is taken as it is.
class PlanFigure final : public Figure {
    Q_OBJECT
public:
    PlanFigure(Document& document, const RenderBridge& bridge, QWidget* parent = nullptr);
    QPointF place_of(const glm::vec3& world) const;
    glm::dvec2 world_at(const QPointF& point) const; // x and z, metres
    QSize sizeHint() const override { return {280, 230}; }
    QSize minimumSizeHint() const override { return {200, 230}; }

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void resizeEvent(QResizeEvent*) override { fit(); }

private:
    void fit(); // the whole scene
    void settle_ground();
    void forget();
    void stand(const glm::dvec2& at);
    void paint_ground(QPainter& p) const;
    void paint_marks(QPainter& p) const;
    /// What the marks are painted from.
    struct Marks {
        std::vector<Light> lights;
        std::vector<Motion> motions;
        std::vector<Walk> walks;
        std::vector<Camera> cameras;
        double seconds = 0;
        bool operator==(const Marks&) const = default;
    };
    Marks marks_of() const;
    int camera_at(const QPointF& point) const;
    std::uint64_t scene_ = 0; // digest of what is fitted
    glm::dvec2 center_{0.0};
    double scale_ = 1; // px a metre
    QPixmap ground_, marks_;
    std::shared_ptr<const PlacedObjects> placed_; // that the ground shows
    Marks marked_;
    bool down_ = false, dark_ = false; // dark_: the theme that is painted
    int under_ = -1;                   // a camera
    std::optional<QPointF> pointer_;
};

} // namespace mirolux::app
