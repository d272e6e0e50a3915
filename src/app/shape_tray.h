#pragma once
#include "core/scene/shapes.h"
#include <QWidget>
#include <optional>

namespace mirolux::app {

/// The shapes that can be built with, each drawn as it is, and a tile for models from files. A click takes one up, a
/// second one lays it down again.
class ShapeTray : public QWidget {
    Q_OBJECT
public:
    explicit ShapeTray(QWidget* parent = nullptr);
    /// Which tile is lit; none: nothing is taken up.
    void set_taken(std::optional<int> tile);
    std::optional<int> taken() const { return taken_; }
    static constexpr int model_tile = static_cast<int>(std::size(all_shapes));
    QRect tile(int index) const;
    QSize sizeHint() const override;
    bool hasHeightForWidth() const override { return true; }
    int heightForWidth(int width) const override;

signals:
    void wanted(int tile); // into all_shapes, or model_tile
    void laid_down();

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    bool event(QEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

private:
    int at(const QPoint& p) const;
    void press(int tile);
    QString name_of(int tile) const;
    std::optional<int> taken_;
    int under_ = -1, focus_ = 0;
};

/// A mesh as a small picture: seen from the right and above, shaded in greys between two colours.
void paint_mesh(QPainter& p, const QRectF& in, const Primitive& mesh, const QColor& dark, const QColor& light);

} // namespace mirolux::app
