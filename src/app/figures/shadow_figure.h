#pragma once
#include "app/figures/figure.h"
#include "core/shadow/shadow_maps.h"
#include <optional>

namespace mirolux::app {

/// Where shadows come from in the present view: a ruler of the directional light's slices with the width of a texel in
/// each, whose ends are moved by hand or keys, and the atlas with every light's place in it, named.
class ShadowFigure final : public Figure {
    Q_OBJECT
public:
    ShadowFigure(Document& document, const RenderBridge& bridge, QWidget* parent = nullptr);
    QRectF ruler() const;
    QRectF atlas() const;
    double x_of(double metres) const;
    double metres_at(double x) const;
    const ShadowSet& maps() const { return set_; }
    /// What lies in the atlas at a point of the figure: an index into maps().maps, or -1.
    int map_at(const QPointF& point) const;
    /// Words about the point.
    QString words_at(const QPointF& point) const;
    QSize sizeHint() const override { return {280, 316}; }
    QSize minimumSizeHint() const override { return {200, 316}; }

signals:
    void light_wanted(int id);

protected:
    bool event(QEvent*) override;
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

private:
    std::vector<double> ages() const;
    QSize texels() const;
    void refresh();
    void paint_ruler(QPainter& p) const;
    void paint_atlas(QPainter& p) const;
    void paint_names(QPainter& p) const;
    QRectF place(const ShadowMap& map) const;
    const ShadowedLight* sun() const;
    int end_at(const QPointF& point) const; // of the slices' ends that can be moved: 0 to 2, or -1
    void move_end(int end, double metres);

    ShadowSet set_;
    DrawList draws_;
    std::optional<QPointF> pointer_;
    int dragged_ = -1, chosen_ = 0;
};

} // namespace mirolux::app
