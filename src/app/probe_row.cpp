#include "app/probe_row.h"
#include "app/benches.h"
#include "app/choice_row.h"
#include "core/ambient/probe_place.h"
#include "core/ambient/probes.h"
#include "core/base/text.h"
#include <QGridLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

namespace mirolux::app {

namespace {

constexpr NumberField::Range place{-1e5, 1e5, 0.02, 2, false}, across{0.1, 1000, 0.02, 2, true};

#define TEXT(words) QT_TRANSLATE_NOOP("mirolux::app::ProbeRow", words)
#define PART(member, axis) component<Probe, &Probe::member, axis>, put_component<Probe, &Probe::member, axis>
const ThingNumber<Probe> probeNumbers[] = {
    {TEXT("Place, m"), TEXT("probe x"), "", place, TEXT("x of the place that captures are seen from."),
     PART(position, 0)},
    {TEXT("Place, m"), TEXT("probe y"), "", place, TEXT("y of the place that captures are seen from."),
     PART(position, 1)},
    {TEXT("Place, m"), TEXT("probe z"), "", place, TEXT("z of the place that captures are seen from."),
     PART(position, 2)},
    {TEXT("Box's middle"), TEXT("box x"), "", place, TEXT("x of its box's middle, metres."), PART(center, 0)},
    {TEXT("Box's middle"), TEXT("box y"), "", place, TEXT("y of its box's middle, metres."), PART(center, 1)},
    {TEXT("Box's middle"), TEXT("box z"), "", place, TEXT("z of its box's middle, metres."), PART(center, 2)},
    {TEXT("Box's size"), TEXT("box width"), "", across, TEXT("Metres across, along its own x."), PART(size, 0)},
    {TEXT("Box's size"), TEXT("box height"), "", across, TEXT("Metres high."), PART(size, 1)},
    {TEXT("Box's size"), TEXT("box depth"), "", across, TEXT("Metres across, along its own z."), PART(size, 2)},
    {TEXT("Turn, blend"),
     TEXT("box turn"),
     "\u00b0",
     {-180, 180, 0.5, 0, false},
     TEXT("Of its box, about the vertical."),
     [](const Probe& p) { return double(glm::degrees(p.turn)); },
     [](Probe& p, double x) { p.turn = glm::radians(static_cast<float>(x)); }},
    {TEXT("Turn, blend"),
     TEXT("probe blend"),
     "m",
     {0, 100, 0.02, 2, true},
     TEXT("Metres outside its box's sides over which its light comes in; thinner than walls, or it leaks."),
     [](const Probe& p) { return double(p.blend); },
     [](Probe& p, double x) { p.blend = static_cast<float>(x); }},
    {TEXT("Weight"),
     TEXT("probe weight"),
     "",
     {0, 1, 0.005, 2, false},
     TEXT("Share of the surroundings that it replaces where it is whole; what lies around gives the rest."),
     [](const Probe& p) { return double(p.weight); },
     [](Probe& p, double x) { p.weight = static_cast<float>(x); }},
};
#undef PART
#undef TEXT

} // namespace

ProbeRow::ProbeRow(Document& document, Selection& selection, QWidget* parent)
    : QWidget(parent), document_(document), selection_(&selection) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 4, 0, 0);
    column->setSpacing(4);
    list_ = new QListWidget(this);
    list_->setObjectName("probes");
    list_->setAccessibleName(tr("Probes"));
    list_->setToolTip(tr("Places whose surroundings are captured; a tick switches one."));
    list_->setFixedHeight(92);
    column->addWidget(list_);
    auto* buttons = new QGridLayout;
    buttons->setSpacing(4);
    auto* holder = new QWidget(this);
    holder->setLayout(buttons);
    buttons->setContentsMargins(0, 0, 0, 0);
    add_button(buttons, 3, tr("Place"), "place probe",
               tr("A probe two metres before the camera; its box reaches to what stands around it."),
               [this] { place(); });
    fit_ = add_button(buttons, 3, tr("Fit box"), "fit probe",
                      tr("The chosen probe's box reaches to what stands around it, as rays find it."),
                      [this] { change(tr("fit box"), [this](Probe& p) { p = fitted(document_.rays(), p); }); });
    delete_ = add_button(buttons, 3, tr("Delete"), "delete probe", tr("Deletes the chosen probe; undo brings it back."),
                         [this] {
                             const int id = chosen();
                             document_.edit(tr("delete probe"), [id](Project& p) {
                                 std::erase_if(p.probes, [id](const Probe& probe) { return probe.id == id; });
                             });
                         });
    column->addWidget(holder);
    rows_ = new BenchRows(this);
    column->addWidget(rows_);
    numbers_ = std::make_unique<ThingNumbers<Probe>>(
        rows_, probeNumbers, "mirolux::app::ProbeRow", document_,
        [this](const QString& what, const std::function<void(Probe&)>& put) { change(what, put); });
    recapture_ = new ChoiceRow({tr("by hand"), tr("changed"), tr("in turn")}, this);
    recapture_->setObjectName("recapture");
    recapture_->setToolTip(
        tr("by hand: on a button; changed: as soon as its light is another and the picture rests; in "
           "turn: then one probe at a time."));
    rows_->add(tr("Recapture"), {recapture_});
    connect(recapture_, &ChoiceRow::chosen, this,
            [this](int i) { change(tr("recapture"), [i](Probe& p) { p.recapture = all_recaptures[i]; }); });
    state_ = quiet_label({}, this);
    state_->setObjectName("probe state");
    state_->setWordWrap(true);
    column->addWidget(state_);
    auto* captures = new QGridLayout;
    captures->setSpacing(4);
    auto* captureHolder = new QWidget(this);
    captureHolder->setLayout(captures);
    captures->setContentsMargins(0, 0, 0, 0);
    capture_ = add_button(captures, 2, tr("Capture"), "capture probe",
                          tr("Renders the six views of the chosen probe with the present setup."),
                          [this] { emit capture_wanted({chosen()}); });
    captureAll_ =
        add_button(captures, 2, tr("Capture all"), "capture probes",
                   tr("Captures every probe that is switched on (Shift+Y)."), [this] { emit capture_wanted({}); });
    column->addWidget(captureHolder);
    connect(list_, &QListWidget::currentRowChanged, this, [this] { fill(); });
    connect(list_, &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
        if (filling_) return;
        const int id = item->data(Qt::UserRole).toInt();
        const bool on = item->checkState() == Qt::Checked;
        document_.edit_probe(on ? tr("switch probe on") : tr("switch probe off"), id,
                             [on](Probe& p) { p.enabled = on; });
    });
    connect(&document_, &Document::changed, this, &ProbeRow::fill);
    connect(&document_, &Document::opened, this, &ProbeRow::fill);
    connect(&document_, &Document::settled, this, &ProbeRow::fill);
    connect(selection_, &Selection::probe_changed, this, &ProbeRow::fill);
}

