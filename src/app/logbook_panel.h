#pragma once
#include "app/entry_list.h"
#include "core/cost/measure.h"
#include <QWidget>

class QLabel;
class QProgressBar;

namespace mirolux::app {

/// How a running measurement's interval narrows: a whisker a round.
class Narrowing : public QWidget {
    Q_OBJECT
public:
    using QWidget::QWidget;
    void add(const Interval& interval);
    void clear();
    QSize sizeHint() const override { return {170, 44}; }

protected:
    void paintEvent(QPaintEvent*) override;

private:
    std::vector<Interval> rounds_;
};

/// Measured states, newest first; and the measurement under way.
class LogbookPanel : public QWidget {
    Q_OBJECT
public:
    explicit LogbookPanel(QWidget* parent = nullptr);
    /// points: oldest first.
    void show_entries(std::vector<EntryPoint> points,
                      std::function<std::vector<Entry>(const std::vector<std::int64_t>&)> fetch);
    void show_progress(const MeasureProgress& progress);
    void show_rest();
    void show_trouble(const QString& text);
    EntryList& list() { return *list_; }
    QString progress_text() const;
signals:
    void stop_wanted();
    void journal_wanted();
    void restore_wanted(qint64 id);
    void delete_wanted(qint64 id);
    void annotated(qint64 id, const QString& note);

private:
    QLabel *empty_, *trouble_, *progressText_;
    QWidget *progress_, *rest_;
    QProgressBar* bar_;
    Narrowing* narrowing_;
    EntryList* list_;
};

} // namespace mirolux::app
