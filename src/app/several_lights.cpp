#include "app/several_lights.h"
#include "app/bench_rows.h"
#include "app/light_numbers.h"
#include "app/number_field.h"
#include <QGridLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

namespace mirolux::app {

SeveralLights::SeveralLights(Document& document, Selection& selection, QWidget* parent)
    : QWidget(parent), document_(document), selection_(selection) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    head_ = new QLabel(this);
    head_->setObjectName("several");
    column->addWidget(head_);
    rows_ = new BenchRows(this);
    add_field(
        tr("Intensity"), tr("intensity"),
        tr("All of them brighter or darker in proportion. Same cost, unless a light "
           "has no range: then it reaches farther."),
        [](Light& l, const Light& start, double f) { l.intensity = start.intensity * static_cast<float>(f); }, nullptr,
        false);
    const auto numbers = light_numbers().first(light_numbers().size() - 3); // places are for the handles
    for (const LightNumber& n : numbers)
        add_field(
            tr(n.label), n.name, tr(n.help),
            [&n](Light& l, const Light& start, double f) {
                if (!n.when || n.when(start)) n.put(l, std::clamp(n.get(start) * f, n.range.low, n.range.high));
            },
            [&n](const Light& l) { return (!n.when || n.when(l)) && n.get(l) > 0; },
            &n != &numbers.back() && std::string_view((&n + 1)->label) == n.label);
    column->addWidget(rows_);
    auto* buttons = new QGridLayout; // three in a row: five would make the bench wider than its place
    buttons->setSpacing(4);
    const auto button = [&](const QString& text, const QString& name, const QString& help,
                            const std::function<void()>& run) { add_button(buttons, 3, text, name, help, run); };
    const auto switched = [this](bool on) {
        document_.edit_lights(on ? tr("switch on") : tr("switch off"), selection_.lights(),
                              [on](Light& l) { l.enabled = on; });
    };
    button(tr("On"), "all on", tr("Switches all of them on."), [switched] { switched(true); });
    button(tr("Off"), "all off", tr("Switches all of them off: they cost nothing."), [switched] { switched(false); });
    button(tr("Only these"), "isolate",
           tr("Only these lights shine; the others' switches stay as they are. Again: all as they were (I)."),
           [this] { emit isolate_wanted(); });
    button(tr("Off here"), "off here",
           tr("Off on the chosen target alone, or on again: what a weaker device does without "
              "(Shift+O)."),
           [this] { emit off_here_wanted(); });
    button(tr("Delete"), "delete all", tr("Deletes all of them; undo brings them back (Del)."),
           [this] { emit delete_wanted(); });
    column->addLayout(buttons);
    connect(&selection_, &Selection::changed, this, &SeveralLights::fill);
    connect(&document_, &Document::changed, this, &SeveralLights::fill);
    fill();
}

void SeveralLights::add_field(const QString& label, const QString& name, const QString& help, const Change& change,
                              const std::function<bool(const Light&)>& when, bool another) {
    auto* f = new NumberField({1, 1000, 0.01, 0, true}, "%", this);
    f->setObjectName("all " + name);
    f->setAccessibleName(tr("%1 of all").arg(label));
    f->set_value(100);
    f->set_default(100);
    f->setToolTip(tr("%1 In percent of what each has now.").arg(help));
    connect(f, &NumberField::scrubbing, this, [this, f](bool on) {
        if (on) starts_.clear();
        document_.set_interactive(on);
        if (on) return;
        starts_.clear();
        f->set_value(100);
    });
    connect(f, &NumberField::edited, this, [this, f, name, change](double percent) {
        apply(name, change, percent);
        if (document_.interactive()) return;
        starts_.clear();
        f->set_value(100);
    });
    row_.push_back(f);
    if (another) return;
    rows_->add(label, std::exchange(row_, {}), [this, when] {
        return std::any_of(selection_.lights().begin(), selection_.lights().end(), [&](int id) {
            const Light* l = document_.light(id);
            return l && (!when || when(*l));
        });
    });
}

void SeveralLights::apply(const QString& name, const Change& change, double percent) {
    if (starts_.empty())
        for (const int id : selection_.lights())
            starts_.push_back(*document_.light(id));
    std::unordered_map<int, const Light*> begun;
    for (const Light& l : starts_)
        begun[l.id] = &l;
    document_.edit_lights(
        tr("%1 of %2 lights").arg(name).arg(selection_.lights().size()), selection_.lights(),
        [&](Light& l) {
            if (const auto it = begun.find(l.id); it != begun.end()) change(l, *it->second, percent / 100.0);
        },
        document_.interactive() ? "several " + name : QString());
}

void SeveralLights::fill() {
    const std::size_t count = selection_.lights().size();
    setVisible(count > 1);
    if (count < 2) return;
    int on = 0;
    for (const int id : selection_.lights())
        on += document_.light(id) && document_.light(id)->enabled;
    head_->setText(tr("%1 lights selected, %2 on").arg(count).arg(on));
    rows_->show_what_applies();
}

} // namespace mirolux::app
