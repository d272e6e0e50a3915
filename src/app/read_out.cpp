#include "app/read_out.h"
#include "app/number_field.h"
#include <QAccessible>
#include <QAccessibleWidget>
#include <QKeyEvent>

namespace mirolux::app {

void read_out(QWidget* widget, const QString& words) {
    widget->setAccessibleDescription(words);
    widget->setToolTip(words);
    QAccessibleEvent told(widget, QAccessible::DescriptionChanged);
    QAccessible::updateAccessibility(&told);
}

int walked_to(const QKeyEvent& key, int at, int count, bool rows) {
    if (count <= 0) return -1;
    const int page = rows ? 10 : count / 10 + 1;
    switch (key.key()) {
    case Qt::Key_Home:
        return 0;
    case Qt::Key_End:
        return count - 1;
    case Qt::Key_PageUp:
        return std::max(0, at - page);
    case Qt::Key_PageDown:
        return std::min(count - 1, at + page);
    case Qt::Key_Up:
        return rows ? std::max(0, at - 1) : -1;
    case Qt::Key_Down:
        return rows ? std::min(count - 1, at + 1) : -1;
    case Qt::Key_Left:
        return rows ? -1 : std::max(0, at - 1);
    case Qt::Key_Right:
        return rows ? -1 : std::min(count - 1, at + 1);
    default:
        return -1;
    }
}

namespace {

/// A number field as those hear it who do not see it: a slider with a value and its words.
class AccessibleNumber : public QAccessibleWidget, public QAccessibleValueInterface {
public:
    explicit AccessibleNumber(NumberField* field) : QAccessibleWidget(field, QAccessible::Slider) {}
    void* interface_cast(QAccessible::InterfaceType type) override {
        return type == QAccessible::ValueInterface ? static_cast<QAccessibleValueInterface*>(this)
                                                   : QAccessibleWidget::interface_cast(type);
    }
    QString text(QAccessible::Text type) const override {
        return type == QAccessible::Value ? field()->text() : QAccessibleWidget::text(type);
    }
    QVariant currentValue() const override { return field()->value(); }
    void setCurrentValue(const QVariant& value) override { field()->put(value.toDouble()); }
    QVariant maximumValue() const override { return field()->range().high; }
    QVariant minimumValue() const override { return field()->range().low; }
    QVariant minimumStepSize() const override { return field()->range().step; }

private:
    NumberField* field() const { return static_cast<NumberField*>(widget()); }
};

QAccessibleInterface* make(const QString&, QObject* object) {
    auto* field = qobject_cast<NumberField*>(object);
    return field ? new AccessibleNumber(field) : nullptr;
}

} // namespace

void tell_number_fields() {
    static const bool once = [] {
        QAccessible::installFactory(make);
        return true;
    }();
    (void)once;
}

} // namespace mirolux::app
