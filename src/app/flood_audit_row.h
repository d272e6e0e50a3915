#pragma once
#include "app/document.h"
#include "app/newest_task.h"
#include "core/blocks/flood_audit.h"
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QWidget>

namespace mirolux::app {

/// Of a Blocks stage: its flood, as edits have left it, against a fresh one, aside; cells that cannot be right, listed.
class FloodAuditRow : public QWidget {
    Q_OBJECT
public:
    FloodAuditRow(Document& document, QWidget* parent);
    ~FloodAuditRow() override;
    bool running() const { return running_; }
    const std::optional<blocks::FloodAudit>& audit() const { return audit_; }
    /// Shows what an audit found.
    void show_audit(const blocks::FloodAudit& audit, double ms);

signals:
    void cell_chosen(const glm::ivec3& cell);

private:
    void take();
    void ask();
    Document& document_;
    QPushButton* button_;
    QLabel* facts_;
    QListWidget* odd_;
    std::optional<blocks::FloodAudit> audit_;
    std::tuple<blocks::WorldPtr, int, std::string> of_; // cells, loss, way
    bool running_ = false;
    NewestTask task_; // last: its thread uses the others
};

} // namespace mirolux::app
