#pragma once
#include "app/document.h"
#include "app/selection.h"
#include <QWidget>
#include <set>

class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;

namespace mirolux::app {

class BenchRows;
class ColorSwatch;
class NumberField;

/// What of the selection was built: its name, measures and material; and how what is selected is copied in rows.
class ThingRow : public QWidget {
    Q_OBJECT
public:
    ThingRow(Document& document, Selection& selection, QWidget* parent = nullptr);
    void fill();
    /// Copies at the places of the array; they are selected with what they were made of.
    void make_array();

private:
    std::set<std::string> things() const;
    /// How the leading selected thing is made; null: it is of the scene file.
    const Make* leading() const;
    /// All selected things that are shapes.
    void change(const QString& label, const std::function<void(Make&)>& change);
    NumberField* measure(const QString& name, const QString& label, const QString& help, bool whole,
                         const std::function<double(const Make&)>& get, const std::function<void(Make&, double)>& set);
    Document& document_;
    Selection& selection_;
    QWidget* built_;
    QLineEdit* name_;
    BenchRows* rows_;
    QComboBox* material_;
    NumberField* longest_; // side of a model, metres
    double longest_of(const std::string& thing) const;
    void fit_models(double metres);
    ColorSwatch *color_, *glow_;
    struct Measure {
        NumberField* field;
        std::function<double(const Make&)> get;
    };
    std::vector<Measure> measures_;
    std::vector<std::pair<NumberField*, bool (*)(ShapeKind)>> sometimes_; // fields that not all shapes have
    NumberField *count_[3], *step_[3];
    QPushButton* array_;
    bool filling_ = false;
};

} // namespace mirolux::app