int ProbeRow::chosen() const {
    return chosen_thing(list_);
}

QString ProbeRow::words() const {
    return state_->text();
}

void ProbeRow::place() {
    Probe p;
    const Camera& c = document_.project().view.camera;
    p.position = c.eye + 2.0f * glm::normalize(c.aim - c.eye);
    p.id = free_id(document_.project().probes);
    p.name = "probe " + std::to_string(p.id + 1);
    p = fitted(document_.rays(), p);
    document_.edit(tr("place probe"), [&](Project& project) { project.probes.push_back(p); });
    list_->setCurrentRow(list_->count() - 1);
}

void ProbeRow::change(const QString& what, const std::function<void(Probe&)>& change) {
    const int id = chosen();
    document_.edit_probe(what, id, change, document_.interactive() ? what + QString::number(id) : QString());
}

void ProbeRow::set_cost(std::optional<double> ms) {
    cost_ = ms;
    fill();
}

void ProbeRow::set_capturing(bool on) {
    capturing_ = on;
    fill();
}

void ProbeRow::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    fill();
    emit shown();
}

/// Its handles go with it.
void ProbeRow::hideEvent(QHideEvent* e) {
    QWidget::hideEvent(e);
    if (selection_) selection_->set_probe(-1);
}

/// Whether it is captured, in what light, what is wrong with its place, and what a capture takes.
void ProbeRow::show_state(const Probe* p) {
    if (document_.interactive()) return; // told once it rests: a digest of all lights is too dear for every step
    QStringList lines;
    const Setup& setup = document_.project().setup;
    if (p) {
        const bool same = p->captured == capture_digest(document_.scene(), setup, document_.project().view, *p);
        if (p->file.empty())
            lines << tr("Not captured yet: the surroundings stand in.");
        else if (const auto light = read_probe(p->file, std::stoi(setup.choice("probe.size")))) {
            lines << (same ? tr("Captured in this light: %1 cd/m\u00b2 on the mean.")
                           : tr("Captured in other light: %1 cd/m\u00b2 on the mean."))
                         .arg(QString::fromStdString(number_text((*light)->mean, 3)));
            if ((*light)->mean <= 0) lines << tr("It is black: no light reaches this place.");
        } else
            lines << QString::fromStdString(to_text(light.error()));
        if (const std::string trouble = probe_trouble(document_.rays(), *p); !trouble.empty())
            lines << QString::fromStdString(trouble);
    }
    const QString size = QString::fromStdString(setup.choice("probe.size"));
    lines << (capturing_ ? tr("Capturing\u2026")
              : cost_    ? tr("A capture takes six views of %1x%1: about %2 ms.").arg(size).arg(std::lround(*cost_))
                         : tr("A capture takes six views of %1x%1.").arg(size));
    state_->setText(lines.join(' '));
}

void ProbeRow::fill() {
    if (filling_ || !document_.is_open()) return;
    const bool shown = uses_probes(document_.project().setup);
    setVisible(shown);
    if (!shown) return;
    filling_ = true;
    const std::vector<Probe>& probes = document_.project().probes;
    show_things(list_, probes);
    if (selection_ && sender() == selection_) // taken in the picture
        for (int i = 0; i < list_->count(); ++i)
            if (list_->item(i)->data(Qt::UserRole).toInt() == selection_->probe()) list_->setCurrentRow(i);
    const int id = chosen();
    const Probe* p = document_.probe(id);
    list_->setVisible(!probes.empty());
    for (QWidget* w : std::initializer_list<QWidget*>{fit_, delete_})
        w->setEnabled(p != nullptr);
    capture_->setEnabled(p && !capturing_);
    captureAll_->setEnabled(!probes.empty() && !capturing_);
    rows_->setVisible(p != nullptr);
    if (p) {
        numbers_->show(*p);
        recapture_->set_current(static_cast<int>(p->recapture));
    }
    show_state(p);
    filling_ = false;
    if (isVisible() && selection_) selection_->set_probe(id);
}

} // namespace mirolux::app
