#pragma once
#include "app/figures/figure.h"
#include <QImage>
#include <QMap>
#include <optional>

namespace mirolux::app {

/// Path, of a flat stage: how the chosen way makes the picture, in live pictures: the sheets, what stands for light,
/// and what comes of them.
class WayFigure : public Figure {
    Q_OBJECT
public:
    WayFigure(Document& document, const RenderBridge& bridge, QWidget* parent);
    QSize sizeHint() const override { return {280, 128}; }
    QSize minimumSizeHint() const override { return {200, 128}; }

protected:
    void paintEvent(QPaintEvent*) override;

private:
    QMap<QString, QImage> pictures_;
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
