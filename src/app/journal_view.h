#pragma once
#include "core/cost/journal.h"
#include <QWidget>
#include <functional>
#include <unordered_map>

namespace mirolux::app {

/// The change journal: every entry of the logbook on one axis of time against the budget, its step named. Wheel: nearer
/// or farther; drag: along; a click picks an entry, a double click brings it back.
class JournalView : public QWidget {
    Q_OBJECT
public:
    explicit JournalView(QWidget* parent = nullptr);
    /// points: oldest first. fetch reads entries by their ids.
    void show_entries(std::vector<EntryPoint> points,
                      std::function<std::vector<Entry>(const std::vector<std::int64_t>&)> fetch);
    void show_whole();
    /// Where an entry's mark lies.
    QPointF place_of(std::size_t point) const;
    std::size_t shown_labels() const { return labels_; }

signals:
    void restore_wanted(qint64 id);
    void report_wanted();
    void back_wanted();

protected:
    void paintEvent(QPaintEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

private:
    QRectF plot() const;
    int point_at(const QPointF& at) const;
    const Entry* entry(std::size_t point);
    void paint_story(QPainter& p, std::size_t first, std::size_t last);
    void paint_picked(QPainter& p);

    std::vector<EntryPoint> points_;
    JournalAxis axis_;
    std::function<std::vector<Entry>(const std::vector<std::int64_t>&)> fetch_;
    std::unordered_map<std::int64_t, Entry> read_;
    double from_ = 0, to_ = 1; // what of the axis is in view
    double most_ = 1;          // ms at the top
    int hovered_ = -1, picked_ = -1;
    bool dragging_ = false;
    QPointF dragStart_;
    double dragFrom_ = 0;
    std::size_t labels_ = 0;
};

} // namespace mirolux::app
