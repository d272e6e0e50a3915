#include "app/cheap_lights_bench.h"
#include "app/benches.h"
#include "app/ramp_figure.h"
#include "core/base/text.h"
#include "core/finish/exposure.h"
#include "core/light/cheap_lights.h"
#include "core/light/tone.h"
#include <QComboBox>
#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>

namespace mirolux::app {

static double white_of(const Document& d) {
    return 1 / tone::exposure_scale(hand_ev100(d.project().setup));
}

/// The way a cone opens, as angles: about the vertical from -Z over +X, and up.
static glm::dvec2 angles_of(const glm::vec3& d) {
    return glm::degrees(
        glm::dvec2(std::atan2(double(d.x), -double(d.z)), std::asin(std::clamp(double(d.y), -1.0, 1.0))));
}
static glm::vec3 way_of(const glm::dvec2& degrees) {
    const glm::dvec2 a = glm::radians(degrees);
    return glm::vec3(std::sin(a.x) * std::cos(a.y), std::sin(a.y), -std::cos(a.x) * std::cos(a.y));
}

CheapLightsBench::CheapLightsBench(Document& document, Selection& selection, QWidget* parent)
    : QWidget(parent), document_(document), selection_(selection) {
    auto* column = bench_column(this, tr("Cheap lights"),
                                tr("Colour laid over what is lit, for one more draw. Nothing in the scene sends it: "
                                   "it knows no shadow, and truth has none of it."));
    column->addWidget(new SettingRows(document, {"viewLights.kind", "solidLights.kind", "cheapLights.instead"}, this));
    add_list(column);
    figure_ = new RampFigure(this);
    column->addWidget(figure_);
    connect(figure_, &RampFigure::edited, this, &CheapLightsBench::put);
    connect(figure_, &RampFigure::stop_chosen, this, [this] { fill(); });
    connect(figure_, &RampFigure::scrubbing, &document_, &Document::set_interactive);
    rows_ = new BenchRows(this);
    name_ = new QLineEdit(this);
    name_->setObjectName("cheap name");
    name_->setToolTip(tr("Its name; Enter keeps it."));
    connect(name_, &QLineEdit::editingFinished, this, [this] {
        const std::string name = name_->text().trimmed().toStdString();
        if (!filling_ && chosen() && !name.empty() && name != chosen()->name)
            change(tr("name"), [&](CheapLight& l) { l.name = name; });
    });
    rows_->add(tr("Name"), {name_}, [this] { return chosen() != nullptr; });
    add_ramp_rows();
    add_shape_rows();
    column->addWidget(rows_);
    add_lamp_rows(column);
    column->addStretch();
    auto* back = new QPushButton(tr("All lights"), this);
    back->setToolTip(tr("Back to the scene's own lights."));
    connect(back, &QPushButton::clicked, this, &CheapLightsBench::back_wanted);
    column->addWidget(back);
    connect(&document_, &Document::changed, this, &CheapLightsBench::fill);
    connect(&document_, &Document::opened, this, [this] { ledger_.reset(); });
    connect(&selection_, &Selection::changed, this, &CheapLightsBench::fill);
}

void CheapLightsBench::add_list(QVBoxLayout* column) {
    auto* buttons = new QGridLayout;
    buttons->setSpacing(4);
    const std::tuple<CheapStart, QString, QString> starts[] = {
        {CheapStart::rim, tr("Rim"), tr("A view-locked light along what turns away from the eye.")},
        {CheapStart::bounce, tr("Bounce"), tr("A view-locked light from below.")},
        {CheapStart::sky, tr("Sky"), tr("A view-locked light from above.")},
        {CheapStart::ball, tr("Ball"),
         tr("A tint on all surfaces inside a ball, where the picture's middle meets one.")},
        {CheapStart::cone, tr("Cone"), tr("A tint on all surfaces inside a cone that hangs over that place.")}};
    for (const auto& [start, text, help] : starts)
        add_button(buttons, 3, text, QString("add ") + word(start), help, [this, start = start] { add(start); });
    delete_ = add_button(buttons, 3, tr("Delete"), "delete cheap light",
                         tr("Deletes the chosen one; undo brings it back."), [this] { remove(); });
    column->addLayout(buttons);
    list_ = new QListWidget(this);
    list_->setObjectName("cheap lights");
    list_->setAccessibleName(tr("Cheap lights"));
    list_->setToolTip(tr("In the order in which they are laid on; a tick switches one."));
    list_->setFixedHeight(84);
    column->addWidget(list_);
    connect(list_, &QListWidget::currentRowChanged, this, [this](int row) {
        if (!filling_ && row >= 0) selection_.set_cheap(list_->item(row)->data(Qt::UserRole).toInt());
    });
    connect(list_, &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
        if (filling_) return;
        const int id = item->data(Qt::UserRole).toInt();
        const bool on = item->checkState() == Qt::Checked;
        document_.edit_cheap_light(on ? tr("switch on") : tr("switch off"), id,
                                   [on](CheapLight& l) { l.enabled = on; });
    });
}

