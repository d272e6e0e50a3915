#pragma once
#include <QWidget>
#include <functional>
#include <vector>

class QGridLayout;
class QPushButton;

namespace mirolux::app {

/// Rows of a bench: a label, its controls side by side, and the condition under which they mean anything. A row whose
/// condition does not hold is not shown.
class BenchRows : public QWidget {
    Q_OBJECT
public:
    explicit BenchRows(QWidget* parent = nullptr);
    void add(const QString& label, const std::vector<QWidget*>& controls, const std::function<bool()>& when = {});
    /// A line over the rows that follow, shown while any of them is.
    void add_heading(const QString& text);
    /// Asks every condition anew.
    void show_what_applies();

private:
    struct Row {
        std::function<bool()> when;
        std::vector<QWidget*> widgets;
    };
    QGridLayout* grid_;
    struct Heading {
        QWidget* label;
        std::size_t first; // into rows_
    };
    std::vector<Row> rows_;
    std::vector<Heading> headings_;
};

/// A button of a bench in the next free cell of a grid of so many columns.
QPushButton* add_button(QGridLayout* grid, int columns, const QString& text, const QString& name, const QString& help,
                        const std::function<void()>& run);

} // namespace mirolux::app
