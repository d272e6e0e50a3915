#pragma once
#include "app/document.h"
#include "app/selection.h"
#include "core/account/ledger.h"
#include "core/scene/place_handles.h"
#include <QAbstractTableModel>
#include <QWidget>

class QCheckBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QTableView;

namespace mirolux::app {

class BenchRows;
class NumberField;
class ObjectMarks;
class ThingRow;

/// Objects that a pattern finds, in an order, with what each costs.
class ObjectTable : public QAbstractTableModel {
    Q_OBJECT
public:
    enum Column { name, triangles, fragments, evaluations, columns };
    using QAbstractTableModel::QAbstractTableModel;

    void set_rows(std::vector<ObjectRow> rows, bool counted);
    void find(const QString& pattern);
    int object(int row) const { return static_cast<int>(shown_[static_cast<std::size_t>(row)]); }
    int row_of(int object) const; // -1: not found
    std::size_t all() const { return rows_.size(); }

    int rowCount(const QModelIndex& parent = {}) const override;
    int columnCount(const QModelIndex& parent = {}) const override;
    QVariant data(const QModelIndex& index, int role) const override;
    QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
    void sort(int column, Qt::SortOrder order) override;

private:
    void arrange();
    std::vector<ObjectRow> rows_;
    std::vector<std::size_t> shown_; // into rows_
    std::string pattern_;
    int column_ = evaluations;
    Qt::SortOrder order_ = Qt::DescendingOrder;
    bool counted_ = false;
};

/// Objects: the list with its costs, and what is done with those that are selected.
class ObjectsBench : public QWidget {
    Q_OBJECT
public:
    ObjectsBench(Document& document, Selection& selection, QWidget* parent = nullptr);
    void show_costs(const Ledger& ledger);
    void set_stale();
    ObjectTable& table() { return *table_; }
    ThingRow& things() { return *things_; }
    /// What the selected objects cost, or how far finding that out has come; empty: unknown.
    void show_price(const QString& words, bool running);
    /// The measurement has ended, with a result or without.
    void end_price();

signals:
    void back_wanted();
    void frame_wanted();
    void off_here_wanted();
    void stand_in_wanted();
    void snap_wanted(const mirolux::Snap& snap);
    void duplicate_wanted();
    void delete_wanted();
    void price_wanted();

protected:
    void showEvent(QShowEvent*) override;

private:
    void fill();
    void emit_snap();
    void follow_selection();
    void place_fields();
    void place_by(const QString& label, const QString& merge,
                  const std::function<void(ObjectEdit&, const ObjectEdit&)>& change);
    NumberField* field(const QString& name, const QString& unit, const QString& help);

    Document& document_;
    Selection& selection_;
    ObjectTable* table_;
    QTableView* view_;
    QLineEdit* find_;
    QLabel *count_, *facts_;
    ObjectMarks* marks_;
    QPushButton* standIn_;
    BenchRows* rows_;
    ThingRow* things_;
    NumberField *grid_, *angle_;
    QCheckBox* surface_;
    QPushButton *delete_, *priceOf_;
    QLabel* price_;
    QPushButton *hide_, *back_, *taken_;
    QWidget* selected_;
    NumberField *place_[3], *turn_[3], *size_;
    std::optional<Ledger> ledger_;
    std::vector<ObjectEdit> starts_; // of the drag under way
    glm::vec3 startMiddle_{0.0f};
    bool following_ = false;
};

} // namespace mirolux::app
