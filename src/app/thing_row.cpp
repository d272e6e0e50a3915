#include "app/thing_row.h"
#include "app/bench_rows.h"
#include "app/benches.h"
#include "app/number_field.h"
#include "app/setting_editor.h"
#include <QComboBox>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QPushButton>
#include <QSignalBlocker>
#include <QVBoxLayout>

namespace mirolux::app {

ThingRow::ThingRow(Document& document, Selection& selection, QWidget* parent)
    : QWidget(parent), document_(document), selection_(selection), built_(new QWidget(this)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    auto* own = new QVBoxLayout(built_);
    own->setContentsMargins(0, 0, 0, 0);
    own->setSpacing(4);
    name_ = new QLineEdit(built_);
    name_->setObjectName("thing name");
    name_->setAccessibleName(tr("Name"));
    name_->setToolTip(tr("What it is called in lists and in the journal."));
    connect(name_, &QLineEdit::editingFinished, this, [this] {
        const std::string name = name_->text().trimmed().toStdString();
        const std::set<std::string> ids = things();
        if (filling_ || name.empty() || ids.size() != 1) return fill();
        document_.change_things(tr("rename"), ids, [&](BuiltThing& t) { t.name = name; });
    });
    rows_ = new BenchRows(built_);
    rows_->add(tr("Name"), {name_}, [this] { return things().size() == 1; });
    const auto is_shape = [this](auto&& of) {
        return [this, of] {
            const Make* m = leading();
            return m && m->shape && of(m->shape->kind);
        };
    };
    const auto part = [](int k) {
        return std::pair([k](const Make& m) { return double(m.shape->size[k]); },
                         [k](Make& m, double v) { m.shape->size[k] = static_cast<float>(v); });
    };
    const auto [width, set_width] = part(0);
    const auto [height, set_height] = part(1);
    const auto [depth, set_depth] = part(2);
    auto* w = measure("width", "m", tr("Width; of what is round: its diameter. Before it is sized in the picture."),
                      false, width, set_width);
    auto* h = measure("height", "m", tr("Height, standing."), false, height, set_height);
    auto* d = measure("depth", "m", tr("Depth."), false, depth, set_depth);
    auto* tube = measure(
        "tube", "m", tr("Diameter of the ring's tube."), false, [](const Make& m) { return double(m.shape->tube); },
        [](Make& m, double v) { m.shape->tube = static_cast<float>(v); });
    auto* segments = measure(
        "segments", "",
        tr("Segments around; along each side of a plane or a box; the steps of a staircase. More is "
           "rounder, and more triangles."),
        true, [](const Make& m) { return double(m.shape->segments); },
        [](Make& m, double v) { m.shape->segments = static_cast<int>(v); });
    auto* rings = measure(
        "rings", "", tr("Rings from pole to pole, or around the tube."), true,
        [](const Make& m) { return double(m.shape->rings); },
        [](Make& m, double v) { m.shape->rings = static_cast<int>(v); });
    const auto any = [](ShapeKind) { return true; };
    rows_->add(tr("Measures"), {w, h, d, tube}, is_shape(any));
    rows_->add(tr("Segments, rings"), {segments, rings}, is_shape(any));
    sometimes_ = {{h, uses_height},
                  {d, uses_depth},
                  {tube, [](ShapeKind k) { return k == ShapeKind::torus; }},
                  {rings, uses_rings}};
    longest_ = new NumberField({0.001, 10000, 0.01, 3, true}, "m", built_);
    longest_->setObjectName("model longest side");
    longest_->setAccessibleName(tr("Longest side"));
    longest_->setToolTip(tr("The model is sized about its foot so that its longest side is this long."));
    connect(longest_, &NumberField::scrubbing, this, [this](bool on) { document_.set_interactive(on); });
    connect(longest_, &NumberField::edited, this, &ThingRow::fit_models);
    rows_->add(tr("Longest side"), {longest_}, [this] {
        const Make* m = leading();
        return m && !m->shape;
    });
    material_ = new QComboBox(built_);
    material_->setObjectName("thing material");
    material_->setAccessibleName(tr("Material"));
    material_->setToolTip(tr("Its own plain material, or one of the scene's."));
    connect(material_, &QComboBox::activated, this, [this](int i) {
        const std::string name = i == 0 ? std::string() : material_->itemText(i).toStdString();
        change(tr("material"), [&](Make& m) { m.material = name; });
    });
    rows_->add(tr("Material"), {material_}, is_shape(any));
    const auto plain = [this] {
        const Make* m = leading();
        return m && m->shape && m->material.empty();
    };
    const auto swatch = [&](double high, const QString& unit, const QString& name, const QString& help,
                            glm::vec3 OwnMaterial::*value) {
        auto* s = new ColorSwatch(high, unit, built_);
        s->setObjectName(name);
        s->setToolTip(help);
        connect(s, &ColorSwatch::scrubbing, this, [this](bool on) { document_.set_interactive(on); });
        connect(s, &ColorSwatch::edited, this,
                [this, name, value](const glm::vec3& v) { change(name, [&](Make& m) { m.own.*value = v; }); });
        return s;
    };
    color_ = swatch(1, {}, "thing colour", tr("Its base colour, linear red, green and blue."), &OwnMaterial::color);
    rows_->add(tr("Colour"), {color_}, plain);
    const auto share = [&](const QString& name, const QString& help, float OwnMaterial::*value) {
        auto* f = measure(
            name, "", help, false, [value](const Make& m) { return double(m.own.*value); },
            [value](Make& m, double v) { m.own.*value = static_cast<float>(v); });
        return f;
    };
    rows_->add(tr("Metallic, rough"),
               {share("metallic", tr("0: a dielectric; 1: a metal."), &OwnMaterial::metallic),
                share("roughness", tr("0: a mirror; 1: matt."), &OwnMaterial::roughness)},
               plain);
    glow_ = swatch(20000, "cd/m\u00b2", "thing emission", tr("What it shines with by itself, cd/m\u00b2."),
                   &OwnMaterial::emission);
    rows_->add(tr("Emission"), {glow_}, plain);
    own->addWidget(rows_);
    column->addWidget(built_);

    auto* array = new BenchRows(this);
    static const char* axes[] = {"x", "y", "z"};
    for (int k = 0; k < 3; ++k) {
        count_[k] = new NumberField({1, 200, 0.05, 0, false}, QString("\u00d7 %1").arg(axes[k]), this);
        count_[k]->setObjectName(QString("array count %1").arg(axes[k]));
        count_[k]->setAccessibleName(tr("How often along %1").arg(axes[k]));
        count_[k]->setToolTip(tr("How often it stands along %1; 1: once.").arg(axes[k]));
        count_[k]->set_value(k == 0 ? 5 : 1);
        step_[k] = new NumberField({-1000, 1000, 0.01, 2, false}, "m", this);
        step_[k]->setObjectName(QString("array step %1").arg(axes[k]));
        step_[k]->setAccessibleName(tr("How far apart along %1").arg(axes[k]));
        step_[k]->setToolTip(tr("From one to the next along %1.").arg(axes[k]));
        step_[k]->set_value(1);
        for (NumberField* f : {count_[k], step_[k]})
            connect(f, &NumberField::edited, this, [this, f](double v) {
                f->set_value(v);
                fill();
            });
    }
    array->add(tr("Rows of"), {count_[0], count_[1], count_[2]});
    array->add(tr("Apart"), {step_[0], step_[1], step_[2]});
    column->addWidget(array);
    array_ = new QPushButton(this);
    array_->setObjectName("make array");
    array_->setToolTip(tr("Copies what is selected to every other place of the rows; one step to undo."));
    connect(array_, &QPushButton::clicked, this, &ThingRow::make_array);
    column->addWidget(array_);
}

std::set<std::string> ThingRow::things() const {
    std::set<std::string> out;
    if (document_.is_open())
        for (const int o : selection_.objects())
            if (const BuiltThing* t = thing_of(*document_.asset(), o)) out.insert(t->id);
    return out;
}

const Make* ThingRow::leading() const {
    if (!document_.is_open()) return nullptr;
    for (auto o = selection_.objects().rbegin(); o != selection_.objects().rend(); ++o)
        if (const BuiltThing* t = thing_of(*document_.asset(), *o)) return t->make.get();
    return nullptr;
}

/// The box of a thing before it is placed.
static Box rest_of(const SceneAsset& asset, const std::string& thing) {
    Box box;
    for (const int o : objects_of(asset, thing))
        box.add(box_before_edit(asset, o));
    return box;
}

double ThingRow::longest_of(const std::string& thing) const {
    const std::vector<int> objects = objects_of(*document_.asset(), thing);
    if (objects.empty()) return 0;
    const glm::vec3 side = rest_of(*document_.asset(), thing).size() * document_.object_edit(objects.front()).scale;
    return std::max({side.x, side.y, side.z});
}

void ThingRow::fit_models(double metres) {
    if (filling_) return;
    std::vector<ObjectEdit> edits;
    for (const std::string& thing : things()) {
        const double longest = longest_of(thing);
        if (!(longest > 0)) continue;
        const Box box = rest_of(*document_.asset(), thing);
        Placement p;
        p.size = static_cast<float>(metres / longest);
        for (const int o : objects_of(*document_.asset(), thing)) {
            const ObjectEdit e = document_.object_edit(o);
            p.pivot = glm::vec3(matrix_of(e) * glm::vec4(box.center().x, box.low.y, box.center().z, 1));
            edits.push_back(placed_by(e, p));
        }
    }
    document_.edit_objects(tr("size of models"), edits, document_.interactive() ? "fit models" : QString());
}

void ThingRow::change(const QString& label, const std::function<void(Make&)>& change) {
    const Make* lead = leading();
    if (filling_ || !lead || !lead->shape) return;
    const ShapeKind kind = lead->shape->kind;
    // Things that shared how they are made go on sharing it.
    std::map<const Make*, std::shared_ptr<const Make>> changed;
    document_.change_things(
        label, things(),
        [&](BuiltThing& t) {
            if (!t.make->shape || t.make->shape->kind != kind) return;
            std::shared_ptr<const Make>& to = changed[t.make.get()];
            if (!to) {
                Make next = *t.make;
                change(next);
                next.shape = settled(*next.shape);
                to = std::make_shared<const Make>(std::move(next));
            }
            t.make = to;
        },
        document_.interactive() ? "thing " + label : QString());
}

NumberField* ThingRow::measure(const QString& name, const QString& unit, const QString& help, bool whole,
                               const std::function<double(const Make&)>& get,
                               const std::function<void(Make&, double)>& set) {
    const bool share = name == "metallic" || name == "roughness";
    auto* f = new NumberField(whole   ? NumberField::Range{1, 512, 0.02, 0, true}
                              : share ? NumberField::Range{0, 1, 0.005, 2, false}
                                      : NumberField::Range{0.001, 10000, 0.01, 3, true},
                              unit, built_);
    f->setObjectName("thing " + name);
    f->setAccessibleName(name);
    f->setToolTip(help);
    connect(f, &NumberField::scrubbing, this, [this](bool on) { document_.set_interactive(on); });
    connect(f, &NumberField::edited, this, [this, name, set](double v) { change(name, [&](Make& m) { set(m, v); }); });
    measures_.push_back({f, get});
    return f;
}

void ThingRow::fill() {
    if (!document_.is_open()) return;
    filling_ = true;
    const Make* lead = leading();
    const std::set<std::string> ids = things();
    built_->setVisible(lead != nullptr);
    if (lead) {
        if (ids.size() == 1 && !name_->hasFocus())
            name_->setText(QString::fromStdString(thing_of(*document_.asset(), selection_.objects().back())
                                                      ? thing_of(*document_.asset(), selection_.objects().back())->name
                                                      : std::string()));
        if (lead->shape) {
            for (const Measure& m : measures_)
                m.field->set_value(m.get(*lead));
            const SceneAsset& file = *document_.asset()->file;
            const QSignalBlocker quiet(material_);
            if (material_->count() != static_cast<int>(file.materials.size())) {
                material_->clear();
                material_->addItem(tr("its own"));
                for (std::size_t i = 0; i + 1 < file.materials.size(); ++i)
                    material_->addItem(QString::fromStdString(file.materials[i].name));
            }
            material_->setCurrentIndex(
                lead->material.empty() ? 0 : std::max(0, material_->findText(QString::fromStdString(lead->material))));
            color_->set_color(lead->own.color);
            glow_->set_color(lead->own.emission);
        }
        if (!lead->shape) longest_->set_value(longest_of(*ids.rbegin()));
        rows_->show_what_applies();
        if (lead->shape)
            for (const auto& [field, of] : sometimes_)
                field->setVisible(of(lead->shape->kind));
    }
    ArrayStep a;
    for (int k = 0; k < 3; ++k)
        a.count[k] = static_cast<int>(count_[k]->value());
    const std::size_t parts = std::max<std::size_t>(1, ids.empty() ? selection_.objects().size() : ids.size());
    array_->setText(tr("Stand it in rows: %L1 copies").arg(static_cast<qulonglong>(a.copies() * parts)));
    const std::size_t there = document_.project().built ? document_.project().built->things.size() : 0;
    array_->setEnabled(a.copies() > 0 && there + a.copies() * parts <= most_things);
    filling_ = false;
}

void ThingRow::make_array() {
    ArrayStep a;
    for (int k = 0; k < 3; ++k) {
        a.count[k] = static_cast<int>(count_[k]->value());
        a.step[k] = static_cast<float>(step_[k]->value());
    }
    const std::vector<int> sources = selection_.objects();
    Copies copies = arrayed(*document_.asset(), document_.project().objects, sources, a);
    if (copies.things.empty()) return;
    const QString label = tr("stand in rows: %L1 copies").arg(copies.things.size());
    std::vector<int> all = document_.add_things(label, std::move(copies.things), copies.edits);
    all.insert(all.begin(), sources.begin(), sources.end());
    selection_.set_objects(std::move(all));
}

} // namespace mirolux::app
