#include "app/target_bar.h"
#include "app/choice_row.h"
#include "app/theme.h"
#include "core/base/text.h"
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QToolButton>

namespace mirolux::app {

TargetBar::TargetBar(QWidget* parent) : QWidget(parent), name_(new QLabel), choices_(new QHBoxLayout) {
    setFixedHeight(34);
    setAutoFillBackground(true);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(8, 3, 6, 3);
    row->setSpacing(8);
    row->addWidget(name_, 1);
    name_->setMinimumWidth(60);
    choices_->setSpacing(8);
    row->addLayout(choices_);
    const NumberField::Range any{-1e9, 1e9, 0.01, 3, false};
    low_ = new NumberField(any, "", this);
    high_ = new NumberField(any, "", this);
    low_->setToolTip(tr("The value that shows black."));
    high_->setToolTip(tr("The value that shows white."));
    for (NumberField* field : {low_, high_}) {
        field->setFixedWidth(70);
        row->addWidget(field);
        connect(field, &NumberField::edited, this, [this] {
            if (high_->value() <= low_->value()) return; // until both are meant
            look_.range = ValueRange{static_cast<float>(low_->value()), static_cast<float>(high_->value())};
            tell_look();
        });
    }
    low_->setObjectName("low");
    high_->setObjectName("high");
    own_ = new QToolButton;
    own_->setText(tr("Own range"));
    own_->setObjectName("own range");
    own_->setCheckable(true);
    own_->setToolTip(tr("From black to white what is in the target, without half a percent at each end."));
    row->addWidget(own_);
    connect(own_, &QToolButton::clicked, this, [this] {
        look_.range.reset();
        tell_look();
    });
    auto* close = new QToolButton;
    close->setText(tr("Picture"));
    close->setObjectName("framed");
    close->setToolTip(tr("The final picture again."));
    row->addWidget(close);
    connect(close, &QToolButton::clicked, this, &TargetBar::closed);
}

ChoiceRow* TargetBar::add_choice(const QStringList& words, int current, const QString& help) {
    auto* choice = new ChoiceRow(words, this);
    choice->set_current(current);
    choice->setToolTip(help);
    choices_->addWidget(choice);
    return choice;
}

void TargetBar::tell_look() {
    own_->setChecked(!look_.range);
    emit look_changed(look_);
}

void TargetBar::show_target(const TargetRead& read, const PlannedResource& r) {
    const bool other = read.target != read_.target;
    read_ = read;
    while (QLayoutItem* item = choices_->takeAt(0)) {
        item->widget()->deleteLater();
        delete item;
    }
    const Format format = r.spec.format;
    QString text = "<b>" + QString::fromStdString(read.target).toHtmlEscaped() + "</b>";
    if (!read.after.empty()) text += tr(" after %1").arg(QString::fromStdString(read.after));
    name_->setText(text);
    name_->setToolTip(QString::fromStdString(info_of(format).word) +
                      (r.spec.entries > 0 ? tr(", rows of 1,024 words") : tr(", %1 x %2").arg(r.width).arg(r.height)));
    if (other) {
        look_ = {};
        look_.encode = format == Format::rgba16f || format == Format::rgba32f || format == Format::rgb16f ||
                       format == Format::rgb9e5 || format == Format::bc6h;
        if (format == Format::rgba8) look_.range = ValueRange{};
    }
    const bool onlyRead = format == Format::rgb16f || format == Format::rgb9e5 || format == Format::bc6h;
    const int channels = format == Format::rgba8 || format == Format::rgba16f || format == Format::rgba32f || onlyRead
                             ? 4
                         : format == Format::rg8 || format == Format::rg16 || format == Format::rg32f ? 2
                                                                                                      : 1;
    if (channels > 1) {
        const QStringList words =
            QStringList{tr("all"), tr("red"), tr("green"), tr("blue"), tr("alpha")}.mid(0, channels + 1);
        ChoiceRow* row =
            add_choice(words, static_cast<int>(look_.channel), tr("Which of a texel's numbers are shown."));
        row->setObjectName("channels");
        connect(row, &ChoiceRow::chosen, this, [this](int index) {
            look_.channel = static_cast<Channel>(index);
            tell_look();
        });
    }
    const auto reads = [this](ChoiceRow* row, const auto& put) {
        connect(row, &ChoiceRow::chosen, this, [this, put](int index) {
            TargetRead changed = read_;
            put(changed, index);
            emit read_changed(changed);
        });
    };
    if (format == Format::depth32fStencil8)
        reads(add_choice({tr("depth"), tr("marks")}, read.stencil, tr("Depth in metres, or the stencil's marks.")),
              [](TargetRead& t, int i) { t.stencil = i == 1; });
    if (r.spec.cubes > 0) {
        QStringList cubes;
        for (int i = 0; i < r.spec.cubes; ++i)
            cubes << tr("cube %1").arg(i + 1);
        if (r.spec.cubes > 1)
            reads(add_choice(cubes, read.layer / 6, tr("Which cube.")),
                  [](TargetRead& t, int i) { t.layer = 6 * i + t.layer % 6; });
        reads(add_choice({"+x", "\u2212x", "+y", "\u2212y", "+z", "\u2212z"}, read.layer % 6, tr("Which face.")),
              [](TargetRead& t, int i) { t.layer = t.layer - t.layer % 6 + i; });
    } else if (r.layers > 1)
        reads(add_choice({tr("left"), tr("right")}, read.layer, tr("Which eye's layer.")),
              [](TargetRead& t, int i) { t.layer = i; });
    if (r.spec.mips > 1) {
        QStringList levels;
        for (int i = 0; i < r.spec.mips; ++i)
            levels << tr("mip %1").arg(i);
        reads(add_choice(levels, read.mip, tr("Which level.")), [](TargetRead& t, int i) { t.mip = i; });
    }
    tell_look();
}

void TargetBar::show_range(ValueRange range) {
    if (low_->hasFocus() || high_->hasFocus()) return;
    low_->set_value(range.low);
    high_->set_value(range.high);
}

} // namespace mirolux::app
