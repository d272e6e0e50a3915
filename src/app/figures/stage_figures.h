#pragma once
#include "app/figures/figure.h"
#include "core/flat/cascades.h"
#include <QImage>
#include <QMap>
#include <optional>

namespace mirolux::app {

/// Path, of a flat stage: how the chosen way makes the picture, in live pictures: the sheets, what stands for light,
/// and what comes of them; of light that travels the cascades beneath.
class WayFigure : public Figure {
    Q_OBJECT
public:
    WayFigure(Document& document, const RenderBridge& bridge, QWidget* parent);

protected:
    void paintEvent(QPaintEvent*) override;

private:
    QMap<QString, QImage> pictures_;
};

/// Path, of a flat stage whose light travels: the levels of its cascades on the view, with a probe's rays over each
/// level's interval, and a table of them.
class CascadesFigure : public Figure {
    Q_OBJECT
public:
    CascadesFigure(Document& document, const RenderBridge& bridge, QWidget* parent);
    const flat::CascadeShape& shape() const { return shape_; }

protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;

private:
    static constexpr int line_height = 17;
    void take();
    QRect drawing() const;
    flat::CascadeShape shape_;
    int level_ = -1; // pointed at
};

/// Shadows, of a flat stage: its walls, and what a place sees past them: the pointer's, or the lights' places one by
/// one with the arrow keys.
class SeenFigure : public Figure {
    Q_OBJECT
public:
    SeenFigure(Document& document, const RenderBridge& bridge, QWidget* parent);
    QSize sizeHint() const override { return {280, 190}; }
    QSize minimumSizeHint() const override { return {200, 190}; }
    /// The share of the stage that the place sees, 0 to 1; none: no place.
    std::optional<double> seen_share() const { return share_; }

protected:
    void paintEvent(QPaintEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

private:
    QRectF drawing() const;
    std::optional<QPointF> pointer_;
    std::optional<double> share_;
    int light_ = 0; // into the project's lights
};

/// What a light of a flat stage gives around its place, as a small picture.
class LightPicture : public QWidget {
    Q_OBJECT
public:
    LightPicture(Document& document, QWidget* parent);
    void set_light(int id);
    QSize sizeHint() const override { return {280, 112}; }
    QSize minimumSizeHint() const override { return {200, 112}; }

protected:
    void paintEvent(QPaintEvent*) override;

private:
    Document& document_;
    int id_ = -1;
};

/// The figures of a flat stage's station, or none.
Figure* make_flat_figure(const QString& station, Document& document, const RenderBridge& bridge, QWidget* parent);

} // namespace mirolux::app
