#pragma once
#include "app/number_field.h"
#include "app/render_bridge.h"
#include <QWidget>

class QLabel;
class QToolButton;
class QHBoxLayout;

namespace mirolux::app {

class ChoiceRow;

/// Over the picture while a target stands in its place: what it is, and which of its numbers are shown how.
class TargetBar : public QWidget {
    Q_OBJECT
public:
    explicit TargetBar(QWidget* parent = nullptr);
    /// read: of this plan's resource.
    void show_target(const TargetRead& read, const PlannedResource& resource);
    /// The range that the values were shown in; fills the fields while it follows them.
    void show_range(ValueRange range);

signals:
    void read_changed(const TargetRead& read);
    void look_changed(const TargetLook& look);
    void closed();

private:
    ChoiceRow* add_choice(const QStringList& words, int current, const QString& help);
    void tell_look();
    TargetRead read_;
    TargetLook look_;
    QLabel* name_;
    QHBoxLayout* choices_;
    NumberField *low_, *high_;
    QToolButton* own_;
};

} // namespace mirolux::app
