#pragma once
#include "core/cost/logbook.h"
#include <QFrame>
#include <functional>

class QLabel;
class QPushButton;
class QScrollArea;
class QProgressBar;
class QVBoxLayout;

namespace mirolux::app {

/// One logbook entry: thumbnail, time with its interval, what changed, the delta to the entry before.
class EntryCard : public QFrame {
    Q_OBJECT
public:
    EntryCard(const Entry& entry, const Entry* before, QWidget* parent);
signals:
    void restore_wanted(qint64 id);
    void delete_wanted(qint64 id);
    void annotated(qint64 id, const QString& note);
};

/// Measured states, newest first; and the measurement under way.
class LogbookPanel : public QWidget {
    Q_OBJECT
public:
    explicit LogbookPanel(QWidget* parent = nullptr);
    void show_entries(const std::vector<Entry>& entries);
    void show_progress(int round, int rounds, double estimateMs);
    void show_rest();
    void show_trouble(const QString& text);
signals:
    void stop_wanted();
    void restore_wanted(qint64 id);
    void delete_wanted(qint64 id);
    void annotated(qint64 id, const QString& note);

private:
    QLabel *empty_, *trouble_, *progressText_;
    QWidget *progress_, *rest_;
    QProgressBar* bar_;
    QScrollArea* scroll_;
    QWidget* list_;
    QVBoxLayout* column_;
};

} // namespace mirolux::app