NumberField* CheapLightsBench::add_number(const char* name, double low, double high, bool logarithmic, const char* unit,
                                          const QString& help, double (*get)(const CheapLight&),
                                          void (*put)(CheapLight&, double)) {
    auto* field = new NumberField(
        {low, high, logarithmic ? 0.02 : (high - low) / (high > 1000 ? 1e7 : 400), 2, logarithmic}, unit, this);
    field->setObjectName(QString("cheap ") + name);
    field->setToolTip(help);
    connect(field, &NumberField::edited, this,
            [this, put, name](double v) { change(tr(name), [&](CheapLight& l) { put(l, v); }); });
    connect(field, &NumberField::scrubbing, &document_, &Document::set_interactive);
    numbers_.push_back({field, get});
    return field;
}

void CheapLightsBench::add_ramp_rows() {
    const auto ramps = [this] { return chosen() && !chosen()->solid(); };
    blend_ = new QComboBox(this);
    blend_->setObjectName("cheap blend");
    for (const CheapBlend b : cheapBlends)
        blend_->addItem(word(b), static_cast<int>(b));
    blend_->setToolTip(tr("add: on top; multiply: colours and darkens what is lit; screen: toward its luminance, never "
                          "over it; mix: covers."));
    connect(blend_, &QComboBox::activated, this,
            [this](int i) { change(tr("blend"), [i](CheapLight& l) { l.blend = cheapBlends[i]; }); });
    rows_->add(tr("Blend"),
               {blend_, add_number(
                            "luminance", 0, 1e6, true, "cd/m\u00b2", tr("What the colour 1 is; multiply has none."),
                            [](const CheapLight& l) { return double(l.luminance); },
                            [](CheapLight& l, double v) { l.luminance = static_cast<float>(v); })},
               ramps);
    const auto of_stop = [this](const char* name, const QString& help, auto&& put) {
        auto* field = new NumberField({0, 1, 0.005, 2, false}, "", this);
        field->setObjectName(QString("stop ") + name);
        field->setToolTip(help);
        connect(field, &NumberField::edited, this, [this, put, name](double v) {
            change(tr(name),
                   [&](CheapLight& l) { put(l, static_cast<std::size_t>(figure_->stop()), static_cast<float>(v)); });
        });
        connect(field, &NumberField::scrubbing, &document_, &Document::set_interactive);
        return field;
    };
    stopAt_ = of_stop("at", tr("Where the stop lies: 0 faces away, 0.5 across, 1 faces the light."),
                      [](CheapLight& l, std::size_t i, float v) {
                          const float low = i > 0 ? l.ramp[i - 1].at : 0,
                                      high = i + 1 < l.ramp.size() ? l.ramp[i + 1].at : 1;
                          l.ramp[i].at = std::clamp(v, low, high);
                      });
    stopAmount_ = of_stop("amount", tr("How much of it is laid on: 0 none."),
                          [](CheapLight& l, std::size_t i, float v) { l.ramp[i].amount = v; });
    deleteStop_ = new QPushButton(tr("Delete stop"), this);
    deleteStop_->setObjectName("delete stop");
    deleteStop_->setToolTip(tr("Takes the chosen stop out of the ramp; one stays."));
    connect(deleteStop_, &QPushButton::clicked, this, [this] {
        change(tr("delete stop"), [this](CheapLight& l) {
            if (l.ramp.size() > 1) l.ramp.erase(l.ramp.begin() + figure_->stop());
        });
    });
    rows_->add(tr("Stop, amount"), {stopAt_, stopAmount_, deleteStop_}, ramps);
    stopColor_ = new ColorSwatch(4.0, {}, this);
    connect(stopColor_, &ColorSwatch::edited, this, [this](const glm::vec3& c) {
        change(tr("stop's colour"),
               [&](CheapLight& l) { l.ramp[static_cast<std::size_t>(figure_->stop())].color = c; });
    });
    connect(stopColor_, &ColorSwatch::scrubbing, &document_, &Document::set_interactive);
    rows_->add(tr("Its colour"), {stopColor_}, ramps);
    objects_ = new QLineEdit(this);
    objects_->setObjectName("cheap objects");
    objects_->setPlaceholderText(tr("all objects; or by name, with * and ?"));
    objects_->setToolTip(
        tr("Objects that take it: a part of their names, or a pattern; empty: all. Enter takes them."));
    connect(objects_, &QLineEdit::editingFinished, this, [this] {
        if (filling_ || !chosen() || !objects_->isModified()) return;
        std::vector<std::string> ids;
        const std::string pattern = objects_->text().trimmed().toStdString();
        if (!pattern.empty())
            for (const int o : objects_like(*document_.scene().asset, pattern))
                ids.push_back(document_.object_name(o).id);
        objects_->setModified(false);
        if (!pattern.empty() && ids.empty())
            return facts_->setText(tr("No object's name matches %1.").arg(objects_->text()));
        change(tr("objects"), [&](CheapLight& l) { l.objects = ids; });
    });
    rows_->add(tr("Objects"), {objects_}, ramps);
}

