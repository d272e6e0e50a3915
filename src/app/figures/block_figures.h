#pragma once
#include "app/choice_row.h"
#include "app/figures/figure.h"
#include "app/newest_task.h"
#include "core/blocks/slice.h"
#include <QImage>
#include <QLabel>
#include <QTimer>
#include <optional>

namespace mirolux::app {

/// Of a Blocks stage: a slice of the world at a height, by its cells, its lamps' levels or the sky's; where cells know
/// where their light came from, strokes toward it. The wheel or the arrow keys move the slice; the pointer tells of a
/// cell, and draws its light's way back to the lamp.
class SliceFigure : public Figure {
    Q_OBJECT
public:
    SliceFigure(blocks::Field first, Document& document, const RenderBridge& bridge, QWidget* parent);
    ~SliceFigure() override;
    QSize sizeHint() const override { return {280, 300}; }
    QSize minimumSizeHint() const override { return {200, 300}; }
    int height_shown() const { return height_; }
    void set_height(int cells);
    /// As if the pointer rested on it.
    void show_cell(const glm::ivec3& cell);
    bool settled() const { return light_ && !picture_.isNull(); }
    QString words() const { return words_; }

protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void showEvent(QShowEvent*) override { take(); }
    void wheelEvent(QWheelEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;

private:
    void take();
    void work_out();
    void draw_slice();
    void point_at(const QPointF& at);
    QString height_words() const;
    blocks::Field field() const;
    QRectF drawing() const;
    QRectF ladder() const; // of heights, beside it
    QPointF place(double x, double z) const;
    ChoiceRow* fields_;
    mutable int rowFor_ = -1, rowHeight_ = 0; // the row's height at a width
    std::shared_ptr<const blocks::BlockLight> light_;
    std::optional<std::tuple<blocks::WorldPtr, Setup, double>> of_; // what light_ was asked for
    QImage picture_;
    int height_ = -1; // cells; -1: not chosen yet
    std::optional<glm::ivec3> cell_;
    QString words_;
    QTimer rest_;
    NewestTask task_; // last: its thread uses the others
};

/// The figure of a Blocks stage's station, or none.
Figure* make_block_figure(const QString& station, Document& document, const RenderBridge& bridge, QWidget* parent);

} // namespace mirolux::app
