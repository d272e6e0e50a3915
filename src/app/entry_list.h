#pragma once
#include "core/cost/logbook.h"
#include <QAbstractScrollArea>
#include <functional>
#include <unordered_map>

class QLineEdit;

namespace mirolux::app {

/// Logbook entries, newest first: thumbnail, time with its interval, what changed, the delta to the entry before. Rows
/// are read and painted when they come into view, so that a hundred thousand cost no more than ten.
class EntryList : public QAbstractScrollArea {
    Q_OBJECT
public:
    enum class Part { none, restore, remove, note };
    explicit EntryList(QWidget* parent = nullptr);
    /// points: oldest first. fetch reads entries by their ids.
    void show_entries(std::vector<EntryPoint> points,
                      std::function<std::vector<Entry>(const std::vector<std::int64_t>&)> fetch);
    int rows() const { return static_cast<int>(points_.size()); }
    /// Where a part of a row lies in the viewport; row 0 is the newest.
    QRect rect_of(int row, Part part) const;
    QLineEdit* note_editor() { return note_; }
    static constexpr int row_height = 226;

signals:
    void restore_wanted(qint64 id);
    void delete_wanted(qint64 id);
    void annotated(qint64 id, const QString& note);

protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void scrollContentsBy(int dx, int dy) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    bool viewportEvent(QEvent*) override;

private:
    struct Shown {
        Entry entry;
        QPixmap picture;
    };
    const Shown* shown(int row);
    void paint_row(QPainter& p, int row);
    std::pair<int, Part> at(const QPoint& point) const;
    void end_note();

    std::vector<EntryPoint> points_;
    std::function<std::vector<Entry>(const std::vector<std::int64_t>&)> fetch_;
    std::unordered_map<std::int64_t, Shown> read_; // what was in view lately
    QLineEdit* note_;
    int noteRow_ = -1;
    std::pair<int, Part> hovered_{-1, Part::none};
};

} // namespace mirolux::app
