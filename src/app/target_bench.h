#pragma once
#include "app/bench_rows.h"
#include "app/document.h"
#include "app/number_field.h"
#include "core/cost/target_table.h"
#include <QWidget>

class QCheckBox;
class QComboBox;
class QLabel;
class QVBoxLayout;
class QLineEdit;
class QPushButton;
class QTableWidget;

namespace mirolux::app {

/// The project's targets: how each stands, and the chosen one's size, frame time, share, eyes and device.
class TargetBench : public QWidget {
    Q_OBJECT
public:
    explicit TargetBench(Document& document, QWidget* parent = nullptr);
    /// Verdicts of the project's targets, in their order; shown until the document changes in a way that they are no
    /// longer of.
    void show_verdicts(const std::vector<TargetVerdict>& verdicts);
    QTableWidget& table() { return *table_; }

signals:
    void back_wanted();
    void judge_wanted(); // all targets

protected:
    void showEvent(QShowEvent*) override;

private:
    void fill();
    void fill_table();
    void fill_setup();
    void add_setup(QVBoxLayout* column);
    void make_table();
    BenchRows* make_rows();
    void change(const QString& what, const std::function<void(Target&)>& put, const QString& merge = {});
    void choose_profile(int index);
    Document& document_;
    std::vector<TargetVerdict> verdicts_;
    Project of_; // what the verdicts are of
    QTableWidget* table_;
    QLineEdit* name_;
    QCheckBox* own_;
    QLabel* differs_;
    QWidget* taking_;
    QStringList takes_;
    std::vector<int> sources_;
    std::vector<NumberField*> numbers_; // in the order of their table
    QComboBox *stereo_, *profile_;
};

} // namespace mirolux::app