template <int axis>
static NumberField* place_number(
    const std::function<NumberField*(const char*, double (*)(const CheapLight&), void (*)(CheapLight&, double))>& add,
    const char* name) {
    return add(
        name, [](const CheapLight& l) { return double(l.position[axis]); },
        [](CheapLight& l, double v) { l.position[axis] = static_cast<float>(v); });
}

void CheapLightsBench::add_shape_rows() {
    const auto solids = [this] { return chosen() && chosen()->solid(); };
    const auto cones = [this] { return chosen() && chosen()->shape == CheapShape::cone; };
    tint_ = new ColorSwatch(16.0, {}, this);
    connect(tint_, &ColorSwatch::edited, this,
            [this](const glm::vec3& c) { change(tr("tint"), [&](CheapLight& l) { l.tint = c; }); });
    connect(tint_, &ColorSwatch::scrubbing, &document_, &Document::set_interactive);
    rows_->add(tr("Multiplies by"), {tint_}, solids);
    const auto place = [this](const char* name, double (*get)(const CheapLight&), void (*put)(CheapLight&, double)) {
        return add_number(name, -1e5, 1e5, false, "", tr("Metres; or drag its handles in the picture."), get, put);
    };
    rows_->add(tr("Place, m"), {place_number<0>(place, "x"), place_number<1>(place, "y"), place_number<2>(place, "z")},
               solids);
    rows_->add(tr("Reach"),
               {add_number(
                   "reach", 0.05, 1000, true, "m", tr("The ball's radius, or the cone's length."),
                   [](const CheapLight& l) { return double(l.reach); },
                   [](CheapLight& l, double v) { l.reach = static_cast<float>(v); })},
               solids);
    rows_->add(tr("Opens, toward"),
               {add_number(
                    "angle", 1, 85, false, "\u00b0", tr("Half the cone's angle."),
                    [](const CheapLight& l) { return glm::degrees(double(l.angle)); },
                    [](CheapLight& l, double v) { l.angle = static_cast<float>(glm::radians(v)); }),
                add_number(
                    "azimuth", -180, 180, false, "\u00b0", tr("Where it opens to, about the vertical: 0 is -Z."),
                    [](const CheapLight& l) { return angles_of(l.direction).x; },
                    [](CheapLight& l, double v) {
                        l.direction = way_of({v, angles_of(l.direction).y});
                    }),
                add_number(
                    "elevation", -90, 90, false, "\u00b0", tr("Where it opens to: -90 is straight down."),
                    [](const CheapLight& l) { return angles_of(l.direction).y; },
                    [](CheapLight& l, double v) {
                        l.direction = way_of({angles_of(l.direction).x, v});
                    })},
               cones);
}

