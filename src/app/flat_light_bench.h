#pragma once
#include "app/bench_rows.h"
#include "app/choice_row.h"
#include "app/figures/stage_figures.h"
#include "app/setting_editor.h"
#include <QComboBox>
#include <QLabel>

class QCheckBox;
class QLineEdit;

namespace mirolux::app {

/// One light of a flat stage: what it is, what it gives, and what it reaches.
class FlatLightBench : public QWidget {
    Q_OBJECT
public:
    explicit FlatLightBench(Document& document, QWidget* parent = nullptr);
    void set_light(int id);
signals:
    void duplicate_wanted();
    void delete_wanted();
    void back_wanted();

private:
    const Light& of() const;
    void fill();
    NumberField* number(const QString& name, const NumberField::Range& range, const QString& unit, const QString& help,
                        double (*get)(const Light&), void (*put)(Light&, double));
    void add_numbers();
    void add_reach();
    Document& document_;
    int id_ = -1;
    QLineEdit *name_, *text_;
    QCheckBox *enabled_, *casts_;
    ChoiceRow* kind_;
    QComboBox *picture_, *layers_;
    ColorSwatch* color_;
    LightPicture* figure_;
    BenchRows* rows_;
    QLabel* motion_;
    struct Number {
        NumberField* field;
        double (*get)(const Light&);
    };
    std::vector<Number> numbers_;
};

} // namespace mirolux::app
