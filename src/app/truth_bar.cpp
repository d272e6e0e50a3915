#include "app/truth_bar.h"
#include "app/choice_row.h"
#include "app/number_field.h"
#include "app/theme.h"
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>

namespace mirolux::app {

#define TEXT(words) QT_TRANSLATE_NOOP("mirolux::app::TruthBar", words)

/// How a layer is called in the row, a lobe as a part of what stands before it, and what it is held against.
static constexpr struct {
    truth::Layer layer;
    const char *name, *help;
} entries[] = {
    {truth::Layer::final, TEXT("final"), TEXT("All light, beside the final picture.")},
    {truth::Layer::direct, TEXT("direct"),
     TEXT("Light that comes straight from lamps, beside the frame's direct light.")},
    {truth::Layer::diffuse, TEXT("\u2013 diffuse"),
     TEXT("Light straight from lamps by the diffuse lobe, beside the frame's.")},
    {truth::Layer::specular, TEXT("\u2013 specular"),
     TEXT("Light straight from lamps by the specular lobe, beside the frame's.")},
    {truth::Layer::indirect, TEXT("indirect"),
     TEXT("What surfaces reflect of everything but lamps, beside the frame's ambient light.")},
    {truth::Layer::indirectDiffuse, TEXT("\u2013 diffuse"),
     TEXT("Indirect light by the diffuse lobe, beside the frame's where surroundings light it and are mirrored.")},
    {truth::Layer::indirectSpecular, TEXT("\u2013 specular"),
     TEXT("Indirect light by the specular lobe, beside what the frame mirrors of its surroundings.")},
    {truth::Layer::scattering, TEXT("air"),
     TEXT("What the air sends to the eye of lamps' light, beside the frame's air light.")},
    {truth::Layer::visibility, TEXT("visibility"), TEXT("How much of the selected light's source each surface sees.")},
    {truth::Layer::occlusion, TEXT("occlusion"),
     TEXT("How much of the hemisphere is open within the radius, by the cosine.")},
    {truth::Layer::mirror, TEXT("mirror"),
     TEXT("How far a mirror in each surface's place looks: bright near, black nothing.")},
};
#undef TEXT

TruthBar::TruthBar(QWidget* parent) : QWidget(parent) {
    setAutoFillBackground(true);
    setFixedHeight(56);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 2, 8, 5);
    column->setSpacing(0);
    QStringList words;
    for (const auto& e : entries)
        words << tr(e.name);
    layers_ = new ChoiceRow(words, this);
    layers_->setObjectName("truth layer");
    const auto explain = [this](int i) { layers_->setToolTip(i < 0 ? QString() : tr(entries[i].help)); };
    connect(layers_, &ChoiceRow::hovered, this, explain);
    connect(layers_, &ChoiceRow::chosen, this, [this](int i) { emit chosen(entries[i].layer); });
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
    const auto* at =
        std::find_if(std::begin(entries), std::end(entries), [&](const auto& e) { return e.layer == layer; });
    layers_->set_current(at == std::end(entries) ? -1 : static_cast<int>(at - std::begin(entries)));
    radius_->setVisible(layer == truth::Layer::occlusion && !follows_);
    radiusLabel_->setVisible(layer == truth::Layer::occlusion);
}

void TruthBar::set_stage(Stage stage) {
    QStringList words;
    for (const auto& e : entries)
        if (stage == Stage::solid || words.isEmpty()) words << tr(e.name);
    if (words != layers_->words()) layers_->set_words(words);
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

void TruthBar::follow_radius(std::optional<double> metres) {
    follows_ = metres.has_value();
    radiusLabel_->setText(metres ? tr("within %1 m").arg(*metres) : tr("radius"));
    if (follows_) radius_->hide();
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
