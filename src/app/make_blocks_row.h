#pragma once
#include "app/document.h"
#include "app/newest_task.h"
#include "app/number_field.h"
#include <QLabel>
#include <QPushButton>

namespace mirolux::app {

/// Of a Solid scene: makes a Blocks world of what it shows, aside, with cells of a chosen edge.
class MakeBlocksRow : public QWidget {
    Q_OBJECT
public:
    MakeBlocksRow(Document& document, QWidget* parent);
    ~MakeBlocksRow() override;
    /// Starts, unless one is being made.
    void make(const QString& path);
    bool running() const { return running_; }

signals:
    void path_wanted();
    void made(const QString& path);

private:
    void take();
    void tell(const QString& text);
    Document& document_;
    NumberField* edge_;
    QPushButton* button_;
    QLabel* facts_;
    bool running_ = false;
    NewestTask task_; // last: its thread uses the others
};

} // namespace mirolux::app
