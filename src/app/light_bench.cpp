#include "app/benches.h"
#include "app/theme.h"
#include "core/base/text.h"
#include "core/light/falloff.h"
#include <QCheckBox>
#include <QComboBox>
#include <QGridLayout>
#include <QLineEdit>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>
#include <QVBoxLayout>

namespace mirolux::app {

// Falloff

FalloffCurve::FalloffCurve(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    setFixedHeight(92);
    setToolTip(tr("Irradiance at normal incidence over distance; both axes logarithmic. The dashed part is inverse "
                  "square without a window."));
    connect(&document_, &Document::changed, this, qOverload<>(&QWidget::update));
}

void FalloffCurve::set_light(int id) {
    id_ = id;
    update();
}

void FalloffCurve::paintEvent(QPaintEvent*) {
    const Light* l = document_.light(id_);
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    const QRectF r = QRectF(rect()).adjusted(38, 6, -8, -20);
    p.setPen(t.line);
    p.setBrush(t.field);
    p.drawRect(r);
    if (!l || l->type == LightType::directional || l->intensity <= 0) return;
    const double threshold = document_.project().setup.number("light.threshold");
    const RangeWindow window =
        document_.project().setup.choice("light.window") == "squared" ? RangeWindow::squared : RangeWindow::unsquared;
    const double reach = derived_range(*l, static_cast<float>(threshold)), near = std::max(0.1, reach / 100),
                 far = reach * 1.25;
    const double top = l->intensity / (near * near), bottom = std::max(l->intensity / (far * far) * 0.1, 1e-6);
    auto x = [&](double d) { return r.left() + r.width() * std::log(d / near) / std::log(far / near); };
    auto y = [&](double v) {
        return r.bottom() -
               r.height() * std::clamp(std::log(std::max(v, 1e-12) / bottom) / std::log(top / bottom), 0.0, 1.0);
    };
    QFont small = font();
    small.setPixelSize(11);
    p.setFont(small);
    for (double v = std::pow(10, std::ceil(std::log10(bottom))); v < top; v *= 10) {
        p.setPen(QPen(t.line, 0.6));
        p.drawLine(QPointF(r.left(), y(v)), QPointF(r.right(), y(v)));
        if (std::fmod(std::round(std::log10(v)), 2.0) == 0.0) {
            p.setPen(t.quiet);
            p.drawText(QRectF(0, y(v) - 8, 34, 16), Qt::AlignRight | Qt::AlignVCenter,
                       QString::fromStdString(number_text(v, 1)));
        }
    }
    for (double d = std::pow(10, std::ceil(std::log10(near))); d < far; d *= 10) {
        p.setPen(QPen(t.line, 0.6));
        p.drawLine(QPointF(x(d), r.top()), QPointF(x(d), r.bottom()));
        p.setPen(t.quiet);
        p.drawText(QRectF(x(d) - 24, r.bottom() + 2, 48, 16), Qt::AlignHCenter,
                   QString::fromStdString(number_text(d, 2)) + " m");
    }
    p.setPen(t.quiet);
    p.drawText(QRectF(r.right() - 34, r.top() + 2, 30, 14), Qt::AlignRight, "lx");
    QPainterPath plain, windowed;
    for (int i = 0; i <= 120; ++i) {
        const double d = near * std::pow(far / near, i / 120.0);
        const QPointF a(x(d), y(l->intensity * distance_attenuation(d, 0, 0, window))),
            b(x(d), y(l->intensity * distance_attenuation(d, l->range, reach, window)));
        if (i == 0)
            plain.moveTo(a), windowed.moveTo(b);
        else
            plain.lineTo(a), windowed.lineTo(b);
    }
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.quiet, 1, Qt::DashLine));
    p.drawPath(plain);
    p.setPen(QPen(t.accent, 1.8));
    p.drawPath(windowed);
}

// Light