void CheapLightsBench::add_lamp_rows(QVBoxLayout* column) {
    lamps_ = quiet_label({}, this);
    lamps_->setObjectName("stands for");
    column->addWidget(lamps_);
    facts_ = quiet_label({}, this);
    facts_->setObjectName("cheap facts");
    column->addWidget(facts_);
    auto* buttons = new QGridLayout;
    buttons->setSpacing(4);
    take_ = add_button(buttons, 2, tr("For selected lamps"), "stands for selected",
                       tr("It stands for the lights that are selected now; with none selected, for none."), [this] {
                           const std::vector<int> ids = selection_.lights();
                           change(tr("stands for"), [&](CheapLight& l) { l.standsFor = ids; });
                       });
    against_ = add_button(buttons, 2, tr("Against lamps"), "against lamps",
                          tr("A: cheap lights in place of the lamps that they stand for; B: the lamps alone. Pictures, "
                             "times and differences stand beside each other; Shift+K measures them in pairs."),
                          [this] { hold_against_lamps(); });
    column->addLayout(buttons);
}

void CheapLightsBench::hold_against_lamps() {
    Setup a = document_.project().setup, b = a;
    for (const CheapLight& l : document_.project().cheapLights)
        if (l.enabled)
            (void)a.set_text(l.solid() ? "solidLights.kind" : "viewLights.kind", l.solid() ? "stencil" : "ramp");
    (void)a.set_text("cheapLights.instead", "on");
    for (const char* key : {"viewLights.kind", "solidLights.kind"})
        (void)b.set_text(key, "none");
    (void)b.set_text("cheapLights.instead", "off");
    emit against_wanted(a, b);
}

const CheapLight* CheapLightsBench::chosen() const {
    return document_.is_open() ? document_.cheap_light(selection_.cheap()) : nullptr;
}

void CheapLightsBench::add(CheapStart start) {
    const Camera& c = document_.project().view.camera;
    const glm::vec3 ahead = glm::normalize(c.aim - c.eye);
    const RayHit hit = document_.rays().nearest({c.eye, ahead});
    CheapLight l = starter(start, white_of(document_), c.eye + ahead * (hit.object >= 0 ? hit.distance : 8.0f));
    int same = 0;
    for (const CheapLight& other : document_.project().cheapLights) {
        l.id = std::max(l.id, other.id);
        same += other.name.starts_with(l.name);
    }
    ++l.id;
    if (same > 0) l.name += " " + std::to_string(same + 1);
    document_.edit(tr("add %1").arg(QString::fromStdString(l.name)), [&](Project& p) {
        p.cheapLights.push_back(l);
        (void)p.setup.set_text(l.solid() ? "solidLights.kind" : "viewLights.kind", l.solid() ? "stencil" : "ramp");
    });
    selection_.set_cheap(l.id);
}

void CheapLightsBench::remove() {
    const int id = selection_.cheap();
    document_.edit(tr("delete cheap light"), [id](Project& p) {
        std::erase_if(p.cheapLights, [id](const CheapLight& l) { return l.id == id; });
    });
}

void CheapLightsBench::change(const QString& what, const std::function<void(CheapLight&)>& change) {
    if (!chosen()) return;
    document_.edit_cheap_light(what, selection_.cheap(), change, document_.interactive() ? "cheap " + what : QString());
}

void CheapLightsBench::put(const QString& what, const CheapLight& light) {
    change(what, [&](CheapLight& l) { l = light; });
}

void CheapLightsBench::show_costs(const Ledger& ledger) {
    ledger_ = ledger;
    stale_ = false;
    if (isVisible()) fill_facts(chosen());
}

