#pragma once
#include "app/plots/plot.h"
#include "core/cost/journal.h"
#include <functional>
#include <unordered_map>

namespace mirolux::app {

/// The change journal: every entry of the logbook on one axis of time against the budget, its step named. A click picks
/// an entry, a double click brings it back.
class JournalView : public Plot {
    Q_OBJECT
public:
    explicit JournalView(QWidget* parent = nullptr);
    /// points: oldest first. fetch reads entries by their ids.
    void show_entries(std::vector<EntryPoint> points,
                      std::function<std::vector<Entry>(const std::vector<std::int64_t>&)> fetch);
    /// The last dozen entries, as near as they need.
    void show_latest();
    /// Where an entry's mark lies.
    QPointF place_of(std::size_t point) const;
    std::size_t shown_labels() const { return labels_; }

signals:
    void restore_wanted(qint64 id);
    void report_wanted();
    void back_wanted();

protected:
    void restyle() override;
    void before_drawing() override;
    void paint_over(QPainter& p) override;
    QString empty_words() const override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

private:
    class EntryTicker;
    /// The entries in view: the first, and one past the last.
    std::pair<std::size_t, std::size_t> in_view() const;
    int point_at(const QPointF& at) const;
    const Entry* entry(std::size_t point);
    void draw_line();
    void draw_budgets();
    void paint_names(QPainter& p, std::size_t first, std::size_t last);
    void paint_budget_words(QPainter& p, std::size_t first, std::size_t last) const;
    void paint_picked(QPainter& p);

    std::vector<EntryPoint> points_;
    JournalAxis axis_;
    std::function<std::vector<Entry>(const std::vector<std::int64_t>&)> fetch_;
    std::unordered_map<std::int64_t, Entry> read_;
    QCPGraph *budget_ = nullptr, *line_;
    QCPGraph *middles_, *within_, *over_; // what is in view, where it is few
    QCPErrorBars* intervals_;             // of middles_
    int hovered_ = -1, picked_ = -1;
    std::size_t labels_ = 0;
};

} // namespace mirolux::app
