#pragma once
#include "app/figures/figure.h"
#include "app/figures/sky_aside.h"
#include <mutex>
#include <optional>

namespace mirolux::app {

/// The sky over the camera as one looks up to it on a map: zenith in the middle, north up, the horizon as a ring and
/// dusk's depths outside it. Sun and moon are dragged to where they should stand. The dome is painted aside, so that
/// nothing waits for it.
class SkyFigure final : public Figure {
    Q_OBJECT
public:
    SkyFigure(Document& document, const RenderBridge& bridge, QWidget* parent = nullptr);
    /// Where a place of the sky lies in the figure, and back; none outside the dome.
    QPointF point_of(const SkyPlace& place) const;
    std::optional<SkyPlace> place_at(const QPointF& point) const;
    QString words_at(const QPointF& point) const;
    /// True while a newer dome than the one that is shown is being painted.
    bool painting() const { return sky_.busy(); }
    QSize sizeHint() const override { return {280, 196}; }
    QSize minimumSizeHint() const override { return {200, 196}; }

protected:
    void paintEvent(QPaintEvent*) override;
    void showEvent(QShowEvent*) override { ask(); }
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

private:
    enum class Body { sun, moon };
    QRectF dome() const;
    SkySettings settings() const;
    bool movable() const;
    std::optional<Body> body_at(const QPointF& point) const;
    void put(Body body, const SkyPlace& place);
    void ask();
    void paint_marks(QPainter& p) const;
    void paint_body(QPainter& p, Body body) const;
    QStringList words() const;

    std::mutex paintMutex_; // of painted_, which is painted aside
    QImage image_, painted_;
    SkyAside sky_; // paints last: it ends before what it paints to
    std::optional<QPointF> pointer_;
    std::optional<Body> drag_;
};

} // namespace mirolux::app
