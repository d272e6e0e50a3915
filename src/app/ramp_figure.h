#pragma once
#include "core/light/cheap_light.h"
#include <QWidget>

namespace mirolux::app {

/// A view-locked light on a grey ball, which is dragged to turn it, and its ramp with its stops. Left and Right move
/// the chosen stop, Up and Down choose another.
class RampFigure : public QWidget {
    Q_OBJECT
public:
    explicit RampFigure(QWidget* parent = nullptr);
    void show_light(const CheapLight& light, double white); // white: cd/m2
    int stop() const { return stop_; }
    QRectF ball() const;
    QRectF strip() const;
    QPointF place_of(int stop) const;
    QSize sizeHint() const override { return {280, 112}; }

signals:
    void edited(const QString& what, const CheapLight& light);
    void stop_chosen(int stop);
    void scrubbing(bool on);

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

private:
    enum class Drag { none, ball, stop };
    QImage ball_picture(int pixels) const;
    QColor shown(const glm::dvec3& radiance) const;
    void turn_to(const QPointF& at);
    void move_stop(double at);
    void choose(int stop);
    CheapLight light_;
    double white_ = 1;
    int stop_ = 0;
    Drag drag_ = Drag::none;
};

} // namespace mirolux::app
