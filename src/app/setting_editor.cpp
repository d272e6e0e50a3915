#include "app/setting_editor.h"
#include "app/choice_row.h"
#include "app/theme.h"
#include "core/image/image.h"
#include <QCheckBox>
#include <QDir>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QPainter>
#include <QPushButton>
#include <algorithm>
#include <map>

namespace mirolux::app {

QColor display_color(const glm::vec3& linear) {
    const float peak = std::max({linear.r, linear.g, linear.b, 1e-6f});
    const glm::vec3 c = peak > 1.0f ? linear / peak : linear;
    auto channel = [](float v) { return static_cast<int>(srgb_encode(std::clamp(v, 0.0f, 1.0f)) * 255 + 0.5); };
    return {channel(c.r), channel(c.g), channel(c.b)};
}

ColorSwatch::ColorSwatch(double high, const QString& unit, QWidget* parent) : QWidget(parent) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(22, 0, 0, 0);
    row->setSpacing(3);
    static const char* names[] = {"red", "green", "blue"};
    for (int i = 0; i < 3; ++i) {
        channels_[i] = new NumberField({0, high, high > 1 ? 0.02 : 0.004, 3, high > 1}, "", this);
        channels_[i]->setToolTip(tr("%1, scene-linear%2. Pull sideways, or double-click to type.")
                                     .arg(names[i], unit.isEmpty() ? "" : ", " + unit));
        channels_[i]->setAccessibleName(tr(names[i]));
        row->addWidget(channels_[i]);
        connect(channels_[i], &NumberField::edited, this, [this, i](double v) {
            color_[i] = static_cast<float>(v);
            update();
            emit edited(color_);
        });
        connect(channels_[i], &NumberField::scrubbing, this, &ColorSwatch::scrubbing);
    }
}

void ColorSwatch::set_color(const glm::vec3& linear) {
    color_ = linear;
    for (int i = 0; i < 3; ++i)
        channels_[i]->set_value(linear[i]);
    update();
}

void ColorSwatch::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setPen(theme().line);
    // Dim radiances are shown by their hue: brightest channel full.
    const float peak = std::max({color_.r, color_.g, color_.b, 1e-6f});
    p.setBrush(display_color(color_ / peak));
    p.drawRect(0, height() / 2 - 9, 17, 17);
}

