#include "app/brush_row.h"
#include "app/choice_row.h"
#include "app/number_field.h"
#include "core/image/image.h"
#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QVBoxLayout>

namespace mirolux::app {

BrushRow::BrushRow(Document& document, QWidget* parent)
    : QWidget(parent), document_(document), tools_(new ChoiceRow({tr("look"), tr("add"), tr("remove"), tr("paint")})),
      materials_(new QComboBox), radius_(new NumberField({0, 12, 0.02, 0, false}, tr("cells"))), more_(new QWidget) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    column->addWidget(new QLabel(tr("A drag in the picture")));
    tools_->setObjectName("brush tool");
    tools_->setAccessibleName(tr("A drag in the picture"));
    tools_->setToolTip(tr("look: turns the view; add: puts cells before what it meets; remove: takes them away; paint: "
                          "changes their material. A whole drag is one step to undo; light follows at once."));
    tools_->set_current(0);
    column->addWidget(tools_);
    auto* row = new QHBoxLayout(more_);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(6);
    materials_->setObjectName("brush material");
    materials_->setToolTip(tr("The material that is put or painted; those that shine are lamps."));
    row->addWidget(materials_, 1);
    radius_->setObjectName("brush radius");
    radius_->setFixedWidth(84);
    radius_->setToolTip(tr("Cells around the middle one; 0: one cell."));
    radius_->set_value(0);
    row->addWidget(radius_);
    column->addWidget(more_);
    more_->hide();
    connect(tools_, &ChoiceRow::chosen, this, [this](int i) { choose(i); });
    connect(materials_, &QComboBox::activated, this, [this] { emit brush_changed(); });
    connect(radius_, &NumberField::edited, this, [this] { emit brush_changed(); });
    connect(&document_, &Document::changed, this, &BrushRow::fill);
    fill();
}

void BrushRow::fill() {
    setVisible(document_.is_open() && document_.is_blocks());
    if (!document_.is_blocks() || document_.project().blocks->palette == shown_) return;
    shown_ = document_.project().blocks->palette;
    materials_->clear();
    for (std::size_t i = 1; i < shown_.size(); ++i) {
        QPixmap swatch(14, 14);
        const glm::vec3& c = shown_[i].color;
        swatch.fill(QColor::fromRgbF(static_cast<float>(srgb_encode(c.r)), static_cast<float>(srgb_encode(c.g)),
                                     static_cast<float>(srgb_encode(c.b))));
        materials_->addItem(swatch,
                            QString::fromStdString(shown_[i].name) + (shown_[i].shines() ? tr(", a lamp") : QString()));
    }
}

void BrushRow::choose(int tool) {
    tools_->set_current(tool);
    more_->setVisible(tool > 0);
    materials_->setEnabled(tool != 2);
    emit brush_changed();
}

std::optional<blocks::Brush> BrushRow::brush() const {
    if (tools_->current() <= 0 || !document_.is_blocks()) return std::nullopt;
    return blocks::Brush{static_cast<blocks::Brush::Tool>(tools_->current() - 1),
                         static_cast<std::uint8_t>(std::max(0, materials_->currentIndex()) + 1),
                         static_cast<int>(radius_->value())};
}

} // namespace mirolux::app
