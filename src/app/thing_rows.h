#pragma once
#include "app/bench_rows.h"
#include "app/document.h"
#include "app/number_field.h"
#include <QCoreApplication>
#include <QListWidget>
#include <span>
#include <utility>

// Benches of things that a project has several of (clouds of air, probes): which there are, and one's numbers.
namespace mirolux::app {

/// A number of a thing; numbers of one label in a row stand side by side. Texts: marked for translation, of `context`.
template <class T>
struct ThingNumber {
    const char *label, *name, *unit;
    NumberField::Range range;
    const char* help;
    double (*get)(const T&);
    void (*put)(T&, double);
};

/// A component of a vector of a thing, as a number's get and put.
template <class T, glm::vec3 T::*member, int axis>
double component(const T& thing) {
    return (thing.*member)[axis];
}
template <class T, glm::vec3 T::*member, int axis>
void put_component(T& thing, double x) {
    (thing.*member)[axis] = static_cast<float>(x);
}

/// Fields for a thing's numbers in the rows of a bench.
template <class T>
class ThingNumbers {
public:
    using Change = std::function<void(const QString& what, const std::function<void(T&)>&)>;
    ThingNumbers(BenchRows* rows, std::span<const ThingNumber<T>> numbers, const char* context, Document& document,
                 const Change& change) {
        const auto text = [context](const char* words) { return QCoreApplication::translate(context, words); };
        std::vector<QWidget*> row;
        QString label;
        const auto end_row = [&] {
            if (!row.empty()) rows->add(label, row);
            row.clear();
        };
        for (const ThingNumber<T>& n : numbers) {
            if (text(n.label) != label) end_row();
            label = text(n.label);
            auto* field = new NumberField(n.range, n.unit, rows);
            field->setObjectName(n.name);
            field->setToolTip(text(n.help));
            QObject::connect(field, &NumberField::edited, rows, [change, &n, what = text(n.name)](double v) {
                change(what, [&](T& thing) { n.put(thing, v); });
            });
            QObject::connect(field, &NumberField::scrubbing, &document, &Document::set_interactive);
            fields_.emplace_back(field, n.get);
            row.push_back(field);
        }
        end_row();
    }
    void show(const T& thing) {
        for (const auto& [field, get] : fields_)
            field->set_value(get(thing));
    }

private:
    std::vector<std::pair<NumberField*, double (*)(const T&)>> fields_;
};

/// The list shows these things: name, a tick for `enabled`, the id as user data. Chooses the first if none was.
template <class T>
void show_things(QListWidget* list, const std::vector<T>& things) {
    const int count = static_cast<int>(things.size());
    while (list->count() > count)
        delete list->takeItem(list->count() - 1);
    while (list->count() < count)
        list->addItem(new QListWidgetItem);
    for (int i = 0; i < count; ++i) {
        const T& thing = things[static_cast<std::size_t>(i)];
        QListWidgetItem* item = list->item(i);
        item->setText(QString::fromStdString(thing.name));
        item->setData(Qt::UserRole, thing.id);
        item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
        item->setCheckState(thing.enabled ? Qt::Checked : Qt::Unchecked);
    }
    if (list->currentRow() < 0 && count > 0) list->setCurrentRow(0);
}
/// The chosen thing's id; -1: none.
inline int chosen_thing(const QListWidget* list) {
    const QListWidgetItem* item = list->currentItem();
    return item ? item->data(Qt::UserRole).toInt() : -1;
}
/// An id that none of them has.
template <class T>
int free_id(const std::vector<T>& things) {
    int id = -1;
    for (const T& t : things)
        id = std::max(id, t.id);
    return id + 1;
}

} // namespace mirolux::app