namespace {
/// An editor and what puts the document's value into it.
struct BoundEditor {
    QWidget* widget;
    std::function<void()> show;
};
using Put = std::function<void(const Value&)>;

/// Resting on a switch is considering its other state.
class SwitchWatch : public QObject {
public:
    SwitchWatch(Document& document, const std::string& key, QObject* parent)
        : QObject(parent), document_(document), key_(key) {}

protected:
    bool eventFilter(QObject*, QEvent* e) override {
        if (e->type() == QEvent::Enter) document_.consider(key_, !document_.project().setup.flag(key_));
        if (e->type() == QEvent::Leave) document_.consider_nothing();
        return false;
    }

private:
    Document& document_;
    std::string key_;
};

BoundEditor make_switch(Document& document, const std::string& key, const Put& put, QWidget* parent) {
    auto* box = new QCheckBox(parent);
    QObject::connect(box, &QCheckBox::toggled, box, [put](bool on) { put(on); });
    box->installEventFilter(new SwitchWatch(document, key, box));
    return {box, [box, &document, key] {
                const QSignalBlocker quiet(box);
                box->setChecked(document.project().setup.flag(key));
            }};
}

BoundEditor make_choice(Document& document, const Setting& s, const Put& put, QWidget* parent) {
    QStringList words;
    for (const std::string& c : s.choices)
        words << QString::fromStdString(c);
    auto* row = new ChoiceRow(words, parent);
    QObject::connect(row, &ChoiceRow::chosen, row, [put, words](int i) { put(words[i].toStdString()); });
    QObject::connect(row, &ChoiceRow::hovered, row, [&document, key = s.key, words](int i) {
        if (i < 0)
            document.consider_nothing();
        else
            document.consider(key, words[i].toStdString());
    });
    return {row, [row, words, &document, key = s.key] {
                row->set_current(
                    static_cast<int>(words.indexOf(QString::fromStdString(document.project().setup.choice(key)))));
            }};
}

/// A name of a few that there are; the first where none is given.
BoundEditor make_name(Document& document, const Setting& s, const Put& put, QWidget* parent) {
    auto* row = new ChoiceRow({QObject::tr("first")}, parent);
    QObject::connect(row, &ChoiceRow::chosen, row,
                     [put, row](int i) { put(i == 0 ? std::string() : row->words()[i].toStdString()); });
    return {row, [row, &document, key = s.key] {
                const Project& p = document.project();
                const QString name = QString::fromStdString(p.setup.choice(key));
                QStringList words{QObject::tr("first")};
                if (key == "environment.probe")
                    for (const Probe& probe : p.probes)
                        words << QString::fromStdString(probe.name);
                else
                    for (const Light& l : p.lights)
                        if (l.type == LightType::directional) words << QString::fromStdString(l.name);
                if (!name.isEmpty() && !words.contains(name)) words << name; // named, and not there
                if (words != row->words()) row->set_words(words);
                row->set_current(name.isEmpty() ? 0 : static_cast<int>(words.indexOf(name)));
            }};
}

/// Names of objects, typed; in the colour of alarms where the scene has none of them.
BoundEditor make_objects(Document& document, const std::string& key, const Put& put, QWidget* parent) {
    auto* line = new QLineEdit(parent);
    line->setPlaceholderText(key == "grid.within" ? QObject::tr("all that stands still")
                             : key == "grid.at"   ? QObject::tr("a grid")
                                                  : QObject::tr("none"));
    line->setMinimumWidth(60);
    const auto show = [line, &document, key] {
        const std::string& names = document.project().setup.choice(key);
        if (line->text().toStdString() != names && !line->isModified()) line->setText(QString::fromStdString(names));
        const bool lost = !names.empty() && document.is_open() && objects_named(document.scene(), names).empty();
        QPalette colors = line->palette();
        colors.setColor(QPalette::Text, lost ? theme().alarm : theme().text);
        line->setPalette(colors);
    };
    QObject::connect(line, &QLineEdit::editingFinished, line, [line, put, show, &document, key] {
        const std::string names = line->text().trimmed().toStdString();
        line->setModified(false); // nothing is being typed any more
        if (names != document.project().setup.choice(key)) put(names);
        show();
    });
    return {line, show};
}

/// A file, chosen in a dialog; its folder is left out where it lies beside the scene's file.
BoundEditor make_file(Document& document, const std::string& key, const Put& put, QWidget* parent) {
    auto* button = new QPushButton(parent);
    const auto take = [&document, put, button, key] {
        const QString beside = QFileInfo(QString::fromStdString(document.project().scenePath)).absolutePath();
        const bool table = key == "tone.file";
        const QString file = QFileDialog::getOpenFileName(
            button, table ? QObject::tr("A table of colours") : QObject::tr("A picture of all directions"), beside,
            table ? QObject::tr("Tables of colours (*.cube)") : QObject::tr("Pictures with light (*.hdr *.exr)"));
        if (file.isEmpty()) return;
        const QString inside = QDir(beside).relativeFilePath(file);
        put((inside.startsWith("..") ? file : inside).toStdString());
    };
    QObject::connect(button, &QPushButton::clicked, button, take);
    return {button, [button, &document, key] {
                const QString name = QString::fromStdString(document.project().setup.choice(key));
                button->setText(name.isEmpty() ? QObject::tr("Choose\u2026") : QFileInfo(name).fileName());
            }};
}

BoundEditor make_color(Document& document, const Setting& s, const Put& put, QWidget* parent) {
    auto* swatch = new ColorSwatch(s.high, QString::fromStdString(s.unit), parent);
    QObject::connect(swatch, &ColorSwatch::scrubbing, swatch, [&document](bool on) { document.set_interactive(on); });
    QObject::connect(swatch, &ColorSwatch::edited, swatch, [put](const glm::vec3& c) { put(c); });
    return {swatch, [swatch, &document, key = s.key] { swatch->set_color(document.project().setup.color(key)); }};
}

BoundEditor make_number(Document& document, const Setting& s, const Put& put, QWidget* parent) {
    const bool whole = s.kind == SettingKind::whole;
    const double step = whole ? 0.1 : s.logarithmic ? 0.015 : (s.high - s.low) / 500;
    auto* field =
        new NumberField({s.low, s.high, step, whole ? 0 : 2, s.logarithmic}, QString::fromStdString(s.unit), parent);
    field->set_default(whole ? std::get<int>(s.standard) : std::get<double>(s.standard));
    QObject::connect(field, &NumberField::scrubbing, field, [&document](bool on) { document.set_interactive(on); });
    QObject::connect(field, &NumberField::edited, field,
                     [put, whole](double v) { put(whole ? Value(static_cast<int>(v)) : Value(v)); });
    QObject::connect(field, &NumberField::considered, field, [&document, key = s.key, whole](double v) {
        document.consider(key, whole ? Value(static_cast<int>(std::lround(v))) : Value(v));
    });
    QObject::connect(field, &NumberField::hovered, field, [&document](bool on) {
        if (!on) document.consider_nothing();
    });
    return {field, [field, &document, key = s.key, whole] {
                const Setup& setup = document.project().setup;
                field->set_value(whole ? setup.whole(key) : setup.number(key));
            }};
}

bool names_objects(const std::string& key) {
    return key == "grid.within" || key == "grid.at" || key == "outline.objects";
}

} // namespace