void CheapLightsBench::set_stale() {
    stale_ = true;
}

void CheapLightsBench::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    fill();
}

void CheapLightsBench::fill_facts(const CheapLight* l) {
    lamps_->setVisible(l != nullptr);
    facts_->setVisible(l != nullptr);
    if (!l) return;
    std::vector<std::string> names;
    for (const int id : l->standsFor)
        if (const Light* lamp = document_.light(id)) names.push_back(lamp->name);
    lamps_->setText(names.empty() ? tr("Stands for no lamp: select lamps, then say so below.")
                                  : tr("Stands for %1.").arg(QString::fromStdString(joined(names))));
    const CheapRow* row = nullptr;
    if (ledger_)
        for (const CheapRow& r : ledger_->cheap)
            if (r.light == l->id) row = &r;
    if (!row || !row->inView) {
        const bool off = cheap_lights_of(document_.scene(), document_.project().setup, l->solid()).empty();
        facts_->setText(off ? tr("Not drawn: it or its kind is off.") : tr("Counting what it costs and gives\u2026"));
        return;
    }
    QString text = tr("%1 ms on %L2 pixels; %3 % of the picture's light.")
                       .arg(row->ms, 0, 'f', 2)
                       .arg(static_cast<qulonglong>(row->fragments))
                       .arg(row->contributionShare * 100, 0, 'f', 2);
    if (!names.empty())
        text += row->standsForMs > 0 ? tr(" Its lamps: %1 ms, %2 %.")
                                           .arg(row->standsForMs, 0, 'f', 2)
                                           .arg(row->standsForShare * 100, 0, 'f', 2)
                                     : tr(" Its lamps are not in this picture.");
    facts_->setText(text);
}

void CheapLightsBench::fill() {
    if (filling_ || !document_.is_open() || !isVisible()) return;
    filling_ = true;
    const std::vector<CheapLight>& all = document_.project().cheapLights;
    while (list_->count() > static_cast<int>(all.size()))
        delete list_->takeItem(list_->count() - 1);
    while (list_->count() < static_cast<int>(all.size()))
        list_->addItem(new QListWidgetItem);
    for (int i = 0; i < list_->count(); ++i) {
        const CheapLight& l = all[static_cast<std::size_t>(i)];
        QListWidgetItem* item = list_->item(i);
        item->setText(tr("%1, %2").arg(QString::fromStdString(l.name), word(l.shape)));
        item->setData(Qt::UserRole, l.id);
        item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
        item->setCheckState(l.enabled ? Qt::Checked : Qt::Unchecked);
    }
    if (!chosen() && !all.empty()) selection_.set_cheap(all.front().id);
    const CheapLight* l = chosen();
    for (int i = 0; i < list_->count(); ++i)
        if (l && list_->item(i)->data(Qt::UserRole).toInt() == l->id) list_->setCurrentRow(i);
    list_->setVisible(!all.empty());
    delete_->setEnabled(l);
    take_->setVisible(l);
    against_->setVisible(l);
    figure_->setVisible(l && !l->solid());
    rows_->show_what_applies();
    if (l) {
        name_->setText(QString::fromStdString(l->name));
        for (const Number& n : numbers_)
            n.field->set_value(n.get(*l));
        tint_->set_color(l->tint);
        if (!l->solid()) {
            figure_->show_light(*l, white_of(document_));
            const RampStop& s = l->ramp[static_cast<std::size_t>(figure_->stop())];
            blend_->setCurrentIndex(static_cast<int>(l->blend));
            stopAt_->set_value(s.at);
            stopAmount_->set_value(s.amount);
            stopColor_->set_color(s.color);
            deleteStop_->setEnabled(l->ramp.size() > 1);
            objects_->setText(
                l->objects.empty() ? QString()
                : l->objects.size() == 1
                    ? QString::fromStdString(l->objects.front())
                    : tr("%1 and %2 more").arg(QString::fromStdString(l->objects.front())).arg(l->objects.size() - 1));
        }
    }
    fill_facts(l);
    filling_ = false;
}

} // namespace mirolux::app
