#include "app/flat_light_bench.h"
#include "app/benches.h"
#include "core/base/text.h"
#include <QCheckBox>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

namespace mirolux::app {

namespace {

/// What a light is, as one chooses it.
enum Kind { point, spot, directional, line, picture, text };

Kind kind_of(const Light& l) {
    if (l.type == LightType::spot) return spot;
    if (l.type == LightType::directional) return directional;
    return static_cast<Kind>(l.flat.shape == FlatShape::round ? 0 : 2 + static_cast<int>(l.flat.shape));
}

void take_kind(Light& l, Kind kind) {
    l.type = kind == spot ? LightType::spot : kind == directional ? LightType::directional : LightType::point;
    l.unit = kind == directional ? IntensityUnit::lux : IntensityUnit::candela;
    l.flat.shape = kind >= line ? static_cast<FlatShape>(static_cast<int>(kind) - 2) : FlatShape::round;
    if (kind == text && l.flat.text.empty()) l.flat.text = "LIGHT";
    if (kind != directional && kind != picture && l.range <= 0) l.range = 60;
    if (kind == directional && std::abs(l.direction.z) < 1e-3f)
        l.direction = glm::normalize(glm::vec3(l.direction.x, l.direction.y, -0.7f));
}

} // namespace

NumberField* FlatLightBench::number(const QString& name, const NumberField::Range& range, const QString& unit,
                                    const QString& help, double (*get)(const Light&), void (*put)(Light&, double)) {
    auto* f = new NumberField(range, unit, this);
    f->setObjectName("flat " + name);
    f->setToolTip(help);
    connect(f, &NumberField::scrubbing, this, [this](bool on) { document_.set_interactive(on); });
    connect(f, &NumberField::edited, this, [this, name, put](double v) {
        document_.edit_light(
            name, id_, [&](Light& l) { put(l, v); }, document_.interactive() ? "flat light " + name : QString());
    });
    numbers_.push_back({f, get});
    return f;
}

FlatLightBench::FlatLightBench(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    auto* column = bench_column(this, {});
    name_ = new QLineEdit(this);
    name_->setObjectName("flat light name");
    name_->setToolTip(tr("The light's name; Enter keeps it."));
    enabled_ = new QCheckBox(tr("On"), this);
    enabled_->setToolTip(tr("A light that is off costs nothing."));
    auto* head = new QHBoxLayout;
    head->addWidget(name_, 1);
    head->addWidget(enabled_);
    column->addLayout(head);
    motion_ = quiet_label({}, this);
    column->addWidget(motion_);
    column->addWidget(figure_ = new LightPicture(document_, this));
    rows_ = new BenchRows(this);
    kind_ = new ChoiceRow({tr("point"), tr("spot"), tr("directional"), tr("line"), tr("picture"), tr("text")}, this);
    kind_->setObjectName("flat light kind");
    kind_->setToolTip(tr("point: all round; spot: a wedge; directional: from far away, everywhere; line: a tube; "
                         "picture: a sheet's first cell is its shape; text: what is written shines."));
    rows_->add(tr("Kind"), {kind_});
    add_numbers();
    add_reach();
    column->addWidget(rows_);
    column->addStretch();
    auto* buttons = new QHBoxLayout;
    buttons->setSpacing(4);
    const auto button = [&](const QString& words, const QString& help, void (FlatLightBench::*wanted)()) {
        auto* b = new QPushButton(words, this);
        b->setToolTip(help);
        connect(b, &QPushButton::clicked, this, wanted);
        buttons->addWidget(b);
    };
    button(tr("Duplicate"), tr("A copy beside it (Ctrl+D)."), &FlatLightBench::duplicate_wanted);
    button(tr("Delete"), tr("Deletes the light; undo brings it back (Del)."), &FlatLightBench::delete_wanted);
    button(tr("All lights"), tr("Clears the selection of this light."), &FlatLightBench::back_wanted);
    column->addLayout(buttons);
    connect(name_, &QLineEdit::editingFinished, this, [this] {
        const std::string words = name_->text().trimmed().toStdString();
        if (!words.empty()) document_.edit_light(tr("rename"), id_, [&](Light& l) { l.name = words; });
    });
    connect(enabled_, &QCheckBox::toggled, this, [this](bool on) {
        document_.edit_light(on ? tr("switch on") : tr("switch off"), id_, [on](Light& l) { l.enabled = on; });
    });
    connect(kind_, &ChoiceRow::chosen, this, [this](int k) {
        document_.edit_light(tr("kind"), id_, [this, k](Light& l) {
            take_kind(l, static_cast<Kind>(k));
            if (k == picture && l.flat.picture.empty() && picture_->count() > 0)
                l.flat.picture = picture_->itemText(0).toStdString();
        });
    });
    connect(&document_, &Document::changed, this, [this] { fill(); });
}

void FlatLightBench::add_numbers() {
    rows_->add(tr("Intensity"), {number(
                                    tr("intensity"), {0, 100, 0.015, 2, true}, "",
                                    tr("How strong it shines: 1 shows sheets as they are."),
                                    [](const Light& l) { return double(l.intensity); },
                                    [](Light& l, double v) { l.intensity = static_cast<float>(v); })});
    color_ = new ColorSwatch(1.0, {}, this);
    rows_->add(tr("Colour"), {color_});
    connect(color_, &ColorSwatch::scrubbing, this, [this](bool on) { document_.set_interactive(on); });
    connect(color_, &ColorSwatch::edited, this, [this](const glm::vec3& c) {
        document_.edit_light(
            tr("colour"), id_,
            [&](Light& l) {
                l.color = c;
                l.kelvin = 0;
            },
            document_.interactive() ? "flat light colour" : QString());
    });
    const auto ranged = [this] { return kind_of(of()) != directional && kind_of(of()) != picture; };
    rows_->add(
        tr("Range, falloff"),
        {number(
             tr("range"), {0, 2000, 0.02, 0, true}, "", tr("Units to where it ends: cost grows with its square."),
             [](const Light& l) { return double(l.range); },
             [](Light& l, double v) { l.range = static_cast<float>(v); }),
         number(
             tr("falloff"), {0.05, 16, 0.02, 2, true}, "",
             tr("Exponent of 1 - (d / range)\u00b2: 2 is soft at its end, less fills its disc, more draws together."),
             [](const Light& l) { return double(l.flat.falloff); },
             [](Light& l, double v) { l.flat.falloff = static_cast<float>(v); })},
        ranged);
    rows_->add(tr("Height"),
               {number(
                   tr("height"), {1, 1000, 0.02, 0, true}, "",
                   tr("Units over the stage: with normal maps a low light grazes, a high one lights from the front."),
                   [](const Light& l) { return double(l.position.z); },
                   [](Light& l, double v) { l.position.z = static_cast<float>(v); })},
               [this] { return of().type != LightType::directional; });
    const auto travels = [this] {
        if (!document_.is_flat()) return false;
        const Setup& s = document_.project().setup;
        return s.choice("flat.kind") == "cascades" || (s.choice("flat.shadow") == "field" && s.flag("field.penumbra"));
    };
    rows_->add(tr("Across"),
               {number(
                   tr("across"), {0, 200, 0.02, 1, true}, "",
                   tr("How large what shines is, units: half shadows are as wide as it makes them; 0: 3 units. Sum and "
                      "range stay."),
                   [](const Light& l) { return double(l.sourceSize); },
                   [](Light& l, double v) { l.sourceSize = v < 0.05 ? 0.0f : static_cast<float>(v); })},
               [this, travels] { return travels() && of().type != LightType::directional; });
    rows_->add(tr("Across"),
               {number(
                   tr("angle across"), {0, 60, 0.1, 1, false}, "\u00b0",
                   tr("The angle that it fills as seen from the stage: half shadows widen with it; 0: 3.4 degrees."),
                   [](const Light& l) { return double(glm::degrees(l.sourceSize)); },
                   [](Light& l, double v) { l.sourceSize = v < 0.05 ? 0.0f : glm::radians(static_cast<float>(v)); })},
               [this, travels] { return travels() && of().type == LightType::directional; });
    rows_->add(tr("Cone, inner"),
               {number(
                    tr("outer cone"), {1, 90, 0.15, 1, false}, "\u00b0", tr("Angle from its way where the wedge ends."),
                    [](const Light& l) { return double(glm::degrees(l.outerConeAngle)); },
                    [](Light& l, double v) {
                        l.outerConeAngle = std::min(glm::radians(static_cast<float>(v)), 1.5707f);
                        l.innerConeAngle = std::min(l.innerConeAngle, l.outerConeAngle);
                    }),
                number(
                    tr("inner cone"), {0, 90, 0.15, 1, false}, "\u00b0", tr("Angle up to which it shines in full."),
                    [](const Light& l) { return double(glm::degrees(l.innerConeAngle)); },
                    [](Light& l, double v) {
                        l.innerConeAngle = std::min(glm::radians(static_cast<float>(v)), l.outerConeAngle);
                    })},
               [this] { return of().type == LightType::spot; });
    rows_->add(tr("Length"),
               {number(
                   tr("length"), {0, 2000, 0.02, 0, true}, "", tr("Units from end to end."),
                   [](const Light& l) { return double(l.flat.length); },
                   [](Light& l, double v) { l.flat.length = static_cast<float>(v); })},
               [this] { return kind_of(of()) == line; });
    text_ = new QLineEdit(this);
    text_->setObjectName("flat light text");
    text_->setMaxLength(64);
    text_->setToolTip(
        tr("What shines: capitals, digits and a few signs of the program's own letters; Enter keeps it."));
    connect(text_, &QLineEdit::editingFinished, this, [this] {
        const std::string words = text_->text().toStdString();
        if (words != of().flat.text) document_.edit_light(tr("text"), id_, [&](Light& l) { l.flat.text = words; });
    });
    rows_->add(tr("Text"), {text_}, [this] { return kind_of(of()) == text; });
    picture_ = new QComboBox(this);
    picture_->setObjectName("flat light picture");
    picture_->setToolTip(tr("The sheet whose first cell is its shape: bright passes, dark and clear do not."));
    connect(picture_, &QComboBox::activated, this, [this] {
        const std::string sheet = picture_->currentText().toStdString();
        document_.edit_light(tr("picture"), id_, [&](Light& l) { l.flat.picture = sheet; });
    });
    rows_->add(tr("Picture"), {picture_}, [this] { return kind_of(of()) == picture; });
    rows_->add(tr("Size, turn"),
               {number(
                    tr("size"), {0.5, 1000, 0.02, 1, true}, "",
                    tr("Units from the bottom of the picture or letters to their top."),
                    [](const Light& l) { return double(l.flat.size); },
                    [](Light& l, double v) { l.flat.size = static_cast<float>(v); }),
                number(
                    tr("turn"), {-180, 180, 0.3, 0, false}, "\u00b0", tr("Counter-clockwise."),
                    [](const Light& l) { return double(glm::degrees(l.flat.turn)); },
                    [](Light& l, double v) { l.flat.turn = glm::radians(static_cast<float>(v)); })},
               [this] { return kind_of(of()) >= line; });
    auto* most = number(
        tr("strongest"), {0, 4, 0.01, 2, false}, "",
        tr("With the other lights it lifts a place no higher than this: many lamps need not wash out. "
           "Each value of its own costs one pass over the mask."),
        [](const Light& l) { return double(l.flat.strongest); },
        [](Light& l, double v) { l.flat.strongest = v < 0.01 ? 0.0f : static_cast<float>(v); });
    most->set_word_for(0, tr("no limit"));
    rows_->add(tr("Sum up to"), {most});
    constexpr NumberField::Range place{-1e5, 1e5, 0.5, 1, false};
    rows_->add(tr("Place"),
               {number(
                    tr("x"), place, "", tr("Units to the right."), [](const Light& l) { return double(l.position.x); },
                    [](Light& l, double v) { l.position.x = static_cast<float>(v); }),
                number(
                    tr("y"), place, "", tr("Units up."), [](const Light& l) { return double(l.position.y); },
                    [](Light& l, double v) { l.position.y = static_cast<float>(v); })},
               [this] { return of().type != LightType::directional; });
}

void FlatLightBench::add_reach() {
    casts_ = new QCheckBox(tr("casts shadows"), this);
    casts_->setToolTip(tr("Walls stop it; off: it shines through, and costs its whole box."));
    connect(casts_, &QCheckBox::toggled, this,
            [this](bool on) { document_.edit_light(tr("shadows"), id_, [on](Light& l) { l.flat.casts = on; }); });
    rows_->add(tr("Shadows"), {casts_});
    layers_ = new QComboBox(this);
    layers_->setObjectName("flat light layers");
    layers_->setToolTip(tr("Which layers it reaches: all, or one; files can name several."));
    connect(layers_, &QComboBox::activated, this, [this](int i) {
        document_.edit_light(tr("layers"), id_, [&](Light& l) {
            l.flat.layers.clear();
            if (i > 0 && layers_->currentData().isValid()) l.flat.layers = {layers_->itemText(i).toStdString()};
        });
    });
    rows_->add(tr("Reaches"), {layers_});
}

const Light& FlatLightBench::of() const {
    static const Light none;
    const Light* l = document_.light(id_);
    return l ? *l : none;
}

void FlatLightBench::set_light(int id) {
    id_ = id;
    figure_->set_light(id);
    fill();
}

void FlatLightBench::fill() {
    const Light* l = document_.light(id_);
    if (!l || !document_.is_flat()) return;
    const QSignalBlocker quiet(enabled_), quieter(casts_);
    if (!name_->hasFocus() || name_->property("light").toInt() != id_) name_->setText(QString::fromStdString(l->name));
    name_->setProperty("light", id_);
    if (!text_->hasFocus()) text_->setText(QString::fromStdString(l->flat.text));
    enabled_->setChecked(l->enabled);
    casts_->setChecked(l->flat.casts);
    kind_->set_current(kind_of(*l));
    color_->set_color(effective_color(*l));
    const flat::World& w = *document_.project().flat;
    if (picture_->count() != static_cast<int>(w.sheets.size())) {
        picture_->clear();
        for (const flat::Sheet& s : w.sheets)
            picture_->addItem(QString::fromStdString(s.name));
    }
    picture_->setCurrentText(QString::fromStdString(l->flat.picture));
    layers_->clear();
    layers_->addItem(tr("all layers"));
    for (const flat::Layer& layer : w.layers)
        layers_->addItem(QString::fromStdString(layer.name), 1);
    QStringList named;
    for (const std::string& layer : l->flat.layers)
        named << QString::fromStdString(layer);
    if (named.size() > 1) layers_->addItem(named.join(", "));
    layers_->setCurrentIndex(named.isEmpty()     ? 0
                             : named.size() == 1 ? layers_->findText(named.first())
                                                 : layers_->count() - 1);
    const auto& own = document_.asset()->lights;
    const auto begun = std::find_if(own.begin(), own.end(), [&](const Light& o) { return o.id == id_; });
    for (const Number& n : numbers_) {
        n.field->set_value(n.get(*l));
        n.field->set_default(begun == own.end() ? std::nullopt : std::optional(n.get(*begun)));
    }
    QString moves;
    for (const Motion& m : document_.project().motions)
        if (m.light == id_)
            moves = tr("Moves: %1, every %2 s").arg(word(m.kind), QString::fromStdString(number_text(m.period, 3)));
    motion_->setText(moves);
    motion_->setVisible(!moves.isEmpty());
    rows_->show_what_applies();
}

} // namespace mirolux::app