QWidget* make_setting_editor(Document& document, const std::string& key, QWidget* parent) {
    const Setting& s = all_settings()[static_cast<std::size_t>(setting_index(key))];
    const Put put = [&document, key](const Value& v) {
        (void)document.set(key, v, document.interactive() ? QString::fromStdString("setting " + key) : QString());
    };
    const auto [editor, show] = s.kind == SettingKind::toggle   ? make_switch(document, key, put, parent)
                                : s.kind == SettingKind::choice ? make_choice(document, s, put, parent)
                                : key.ends_with(".file")        ? make_file(document, key, put, parent)
                                : names_objects(key)            ? make_objects(document, key, put, parent)
                                : s.kind == SettingKind::text   ? make_name(document, s, put, parent)
                                : s.kind == SettingKind::color  ? make_color(document, s, put, parent)
                                                                : make_number(document, s, put, parent);
    editor->setObjectName(QString::fromStdString(key));
    editor->setToolTip(QString::fromStdString(s.help + "\n" + s.key));
    editor->setAccessibleName(QString::fromStdString(s.label));
    show();
    QObject::connect(&document, &Document::changed, editor, show);
    return editor;
}

/// What a group of settings is headed by; those that are not named here by their own word.
static QString heading_of(const std::string& group) {
    static const std::map<std::string, const char*> words = {{"air", QT_TR_NOOP("Fog and lit air")},
                                                             {"beams", QT_TR_NOOP("Beams of mesh")},
                                                             {"gbuffer", "G-buffer"},
                                                             {"culling", QT_TR_NOOP("Light lists")},
                                                             {"cluster", QT_TR_NOOP("Clusters")},
                                                             {"cascade", QT_TR_NOOP("Cascades")},
                                                             {"shadow", QT_TR_NOOP("Shadow maps")},
                                                             {"night", QT_TR_NOOP("Night sky")},
                                                             {"light", QT_TR_NOOP("Lights")}};
    if (const auto it = words.find(group); it != words.end()) return SettingRows::tr(it->second);
    QString word = QString::fromStdString(group);
    word[0] = word[0].toUpper();
    return word;
}

SettingRows::SettingRows(Document& document, const std::vector<std::string>& keys, QWidget* parent)
    : BenchRows(parent) {
    constexpr std::size_t many = 24; // rows that are no longer found at a glance
    std::vector<std::string> groups;
    for (const std::string& key : keys)
        if (const std::string group = key.substr(0, key.find('.'));
            std::find(groups.begin(), groups.end(), group) == groups.end())
            groups.push_back(group);
    std::vector<std::string> ordered = keys;
    const auto place = [&](const std::string& key) {
        return std::find(groups.begin(), groups.end(), key.substr(0, key.find('.')));
    };
    const bool headed = keys.size() > many && groups.size() > 1;
    if (headed)
        std::stable_sort(ordered.begin(), ordered.end(),
                         [&](const std::string& a, const std::string& b) { return place(a) < place(b); });
    std::string group;
    for (const std::string& key : ordered) {
        if (headed && key.compare(0, key.find('.'), group) != 0) {
            group = key.substr(0, key.find('.'));
            add_heading(heading_of(group));
        }
        const Setting& s = all_settings()[static_cast<std::size_t>(setting_index(key))];
        const std::function<bool()> when = [&document, &s] { return applies(s, document.project().setup); };
        add(QString::fromStdString(s.label), {make_setting_editor(document, key, this)}, when);
    }
    show_what_applies();
    connect(&document, &Document::changed, this, &BenchRows::show_what_applies);
}

} // namespace mirolux::app
