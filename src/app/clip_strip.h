#pragma once
#include "app/document.h"
#include <QWidget>

namespace mirolux::app {

/// The clips of the scene's file over the scene's time: a lane each, its rounds as cells, its keys as ticks, and the
/// present time through all of them. A drag over the lanes sets the time; a click on a name chooses a clip, on its mark
/// lets it play or not. Left and Right move the time by a frame at 30 Hz, Up and Down choose, Space lets it play or
/// not.
class ClipStrip : public QWidget {
    Q_OBJECT
public:
    explicit ClipStrip(Document& document, QWidget* parent = nullptr);
    int clip() const { return clip_; } // the chosen one, into Rig::clips
    void choose(int clip);
    /// Clips as they play now, one for each of the file's in its order.
    std::vector<ClipPlay> plays() const;
    QRectF lanes() const;
    QRectF mark(int clip) const;
    double seconds_at(double x) const;
    double x_of(double seconds) const;
    QSize sizeHint() const override;

signals:
    void clip_chosen(int clip);
    void toggled(int clip);

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

private:
    struct Span {
        double from, to; // seconds of the scene that the strip shows
    };
    Span span() const;
    const Rig* rig() const;
    void paint_lane(QPainter& p, int clip, const ClipPlay& play) const;
    Document& document_;
    int clip_ = 0;
    bool scrubbing_ = false;
};

} // namespace mirolux::app
