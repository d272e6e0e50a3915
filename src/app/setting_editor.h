#pragma once
#include "app/bench_rows.h"
#include "app/document.h"
#include "app/number_field.h"
#include <QWidget>

namespace mirolux::app {

/// The editor that a setting's declaration asks for, bound to the document: a switch, words to choose from, a scrub
/// field or a colour.
QWidget* make_setting_editor(Document& document, const std::string& key, QWidget* parent);

/// Rows of label and editor for several settings. Those that mean nothing under the present ones are not shown.
class SettingRows : public BenchRows {
    Q_OBJECT
public:
    SettingRows(Document& document, const std::vector<std::string>& keys, QWidget* parent = nullptr);
};

/// A swatch that opens a colour field; scene-linear values, shown as sRGB.
class ColorSwatch : public QWidget {
    Q_OBJECT
public:
    ColorSwatch(double high, const QString& unit, QWidget* parent = nullptr);
    void set_color(const glm::vec3& linear);
signals:
    void edited(const glm::vec3& linear);
    void scrubbing(bool on);

protected:
    void paintEvent(QPaintEvent*) override;

private:
    NumberField* channels_[3];
    glm::vec3 color_{0.0f};
};

QColor display_color(const glm::vec3& linear);

} // namespace mirolux::app
