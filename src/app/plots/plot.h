#pragma once
#include <optional>
#include <qcustomplot.h>

namespace mirolux::app {

/// What every plot of the window is: axes in the theme's greys, nearer with the wheel (Shift: the height alone), along
/// by dragging, the whole again by a double click where nothing is, and by keys the same: + and -, Backspace. While a
/// part is in view, a hairline beside the axis says which. A derived plot fills it and paints its own marks over it.
class Plot : public QCustomPlot {
    Q_OBJECT
public:
    explicit Plot(QWidget* parent = nullptr);
    /// All of the data again.
    void show_whole();
    bool is_whole() const;
    /// Where the data are drawn, in the widget.
    QRectF area() const { return axisRect()->rect(); }
    QPointF place(double x, double y) const;

protected:
    /// x and y that can be shown at all; least: the smallest part of x that one can go near to.
    void set_bounds(QCPRange x, QCPRange y, double least);
    /// Room around the data, pixels.
    void set_room(int left, int top, int right, int bottom);
    /// Draws the data again at the next paint; costs nothing while nobody sees it.
    void redraw();
    /// After a release: true if the button came up where it went down.
    bool clicked() const { return clicked_; }
    /// Nearer (factor below 1) or farther, about a place in the widget.
    void go_nearer(double factor, const QPointF& about);
    /// The key if it is one of the plot's own; about: what it goes nearer to.
    bool zoom_key(const QKeyEvent& key, const QPointF& about);
    /// Gives the axes and the data their colours; called again when the theme changes.
    virtual void restyle();
    /// Before the data are drawn: what depends on the range that is in view.
    virtual void before_drawing() {}
    /// Over the data.
    virtual void paint_over(QPainter&) {}
    /// In place of everything, if not empty.
    virtual QString empty_words() const { return {}; }

    void paintEvent(QPaintEvent*) override;
    void changeEvent(QEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    /// A press here begins to drag the plot along; a derived plot keeps the presses that mean something else to it.
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;

private:
    void keep_inside(QCPAxis& axis, const QCPRange& bounds, double least);
    void paint_part_in_view(QPainter&) const;
    QCPRange x_{0, 1}, y_{0, 1};
    double least_ = 1e-3;
    bool dirty_ = true;

    struct Drag {
        QPointF start;
        QCPRange x, y; // in view when it began
    };
    std::optional<Drag> drag_;
    bool clicked_ = false;
};

/// Ticks at round numbers with a unit behind each.
QSharedPointer<QCPAxisTicker> unit_ticker(const QString& unit, int count = 6);
/// Strokes that are seen before any colour is.
QBrush hatch();

} // namespace mirolux::app
