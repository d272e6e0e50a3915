#pragma once
#include "app/document.h"
#include "core/blocks/world_edits.h"
#include <QWidget>

class QComboBox;

namespace mirolux::app {

class ChoiceRow;
class NumberField;

/// Of a Blocks stage: what a drag in the picture does: looks round, puts cells, takes them away, paints them; with
/// which material, how wide.
class BrushRow : public QWidget {
    Q_OBJECT
public:
    explicit BrushRow(Document& document, QWidget* parent = nullptr);
    /// None: a drag looks round.
    std::optional<blocks::Brush> brush() const;
    void choose(int tool); // 0: none; as the row has them

signals:
    void brush_changed();

private:
    void fill();
    Document& document_;
    ChoiceRow* tools_;
    QComboBox* materials_;
    NumberField* radius_;
    QWidget* more_;
    std::vector<blocks::Material> shown_;
};

} // namespace mirolux::app
