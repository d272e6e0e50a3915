#pragma once
#include "app/document.h"
#include "app/figures/figure.h"
#include "app/figures/light_figure.h"
#include "app/render_bridge.h"
#include "app/setting_editor.h"
#include "app/several_lights.h"
#include <QLabel>
#include <QWidget>

class QLineEdit;
class QListWidget;
class QComboBox;
class QCheckBox;
class QVBoxLayout;

namespace mirolux::app {

/// A heading, then content: what every bench is made of.
QVBoxLayout* bench_column(QWidget* bench, const QString& title, const QString& line = {});
QLabel* quiet_label(const QString& text, QWidget* parent);
/// Scrolls the bench so far that the widget is seen, once it is laid out.
void reveal(QWidget* widget);

/// Scene: what is in it, its cameras, its time.
class SceneBench : public QWidget {
    Q_OBJECT
public:
    SceneBench(Document& document, const RenderBridge& bridge, double watchdogSeconds, QWidget* parent = nullptr);
signals:
    void watchdog_changed(double seconds);
    void objects_wanted();
};

/// Lights: the list of all lights, adding, and what holds for all of them.
class LightsBench : public QWidget {
    Q_OBJECT
public:
    LightsBench(Document& document, Selection& selection, QWidget* parent = nullptr);
    /// The newest ledger: what "costliest" means.
    void show_costs(const Ledger& ledger) { ledger_ = ledger; }
signals:
    void light_picked(int id);
    void list_picked(const std::vector<int>& ids); // with Ctrl or Shift: the list stays
    void add_wanted(LightType type);
    void isolate_wanted();
    void delete_wanted();
    void off_here_wanted();
    void cheap_wanted();

protected:
    void showEvent(QShowEvent*) override;

private:
    void fill();
    void picked();
    void select(const std::function<bool(const Light&)>& wanted);
    void add_choosers(QVBoxLayout* column);
    Document& document_;
    Selection& selection_;
    std::optional<Ledger> ledger_;
    std::vector<int> summed_; // in the figure
    LightsFigure* figure_;
    QListWidget* list_;
    QLineEdit* filter_;
    QLabel* count_;
    QWidget* add_;
    bool filling_ = false;
};

/// One light: every field of it.
class LightBench : public QWidget {
    Q_OBJECT
public:
    LightBench(Document& document, QWidget* parent = nullptr);
    void set_light(int id);
    int light() const { return id_; }
    /// A row of its own under the light's values, shown for points while shadow maps are on.
    void add_shadow_row(QWidget* row);
signals:
    void duplicate_wanted();
    void off_here_wanted();
    void delete_wanted();
    void back_wanted();

private:
    const Light& of() const; // the light, or one of defaults if it is gone
    void fill();
    void fill_facts(const Light& l);
    void add_choices();
    void add_numbers();
    void connect_choices();
    NumberField* field(const QString& name, const NumberField::Range& range, const QString& unit, const QString& help,
                       const std::function<void(Light&, double)>& put);
    Document& document_;
    int id_ = -1;
    QLineEdit* name_;
    QCheckBox *enabled_, *here_; // here_: on the chosen target
    QComboBox *type_, *unit_, *colorBy_, *shadow_ = nullptr, *mobility_ = nullptr;
    ColorSwatch* color_;
    NumberField* intensity_;
    BenchRows* rows_;
    std::vector<NumberField*> numbers_; // in the order of their table
    QLabel *reach_, *motion_;
    LightFigure* figure_;
    QWidget* shadowRow_ = nullptr;
};

/// Path, Ambient, Finish: a station's settings and a line of facts.
class SettingsBench : public QWidget {
    Q_OBJECT
public:
    SettingsBench(Document& document, const RenderBridge& bridge, const QString& title, const QString& line,
                  const QString& station, QWidget* parent = nullptr);
    void set_facts(const QString& text);
    /// What the frame has not of what was asked for, over the settings; empty: nothing.
    void set_remark(const QString& text);
    /// A row of its own between the figure and the settings.
    void add_row(QWidget* row);

signals:
    void pass_wanted(const QString& pass);

private:
    QVBoxLayout* column_;
    QWidget* rows_;
    QLabel *facts_, *remark_;
};

/// One pass: times, counters, targets, and the settings that shape it.
class PassBench : public QWidget {
    Q_OBJECT
public:
    PassBench(Document& document, const RenderBridge& bridge, QWidget* parent = nullptr);
    void set_pass(const QString& name);
    void fill();
signals:
    void back_wanted();

private:
    Document& document_;
    const RenderBridge& bridge_;
    QString name_;
    QLabel *title_, *what_, *numbers_, *targets_;
    QWidget* rows_ = nullptr;
    QVBoxLayout* column_;
};

} // namespace mirolux::app