ScrubField* LightBench::field(const QString& name, const ScrubField::Range& range, const QString& unit,
                              const QString& help, const std::function<void(Light&, double)>& put) {
    auto* f = new ScrubField(range, unit, this);
    f->setObjectName(name);
    f->setToolTip(help);
    connect(f, &ScrubField::scrubbing, this, [this](bool on) { document_.set_interactive(on); });
    connect(f, &ScrubField::edited, this, [this, put, name](double v) {
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
    auto* head = new QHBoxLayout;
    head->addWidget(name_, 1);
    head->addWidget(enabled_);
    column->addLayout(head);
    motion_ = quiet_label({}, this);
    column->addWidget(motion_);

    auto* grid = new QGridLayout;
    grid->setColumnStretch(1, 1);
    grid->setVerticalSpacing(5);
    grid->setHorizontalSpacing(8);
    int row = 0;
    auto add = [&](const QString& text, QWidget* widget) {
        auto* label = new QLabel(text, this);
        grid->addWidget(label, row, 0);
        grid->addWidget(widget, row++, 1);
        return label;
    };
    type_ = new QComboBox(this);
    type_->setToolTip(tr("point: all round; spot: a cone; directional: parallel, from far away, lights everything."));
    for (const LightType t : {LightType::point, LightType::spot, LightType::directional})
        type_->addItem(word(t), static_cast<int>(t));
    add(tr("Type"), type_);

    intensity_ = field(tr("intensity"), {0, 1e6, 0.015, 2, true}, "",
                       tr("How strong it shines, in the unit beside it. More light, same cost, unless it has no range: "
                          "then it reaches farther."),
                       [](Light& l, double v) { l.intensity = intensity_from(l, l.unit, static_cast<float>(v)); });
    unit_ = new QComboBox(this);
    unit_->setToolTip(tr("Candela, or the lumen of the whole lamp; directional lights are in lux."));
    auto* intensityRow = new QHBoxLayout;
    intensityRow->setSpacing(4);
    auto* intensityBox = new QWidget(this);
    intensityBox->setLayout(intensityRow);
    intensityRow->setContentsMargins(0, 0, 0, 0);
    intensityRow->addWidget(intensity_, 1);
    intensityRow->addWidget(unit_);
    add(tr("Intensity"), intensityBox);

    colorBy_ = new QComboBox(this);
    colorBy_->addItems({tr("by temperature"), tr("by red, green, blue")});
    colorBy_->setToolTip(tr("Colour from a black body's temperature, or free."));
    add(tr("Colour"), colorBy_);
    kelvin_ = field(tr("temperature"), {1667, 25000, 0.004, 0, true}, "K",
                    tr("Colour temperature: 1,900 K candle, 2,700 K warm lamp, 6,500 K daylight."),
                    [](Light& l, double v) { l.kelvin = static_cast<float>(v); });
    kelvinLabel_ = add(tr("Temperature"), kelvin_);
    color_ = new ColorSwatch(1.0, {}, this);
    colorLabel_ = add(tr("Linear RGB"), color_);
    range_ = field(
        tr("range"), {0, 1000, 0.02, 2, false}, "m",
        tr("Light ends here; 0 is unbounded. Smaller ranges touch fewer objects and pixels: the cheapest way to save."),
        [](Light& l, double v) { l.range = v < 0.1 ? 0.0f : static_cast<float>(v); });
    range_->set_word_for(0, tr("unbounded"));
    rangeLabel_ = add(tr("Range"), range_);
    auto degrees_to = [](double v) { return glm::radians(static_cast<float>(v)); };
    outer_ = field(tr("outer cone"), {1, 90, 0.15, 1, false}, "\u00b0", tr("Angle from the axis where the cone ends."),
                   [degrees_to](Light& l, double v) {
                       l.outerConeAngle = std::min(degrees_to(v), 1.5707f);
                       l.innerConeAngle = std::min(l.innerConeAngle, l.outerConeAngle);
                   });
    outerLabel_ = add(tr("Outer cone"), outer_);
    inner_ = field(tr("inner cone"), {0, 90, 0.15, 1, false}, "\u00b0",
                   tr("Angle from the axis up to which it shines in full."),
                   [degrees_to](Light& l, double v) { l.innerConeAngle = std::min(degrees_to(v), l.outerConeAngle); });
    innerLabel_ = add(tr("Inner cone"), inner_);
    fadeInner_ =
        field(tr("fade from"), {0, 10000, 0.1, 1, false}, "m",
              tr("Up to this distance from the eye the light is full; then it fades."), [](Light& l, double v) {
                  l.fadeInner = static_cast<float>(v);
                  if (l.fadeOuter > 0) l.fadeOuter = std::max(l.fadeOuter, l.fadeInner);
              });
    fadeOuter_ = field(tr("fade to"), {0, 10000, 0.1, 1, false}, "m",
                       tr("From this distance to the eye on the light is not rendered and costs nothing. 0: as the "
                          "setup says for all lights."),
                       [](Light& l, double v) {
                           l.fadeOuter = v < 0.1 ? 0.0f : static_cast<float>(v);
                           if (l.fadeOuter > 0) l.fadeInner = std::min(l.fadeInner, l.fadeOuter);
                       });
    fadeOuter_->set_word_for(0, tr("as all"));
    auto* fadeRow = new QHBoxLayout;
    fadeRow->setContentsMargins(0, 0, 0, 0);
    fadeRow->setSpacing(3);
    auto* fadeBox = new QWidget(this);
    fadeBox->setLayout(fadeRow);
    fadeRow->addWidget(fadeInner_);
    fadeRow->addWidget(fadeOuter_);
    fadeLabel_ = add(tr("Fade from, to"), fadeBox);
    auto* place = new QHBoxLayout;
    place->setContentsMargins(0, 0, 0, 0);
    place->setSpacing(3);
    auto* placeBox = new QWidget(this);
    placeBox->setLayout(place);
    for (int i = 0; i < 3; ++i) {
        position_[i] =
            field(tr("position %1").arg("xyz"[i]), {-1e4, 1e4, 0.02, 2, false}, "", tr("%1 in metres.").arg("xyz"[i]),
                  [i](Light& l, double v) { l.position[i] = static_cast<float>(v); });
        place->addWidget(position_[i]);
    }
    add(tr("Position, m"), placeBox);
    column->addLayout(grid);
    reach_ = quiet_label({}, this);
    column->addWidget(reach_);
    curve_ = new FalloffCurve(document_, this);
    column->addWidget(curve_);
    column->addStretch();
    auto* buttons = new QHBoxLayout;
    buttons->setSpacing(4);
    auto* duplicate = new QPushButton(tr("Duplicate"), this);
    auto* remove = new QPushButton(tr("Delete"), this);
    auto* back = new QPushButton(tr("All lights"), this);
    duplicate->setToolTip(tr("A copy, half a metre beside it (Ctrl+D)."));
    remove->setToolTip(tr("Deletes the light; undo brings it back (Del)."));
    back->setToolTip(tr("Clears the selection of this light."));
    for (auto* b : {duplicate, remove, back})
        buttons->addWidget(b);
    column->addLayout(buttons);
    connect(duplicate, &QPushButton::clicked, this, &LightBench::duplicate_wanted);
    connect(remove, &QPushButton::clicked, this, &LightBench::delete_wanted);
    connect(back, &QPushButton::clicked, this, &LightBench::back_wanted);

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
    connect(&document_, &Document::changed, this, [this] { fill(); });
}

void LightBench::set_light(int id) {
    id_ = id;
    curve_->set_light(id);
    fill();
}

void LightBench::fill() {
    const Light* l = document_.light(id_);
    if (!l) return;
    const QSignalBlocker quiet(enabled_);
    if (!name_->hasFocus() || name_->property("light").toInt() != id_) name_->setText(QString::fromStdString(l->name));
    name_->setProperty("light", id_);
    enabled_->setChecked(l->enabled);
    type_->setCurrentText(word(l->type));
    const bool directional = l->type == LightType::directional, spot = l->type == LightType::spot,
               byKelvin = l->kelvin > 0;
    std::vector<IntensityUnit> units = {IntensityUnit::candela, IntensityUnit::lumen};
    if (directional) units = {IntensityUnit::lux};
    if (unit_->count() != static_cast<int>(units.size())) {
        unit_->clear();
        for (const IntensityUnit u : units)
            unit_->addItem(word(u), static_cast<int>(u));
    }
    unit_->setCurrentText(word(l->unit));
    intensity_->set_value(intensity_in(*l, l->unit));
    colorBy_->setCurrentIndex(byKelvin ? 0 : 1);
    kelvin_->set_value(l->kelvin);
    color_->set_color(l->color);
    for (QWidget* w : {static_cast<QWidget*>(kelvin_), static_cast<QWidget*>(kelvinLabel_)})
        w->setVisible(byKelvin);
    for (QWidget* w : {static_cast<QWidget*>(color_), static_cast<QWidget*>(colorLabel_)})
        w->setVisible(!byKelvin);
    range_->set_value(l->range);
    outer_->set_value(glm::degrees(l->outerConeAngle));
    inner_->set_value(glm::degrees(l->innerConeAngle));
    for (QWidget* w : {static_cast<QWidget*>(range_), static_cast<QWidget*>(rangeLabel_), static_cast<QWidget*>(curve_),
                       static_cast<QWidget*>(reach_)})
        w->setVisible(!directional);
    for (QWidget* w : {static_cast<QWidget*>(outer_), static_cast<QWidget*>(outerLabel_), static_cast<QWidget*>(inner_),
                       static_cast<QWidget*>(innerLabel_)})
        w->setVisible(spot);
    fadeInner_->set_value(l->fadeInner);
    fadeOuter_->set_value(l->fadeOuter);
    for (QWidget* w : {static_cast<QWidget*>(fadeLabel_), fadeInner_->parentWidget()})
        w->setVisible(!directional);
    for (int i = 0; i < 3; ++i)
        position_[i]->set_value(l->position[i]);
    const float reach = derived_range(*l, static_cast<float>(document_.project().setup.number("light.threshold")));
    int touched = 0;
    for (const Object& o : document_.asset()->objects)
        touched += reaches(*l, reach, o.bounds);
    reach_->setText(l->range > 0 ? tr("Touches %1 objects.").arg(touched)
                                 : tr("Unbounded: stays over the threshold up to %1 m and touches %2 objects.")
                                       .arg(QString::fromStdString(number_text(reach, 3)))
                                       .arg(touched));
    QString motion;
    for (const Motion& m : document_.project().motions)
        if (m.light == id_)
            motion = tr("Moves: %1, every %2 s").arg(word(m.kind), QString::fromStdString(number_text(m.period, 3)));
    motion_->setText(motion);
    motion_->setVisible(!motion.isEmpty());
}

} // namespace mirolux::app
