#include "app/setting_editor.h"
#include "app/theme.h"
#include "core/image/image.h"
#include <QCheckBox>
#include <QComboBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>

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
        channels_[i] = new ScrubField({0, high, high > 1 ? 0.02 : 0.004, 3, high > 1}, "", this);
        channels_[i]->setToolTip(tr("%1, scene-linear%2. Pull sideways, or double-click to type.")
                                     .arg(names[i], unit.isEmpty() ? "" : ", " + unit));
        row->addWidget(channels_[i]);
        connect(channels_[i], &ScrubField::edited, this, [this, i](double v) {
            color_[i] = static_cast<float>(v);
            update();
            emit edited(color_);
        });
        connect(channels_[i], &ScrubField::scrubbing, this, &ColorSwatch::scrubbing);
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

QWidget* make_setting_editor(Document& document, const std::string& key, QWidget* parent) {
    const Setting& s = all_settings()[static_cast<std::size_t>(setting_index(key))];
    const QString merge = QString::fromStdString("setting " + key);
    auto put = [&document, key, merge](const Value& v) {
        (void)document.set(key, v, document.interactive() ? merge : QString());
    };
    QWidget* editor = nullptr;
    std::function<void()> show;
    switch (s.kind) {
    case SettingKind::toggle: {
        auto* box = new QCheckBox(parent);
        QObject::connect(box, &QCheckBox::toggled, box, [put](bool on) { put(on); });
        show = [box, &document, key] {
            const QSignalBlocker quiet(box);
            box->setChecked(document.project().setup.flag(key));
        };
        editor = box;
        break;
    }
    case SettingKind::choice: {
        auto* combo = new QComboBox(parent);
        for (const std::string& c : s.choices)
            combo->addItem(QString::fromStdString(c));
        QObject::connect(combo, &QComboBox::activated, combo,
                         [put, combo](int) { put(combo->currentText().toStdString()); });
        show = [combo, &document, key] {
            combo->setCurrentText(QString::fromStdString(document.project().setup.choice(key)));
        };
        editor = combo;
        break;
    }
    case SettingKind::color: {
        auto* swatch = new ColorSwatch(s.high, QString::fromStdString(s.unit), parent);
        QObject::connect(swatch, &ColorSwatch::scrubbing, swatch,
                         [&document](bool on) { document.set_interactive(on); });
        QObject::connect(swatch, &ColorSwatch::edited, swatch, [put](const glm::vec3& c) { put(c); });
        show = [swatch, &document, key] { swatch->set_color(document.project().setup.color(key)); };
        editor = swatch;
        break;
    }
    default: {
        const bool whole = s.kind == SettingKind::whole;
        auto* field = new ScrubField({s.low, s.high,
                                      whole           ? 0.1
                                      : s.logarithmic ? 0.015
                                                      : (s.high - s.low) / 500,
                                      whole ? 0 : 2, s.logarithmic},
                                     QString::fromStdString(s.unit), parent);
        if (!whole && s.low < 0.01) field->setProperty("fine", true);
        QObject::connect(field, &ScrubField::scrubbing, field, [&document](bool on) { document.set_interactive(on); });
        QObject::connect(field, &ScrubField::edited, field, [put, whole](double v) {
            if (whole)
                put(static_cast<int>(v));
            else
                put(v);
        });
        show = [field, &document, key, whole] {
            field->set_value(whole ? document.project().setup.whole(key) : document.project().setup.number(key));
        };
        editor = field;
        break;
    }
    }
    editor->setObjectName(QString::fromStdString(key));
    editor->setToolTip(QString::fromStdString(s.help + "\n" + s.key));
    editor->setAccessibleName(QString::fromStdString(s.label));
    show();
    QObject::connect(&document, &Document::changed, editor, show);
    return editor;
}

SettingRows::SettingRows(Document& document, const std::vector<std::string>& keys, QWidget* parent) : QWidget(parent) {
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(8);
    grid->setVerticalSpacing(5);
    grid->setColumnStretch(1, 1);
    for (const std::string& key : keys) {
        const Setting& s = all_settings()[static_cast<std::size_t>(setting_index(key))];
        auto* label = new QLabel(QString::fromStdString(s.label), this);
        label->setToolTip(QString::fromStdString(s.help));
        QWidget* editor = make_setting_editor(document, key, this);
        const int row = grid->rowCount();
        grid->addWidget(label, row, 0);
        grid->addWidget(editor, row, 1);
        if (s.when.empty()) continue;
        auto update = [&document, label, editor, &s] {
            const bool on = applies(s, document.project().setup);
            label->setVisible(on);
            editor->setVisible(on);
        };
        update();
        connect(&document, &Document::changed, editor, update);
    }
}

} // namespace mirolux::app
