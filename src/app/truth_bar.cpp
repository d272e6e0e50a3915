#include "app/truth_bar.h"
#include "app/choice_row.h"
#include "app/number_field.h"
#include "app/theme.h"
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>

namespace mirolux::app {

static QString name_of(truth::Layer layer) {
    switch (layer) {
    case truth::Layer::diffuse:
    case truth::Layer::indirectDiffuse: // each a part of what stands before it
        return TruthBar::tr("\u2013 diffuse");
    case truth::Layer::specular:
    case truth::Layer::indirectSpecular:
        return TruthBar::tr("\u2013 specular");
    case truth::Layer::scattering:
        return TruthBar::tr("air");
    default:
        return QString::fromLatin1(truth::word(layer));
    }
}

static QString help_of(truth::Layer layer) {
    switch (layer) {
    case truth::Layer::final:
        return TruthBar::tr("All light, beside the final picture.");
    case truth::Layer::direct:
        return TruthBar::tr("Light that comes straight from lamps, beside the frame's direct light.");
    case truth::Layer::diffuse:
    case truth::Layer::specular:
        return TruthBar::tr("Light straight from lamps by one lobe, beside the frame's.");
    case truth::Layer::indirect:
        return TruthBar::tr("What surfaces reflect of everything but lamps, beside the frame's ambient light.");
    case truth::Layer::indirectDiffuse:
    case truth::Layer::indirectSpecular:
        return TruthBar::tr("Indirect light by one lobe; the frame has no such layer to hold beside it.");
    case truth::Layer::scattering:
        return TruthBar::tr("What the air sends to the eye of lamps' light, beside the frame's air light.");
    case truth::Layer::visibility:
        return TruthBar::tr("How much of the selected light's source each surface sees.");
    case truth::Layer::occlusion:
        return TruthBar::tr("How much of the hemisphere is open within the radius, by the cosine.");
    case truth::Layer::mirror:
        return TruthBar::tr("How far a mirror in each surface's place looks: bright near, black nothing.");
    }
    return {};
}

TruthBar::TruthBar(QWidget* parent) : QWidget(parent) {
    setAutoFillBackground(true);
    setFixedHeight(56);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 2, 8, 5);
    column->setSpacing(0);
    QStringList words;
    for (const truth::Layer l : truth::all_layers())
        words << name_of(l);
    layers_ = new ChoiceRow(words, this);
    layers_->setObjectName("truth layer");
    const auto explain = [this](int i) {
        layers_->setToolTip(i < 0 ? QString() : help_of(truth::all_layers()[static_cast<std::size_t>(i)]));
    };
    connect(layers_, &ChoiceRow::hovered, this, explain);
    connect(layers_, &ChoiceRow::chosen, this,
            [this](int i) { emit chosen(truth::all_layers()[static_cast<std::size_t>(i)]); });
    auto* first = new QHBoxLayout;
    first->addWidget(layers_);
    first->addStretch(1);
    column->addLayout(first);
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    label_ = new QLabel;
    label_->setMinimumWidth(60);
    row->addWidget(label_, 1);
    radiusLabel_ = new QLabel(tr("radius"));
    row->addWidget(radiusLabel_);
    radius_ = new NumberField({0.01, 100, 0.02, 2, true}, "m", this);
    radius_->setObjectName("truth radius");
    radius_->setFixedWidth(80);
    radius_->setToolTip(tr("What is farther away closes nothing."));
    radius_->set_value(1);
    radius_->set_default(1);
    connect(radius_, &NumberField::edited, this, &TruthBar::radius_changed);
    row->addWidget(radius_);
    stop_ = new QPushButton;
    stop_->setObjectName("stop truth");
    row->addWidget(stop_);
    connect(stop_, &QPushButton::clicked, this, [this] { emit stop_wanted(!stopped_); });
    column->addLayout(row);
    set_layer(truth::Layer::final);
    set_stopped(false);
}

void TruthBar::set_layer(std::optional<truth::Layer> layer) {
    const auto all = truth::all_layers();
    layers_->set_current(layer ? static_cast<int>(std::find(all.begin(), all.end(), *layer) - all.begin()) : -1);
    radius_->setVisible(layer == truth::Layer::occlusion);
    radiusLabel_->setVisible(layer == truth::Layer::occlusion);
}

void TruthBar::set_progress(const QString& words, double share) {
    words_ = words;
    share_ = share;
    show_words();
    update();
}

void TruthBar::set_stopped(bool on) {
    stopped_ = on;
    stop_->setText(on ? tr("Go on") : tr("Stop"));
    stop_->setToolTip(on ? tr("Traces on from here (Shift+U).")
                         : tr("Stops tracing and keeps what there is; the machine is free (Shift+U)."));
    show_words();
}

double TruthBar::radius() const {
    return radius_->value();
}

void TruthBar::show_words() {
    label_->setText(label_->fontMetrics().elidedText(stopped_ ? tr("stopped; %1").arg(words_) : words_, Qt::ElideRight,
                                                     std::max(60, label_->width())));
    label_->setToolTip(words_);
}

void TruthBar::resizeEvent(QResizeEvent*) {
    show_words();
}

/// A hairline of how far it is, under everything.
void TruthBar::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& t = theme();
    p.fillRect(rect(), t.panel);
    const QRectF line(8, height() - 3, width() - 16, 2);
    p.fillRect(line, t.line);
    p.fillRect(QRectF(line.topLeft(), QSizeF(line.width() * std::clamp(share_, 0.0, 1.0), 2)), t.text);
}

} // namespace mirolux::app
