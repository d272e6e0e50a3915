#include "app/benches.h"
#include "app/light_numbers.h"
#include "app/theme.h"
#include "core/bake/baked_light.h"
#include "core/base/text.h"
#include "core/light/falloff.h"
#include "core/light/luminance.h"
#include "core/sky/sky_model.h"
#include <QCheckBox>
#include <QComboBox>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

namespace mirolux::app {

NumberField* LightBench::field(const QString& name, const NumberField::Range& range, const QString& unit,
                               const QString& help, const std::function<void(Light&, double)>& put) {
    auto* f = new NumberField(range, unit, this);
    f->setObjectName(name);
    f->setToolTip(help);
    connect(f, &NumberField::scrubbing, this, [this](bool on) { document_.set_interactive(on); });
    connect(f, &NumberField::edited, this, [this, put, name](double v) {
        document_.edit_light(
            name, id_, [&](Light& l) { put(l, v); }, document_.interactive() ? "light " + name : QString());
    });
    return f;
}

LightBench::LightBench(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    auto* column = bench_column(this, {});
    name_ = new QLineEdit(this);
    name_->setObjectName("light name");
    name_->setToolTip(tr("The light's name; Enter keeps it."));
    enabled_ = new QCheckBox(tr("On"), this);
    enabled_->setToolTip(tr("A light that is off costs nothing."));
    here_ = new QCheckBox(this);
    here_->setObjectName("on here");
    here_->setToolTip(tr("Whether it shines on the chosen target: a weaker device does without some (Shift+O)."));
    connect(here_, &QCheckBox::clicked, this, &LightBench::off_here_wanted);
    auto* head = new QHBoxLayout;
    head->addWidget(name_, 1);
    head->addWidget(enabled_);
    head->addWidget(here_);
    column->addLayout(head);
    motion_ = quiet_label({}, this);
    motion_->setObjectName("what moves it");
    column->addWidget(motion_);
    figure_ = new LightFigure(document_, this);
    column->addWidget(figure_);
    rows_ = new BenchRows(this);
    add_choices();
    add_numbers();
    column->addWidget(rows_);
    reach_ = quiet_label({}, this);
    column->addWidget(reach_);
    column->addStretch();
    auto* buttons = new QHBoxLayout;
    buttons->setSpacing(4);
    const auto button = [&](const QString& text, const QString& help, void (LightBench::*wanted)()) {
        auto* b = new QPushButton(text, this);
        b->setToolTip(help);
        connect(b, &QPushButton::clicked, this, wanted);
        buttons->addWidget(b);
    };
    button(tr("Duplicate"), tr("A copy, half a metre beside it (Ctrl+D)."), &LightBench::duplicate_wanted);
    button(tr("Delete"), tr("Deletes the light; undo brings it back (Del)."), &LightBench::delete_wanted);
    button(tr("All lights"), tr("Clears the selection of this light."), &LightBench::back_wanted);
    column->addLayout(buttons);
    connect_choices();
    connect(&document_, &Document::changed, this, [this] { fill(); });
    connect(&document_, &Document::camera_moved, this, [this] { // or another time is looked at
        if (!isVisible() || !document_.is_open() || !document_.asset()->rig) return;
        if (const Light* l = document_.light(id_)) fill_facts(*l);
    });
}

void LightBench::add_shadow_row(QWidget* row) {
    shadowRow_ = row;
    auto* column = static_cast<QVBoxLayout*>(layout());
    column->insertWidget(column->indexOf(reach_), row);
    row->hide();
}

/// Type, intensity in its unit, and where the colour comes from.
void LightBench::add_choices() {
    type_ = new QComboBox(this);
    type_->setToolTip(tr("point: all round; spot: a cone; directional: parallel, from far away, lights everything."));
    for (const LightType t : {LightType::point, LightType::spot, LightType::directional})
        type_->addItem(word(t), static_cast<int>(t));
    rows_->add(tr("Type"), {type_});
    intensity_ = field(tr("intensity"), {0, 1e6, 0.015, 2, true}, "",
                       tr("How strong it shines, in the unit beside it. More light, same cost, unless it has no range: "
                          "then it reaches farther."),
                       [](Light& l, double v) { l.intensity = intensity_from(l, l.unit, static_cast<float>(v)); });
    unit_ = new QComboBox(this);
    unit_->setToolTip(tr("Candela, or the lumen of the whole lamp; directional lights are in lux."));
    rows_->add(tr("Intensity"), {intensity_, unit_});
    colorBy_ = new QComboBox(this);
    colorBy_->addItems({tr("by temperature"), tr("by red, green, blue")});
    colorBy_->setToolTip(tr("Colour from a black body's temperature, or free."));
    rows_->add(tr("Colour"), {colorBy_});
    color_ = new ColorSwatch(1.0, {}, this);
    rows_->add(tr("Linear RGB"), {color_}, [this] { return of().kelvin <= 0; });
    shadow_ = new QComboBox(this);
    shadow_->setObjectName("light shadow");
    shadow_->setToolTip(tr("as all: as the setup filters them; none: it shines through everything, and costs no map; "
                           "hard: one lookup, a sharp edge; soft: at least as soft as its source is large."));
    for (const ShadowMode mode : {ShadowMode::asAll, ShadowMode::none, ShadowMode::hard, ShadowMode::soft})
        shadow_->addItem(mode == ShadowMode::asAll ? tr("as all") : QString(word(mode)), static_cast<int>(mode));
    rows_->add(tr("Shadow"), {shadow_},
               [this] { return document_.is_open() && document_.project().setup.flag("shadow.maps"); });
    mobility_ = new QComboBox(this);
    mobility_->setObjectName("light mobility");
    mobility_->setToolTip(tr(
        "still: all of its light is baked; switched: in a layer of its own, so that it may be dimmed, coloured and "
        "switched; mixed: its bounced light is, the rest is live; moving: nothing is. What a motion moves is moving."));
    for (const Mobility m : all_mobilities)
        mobility_->addItem(word(m), static_cast<int>(m));
    rows_->add(tr("Baked as"), {mobility_},
               [this] { return document_.is_open() && uses_light_map(document_.project().setup); });
}

void LightBench::add_numbers() {
    std::vector<QWidget*> row;
    const std::span<const LightNumber> all = light_numbers();
    for (const LightNumber& n : all) {
        auto* f = field(tr(n.name), n.range, n.unit, tr(n.help), n.put);
        if (n.zero)
            f->set_word_for(double(static_cast<float>(std::min(0.0, n.range.low))), tr(n.zero)); // as lights hold it
        numbers_.push_back(f);
        row.push_back(f);
        if (&n != &all.back() && std::string_view((&n + 1)->label) == n.label) continue;
        rows_->add(tr(n.label), std::exchange(row, {}), [this, &n] {
            return (!n.when || n.when(of())) &&
                   (!n.under || (document_.is_open() && n.under(document_.project().setup)));
        });
    }
}

void LightBench::connect_choices() {
    connect(name_, &QLineEdit::editingFinished, this, [this] {
        const std::string text = name_->text().trimmed().toStdString();
        if (!text.empty()) document_.edit_light(tr("rename"), id_, [&](Light& l) { l.name = text; });
    });
    connect(enabled_, &QCheckBox::toggled, this, [this](bool on) {
        document_.edit_light(on ? tr("switch on") : tr("switch off"), id_, [on](Light& l) { l.enabled = on; });
    });
    connect(type_, &QComboBox::activated, this, [this] {
        const auto type = static_cast<LightType>(type_->currentData().toInt());
        document_.edit_light(tr("type"), id_, [type](Light& l) {
            l.type = type;
            l.unit = type == LightType::directional ? IntensityUnit::lux
                     : l.unit == IntensityUnit::lux ? IntensityUnit::candela
                                                    : l.unit;
        });
    });
    connect(shadow_, &QComboBox::activated, this, [this] {
        const auto mode = static_cast<ShadowMode>(shadow_->currentData().toInt());
        document_.edit_light(tr("shadow"), id_, [mode](Light& l) { l.shadow.mode = mode; });
    });
    connect(mobility_, &QComboBox::activated, this, [this] {
        const auto mobility = static_cast<Mobility>(mobility_->currentData().toInt());
        document_.edit_light(tr("how it is baked"), id_, [mobility](Light& l) { l.mobility = mobility; });
    });
    connect(unit_, &QComboBox::activated, this, [this] {
        const auto unit = static_cast<IntensityUnit>(unit_->currentData().toInt());
        document_.edit_light(tr("unit"), id_, [unit](Light& l) { l.unit = unit; });
    });
    connect(colorBy_, &QComboBox::activated, this, [this](int by) {
        document_.edit_light(tr("colour"), id_, [by](Light& l) {
            if (by == 0 && l.kelvin <= 0) l.kelvin = 4000;
            if (by == 1 && l.kelvin > 0) {
                l.color = effective_color(l);
                l.kelvin = 0;
            }
        });
    });
    connect(color_, &ColorSwatch::scrubbing, this, [this](bool on) { document_.set_interactive(on); });
    connect(color_, &ColorSwatch::edited, this, [this](const glm::vec3& c) {
        document_.edit_light(
            tr("colour"), id_, [&](Light& l) { l.color = c; }, document_.interactive() ? "light colour" : QString());
    });
}

const Light& LightBench::of() const {
    static const Light none;
    const Light* l = document_.light(id_);
    return l ? *l : none;
}

void LightBench::set_light(int id) {
    id_ = id;
    figure_->set_light(id);
    fill();
}

void LightBench::fill() {
    const Light* l = document_.light(id_);
    if (!l) return;
    const QSignalBlocker quiet(enabled_);
    if (!name_->hasFocus() || name_->property("light").toInt() != id_) name_->setText(QString::fromStdString(l->name));
    name_->setProperty("light", id_);
    enabled_->setChecked(l->enabled);
    const std::vector<int>& off = document_.target().offLights;
    here_->setText(tr("on %1").arg(QString::fromStdString(document_.target().name)));
    here_->setChecked(!std::binary_search(off.begin(), off.end(), id_));
    type_->setCurrentText(word(l->type));
    const bool directional = l->type == LightType::directional;
    std::vector<IntensityUnit> units = {IntensityUnit::candela, IntensityUnit::lumen};
    if (directional) units = {IntensityUnit::lux};
    if (unit_->count() != static_cast<int>(units.size())) {
        unit_->clear();
        for (const IntensityUnit u : units)
            unit_->addItem(word(u), static_cast<int>(u));
    }
    unit_->setCurrentText(word(l->unit));
    intensity_->set_value(intensity_in(*l, l->unit));
    colorBy_->setCurrentIndex(l->kelvin > 0 ? 0 : 1);
    shadow_->setCurrentIndex(static_cast<int>(l->shadow.mode));
    mobility_->setCurrentIndex(static_cast<int>(l->mobility));
    color_->set_color(l->color);
    const auto& own = document_.asset()->lights; // what the scene's file says is where a number began
    const auto begun = std::find_if(own.begin(), own.end(), [&](const Light& o) { return o.id == id_; });
    for (std::size_t i = 0; i < numbers_.size(); ++i) {
        numbers_[i]->set_value(light_numbers()[i].get(*l));
        numbers_[i]->set_default(begun == own.end() ? std::nullopt : std::optional(light_numbers()[i].get(*begun)));
    }
    rows_->show_what_applies();
    figure_->setVisible(!directional);
    reach_->setVisible(!directional);
    if (shadowRow_)
        shadowRow_->setVisible(l->type == LightType::point && l->enabled &&
                               document_.project().setup.flag("shadow.maps"));
    fill_facts(*l);
}

/// How many objects the light touches, and how it moves.
void LightBench::fill_facts(const Light& l) {
    const float reach = derived_range(l, static_cast<float>(document_.project().setup.number("light.threshold")));
    int touched = 0;
    const Scene scene = document_.scene();
    for (const Object& o : scene.objects())
        touched += !o.hidden && reaches(l, reach, o.bounds);
    reach_->setText(l.range > 0 ? tr("Touches %1 objects.").arg(touched)
                                : tr("Unbounded: stays over the threshold up to %1 m and touches %2 objects.")
                                      .arg(QString::fromStdString(number_text(reach, 3)))
                                      .arg(touched));
    QString motion;
    for (const Motion& m : document_.project().motions)
        if (m.light == id_)
            motion = tr("Moves: %1, every %2 s").arg(word(m.kind), QString::fromStdString(number_text(m.period, 3)));
    if (motion.isEmpty())
        for (const Light& now : document_.lights_now()) {
            if (now.id != id_ || now == l) continue;
            const auto number = [](double v) { return QString::fromStdString(number_text(v, 3)); };
            motion =
                tr("A clip carries it: now at %1, %2, %3 m with %4 cd; the numbers below are those at rest.")
                    .arg(number(now.position.x), number(now.position.y), number(now.position.z), number(now.intensity));
        }
    const Project& p = document_.project();
    const int driven = sky_light(p.lights, p.setup);
    if (driven >= 0 && p.lights[static_cast<std::size_t>(driven)].id == id_) {
        const SkySettings sky = sky_settings(scene, p.setup, p.view);
        const glm::dvec3 lux = light_at_eye(sky, key_body(sky));
        motion = tr("The sky drives it: it shines as the %1, %2 lx, whatever is set here. At the station Air: "
                    "Sun's light.")
                     .arg(&key_body(sky) == &sky.sun ? tr("sun") : tr("moon"),
                          QString::fromStdString(number_text(luminance(lux), 3)));
    }
    motion_->setText(motion);
    motion_->setVisible(!motion.isEmpty());
}

} // namespace mirolux::app
