#pragma once
#include "app/document.h"
#include "app/selection.h"
#include "core/account/ledger.h"
#include <QWidget>
#include <optional>

class QComboBox;
class QLabel;
class QLineEdit;
class QListWidget;
class QPushButton;

namespace mirolux::app {

class BenchRows;
class ColorSwatch;
class NumberField;
class RampFigure;

/// View-locked lights and solid-shape lights: which there are, the chosen one, and what it costs beside the lamps that
/// it stands for. Handles in the picture move a ball or cone.
class CheapLightsBench : public QWidget {
    Q_OBJECT
public:
    CheapLightsBench(Document& document, Selection& selection, QWidget* parent = nullptr);
    void show_costs(const Ledger& ledger);
    void set_stale();

signals:
    void back_wanted();
    /// A: cheap lights in place of their lamps; B: the lamps alone.
    void against_wanted(const Setup& a, const Setup& b);

protected:
    void showEvent(QShowEvent*) override;

private:
    struct Number {
        NumberField* field;
        double (*get)(const CheapLight&);
    };
    void fill();
    void fill_facts(const CheapLight* light);
    const CheapLight* chosen() const;
    void add(CheapStart start);
    void remove();
    void change(const QString& what, const std::function<void(CheapLight&)>& change);
    void put(const QString& what, const CheapLight& light);
    NumberField* add_number(const char* name, double low, double high, bool logarithmic, const char* unit,
                            const QString& help, double (*get)(const CheapLight&), void (*put)(CheapLight&, double));
    void add_list(class QVBoxLayout* column);
    void add_ramp_rows();
    void add_shape_rows();
    void add_lamp_rows(class QVBoxLayout* column);
    void hold_against_lamps();
    Document& document_;
    Selection& selection_;
    std::optional<Ledger> ledger_;
    bool stale_ = true, filling_ = false;
    QListWidget* list_;
    QLineEdit *name_, *objects_;
    QLabel *facts_, *lamps_;
    QPushButton *delete_, *deleteStop_, *take_, *against_;
    RampFigure* figure_;
    QComboBox* blend_;
    ColorSwatch *stopColor_, *tint_;
    NumberField *stopAt_, *stopAmount_;
    BenchRows* rows_;
    std::vector<Number> numbers_;
};

} // namespace mirolux::app
