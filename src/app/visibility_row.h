#pragma once
#include "app/bench_rows.h"
#include "app/document.h"
#include "app/newest_task.h"
#include <QListWidget>

class QLabel;
class QPushButton;
class QVBoxLayout;

namespace mirolux::app {

class NumberField;

/// What visibility needs beforehand: cells or rooms, computed beside the window, and the doors between rooms. Shown at
/// the Path station where the setup's kind asks for it.
class VisibilityRow : public QWidget {
    Q_OBJECT
public:
    explicit VisibilityRow(Document& document, QWidget* parent = nullptr);
    ~VisibilityRow() override;
    void compute();
    bool computing() const { return computing_; }
    /// A door in the opening that the camera looks through.
    void place_door();
    int chosen_door() const; // Door::id; -1: none
    /// A room by hand, between the walls around the camera.
    void draw_room();
    int chosen_room() const; // DrawnRoom::id; -1: none

signals:
    void computed(); // or stopped, or failed
    void said(const QString& words);

private:
    void take();
    void build_rooms(QVBoxLayout* column);
    void fill_doors();
    void fill_rooms();
    void show_room();
    void show_state();
    void ended(const QString& words);
    void change_door(const QString& what, const std::function<void(Door&)>& change, const QString& merge = {});
    Document& document_;
    QPushButton *compute_, *place_, *delete_;
    QLabel *state_, *doorState_;
    QListWidget* doors_;
    QWidget* doorPart_;
    NumberField* open_;
    QListWidget* rooms_; // drawn by hand
    QPushButton *drawRoom_, *deleteRoom_;
    QWidget* roomNumbers_;
    NumberField* sides_[6]; // side / 2 is the axis, odd ones are the high ends
    bool computing_ = false, filling_ = false;
    std::atomic<bool> stop_ = false;
    QString found_;   // the last answer
    NewestTask task_; // last: its thread uses the others
};

} // namespace mirolux::app
