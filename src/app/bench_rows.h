#pragma once
#include <QWidget>
#include <functional>
#include <vector>

class QGridLayout;

namespace mirolux::app {

/// Rows of a bench: a label, its controls side by side, and the condition under which they mean anything. A row whose
/// condition does not hold is not shown.
class BenchRows : public QWidget {
    Q_OBJECT
public:
    explicit BenchRows(QWidget* parent = nullptr);
    void add(const QString& label, const std::vector<QWidget*>& controls, const std::function<bool()>& when = {});
    /// Asks every condition anew.
    void show_what_applies();

private:
    struct Row {
        std::function<bool()> when;
        std::vector<QWidget*> widgets;
    };
    QGridLayout* grid_;
    std::vector<Row> rows_;
};

} // namespace mirolux::app
