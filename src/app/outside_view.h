#pragma once
#include "app/document.h"
#include "app/newest_task.h"
#include "client/worker_client.h"
#include "core/visibility/outside.h"
#include <QImage>
#include <QWidget>

class QComboBox;
class QLabel;
class QSlider;

namespace mirolux::app {

/// The scene from above, cut open at the eye's height: what this frame draws is there, what visibility leaves out is an
/// outline; the eye with its frustum and cell, doors, rooms drawn by hand with a handle on each side, and how far each
/// chain of doors shows. Drag turns, with Shift it moves, the wheel comes nearer.
class OutsideCanvas : public QWidget {
    Q_OBJECT
public:
    explicit OutsideCanvas(QWidget* parent = nullptr);
    void set_question(const OutsideQuestion& question); // what is drawn over the picture until the answer is here
    void set_answer(std::shared_ptr<const OutsideAnswer> answer, const View& outside);
    const OutsideAnswer* answer() const { return answer_.get(); }
    /// The camera that looks in, of the canvas's size.
    View outside(const View& inside) const;
    /// How the eye is followed: over it, unless it was moved aside.
    void set_over(const glm::vec3& eye);
    /// Where a point of the world stands, or none.
    std::optional<QPointF> place(const glm::vec3& point) const;

    /// Where the handle of a drawn room's side stands: side / 2 is the axis, odd ones are the high ends. None: it has
    /// none here.
    std::optional<QPointF> handle(const DrawnRoom& room, int side) const;

signals:
    void moved();                                    // its camera
    void side_dragged(int room, int side, float to); // DrawnRoom::id; metres along the axis
    void side_dropped();

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void resizeEvent(QResizeEvent*) override;

private:
    void paint_line(QPainter& p, const glm::vec3& a, const glm::vec3& b) const;
    void paint_box(QPainter& p, const Box& box) const;
    void paint_frustum(QPainter& p, const Window& part, float length) const;
    void paint_rooms(QPainter& p) const;
    void drag_side(const QPointF& to);

    struct Grip {
        DrawnRoom room; // as it was when the drag began
        int side = 0;
        QPointF from;
    };
    std::optional<Grip> grip_; // under the pointer's button
    std::optional<OutsideQuestion> question_;
    std::shared_ptr<const OutsideAnswer> answer_;
    QImage picture_;
    View shown_; // that it is drawn for
    glm::vec3 over_{0.0f}, aside_{0.0f};
    float distance_ = 42, turn_ = 0.35f, pitch_ = 1.32f;
    QPoint last_;
};

/// The canvas with what it tells, in the picture's place; the walk's time moves the eye.
class OutsideView : public QWidget {
    Q_OBJECT
public:
    OutsideView(Document& document, WorkerOptions options, QWidget* parent = nullptr);
    ~OutsideView() override;
    OutsideCanvas& canvas() { return *canvas_; }
    /// Asks anew, if it is shown.
    void refresh();
    bool busy() const { return busy_; }

signals:
    void back_wanted();
    void answered();

protected:
    void showEvent(QShowEvent*) override;

private:
    void take_document();
    void take(const OutsideQuestion& question, std::shared_ptr<const OutsideAnswer> answer, bool over);
    void move_side(int room, int side, float to);
    Document& document_;
    OutsideCanvas* canvas_;
    QLabel* head_;
    QLabel* told_;
    QComboBox* walks_;
    QSlider* time_;
    QTimer rest_; // until edits rest
    WorkerOptions options_;
    bool busy_ = false;
    std::unique_ptr<WorkerClient> worker_; // the thread's own
    NewestTask task_;                      // last: its thread uses the others
};

} // namespace mirolux::app
