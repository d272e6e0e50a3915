#pragma once
#include "app/figures/figure.h"
#include "core/cost/foresight.h"
#include <QTimer>
#include <map>

namespace mirolux::app {

/// The eight paths as eight small chains of passes, each to scale once it was measured in the present state, with its
/// time and what it gives up; then the present frame's passes in order with what each reads and writes.
class PathFigure final : public Figure {
    Q_OBJECT
public:
    PathFigure(Document& document, const RenderBridge& bridge, QWidget* parent = nullptr);
    std::vector<std::string> edits() const override { return {"path.kind"}; }
    QRectF row(int path) const;
    QRectF pass_row(int pass) const;
    /// What the path costs and gives up, in words.
    QString words(int path) const;
    /// What a path would cost, by its setup.
    void set_foreseen(const Setup& setup, const Foresight& foresight);
    const Foresight* foreseen(int path) const;
    /// ms of a path that was measured in this state, or 0.
    double measured_ms(int path) const;
    QSize sizeHint() const override;
    QSize minimumSizeHint() const override { return sizeHint(); }

signals:
    void foresight_wanted(const std::vector<Consideration>& paths); // of those that are not measured

protected:
    void paintEvent(QPaintEvent*) override;
    void showEvent(QShowEvent*) override { planning_.start(); }
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

private:
    void look(); // at the document: what no longer holds is forgotten
    void plan_next();
    void remember();
    int current() const;
    void choose(int path);
    void paint_chain(QPainter& p, int path, const QRectF& place) const;
    void paint_passes(QPainter& p) const;
    std::vector<std::string> paths_;
    std::map<int, FramePlan> plans_;       // of the present state, made one after the other
    std::map<int, Foresight> foreseen_;    // of the present state
    std::map<int, FrameHistory> measured_; // of the present state
    Project of_;                           // the state that both are of, without its path
    QTimer planning_;
    int under_ = -1, passUnder_ = -1;
};

} // namespace mirolux::app
