#pragma once
#include "app/document.h"
#include "app/selection.h"
#include <QWidget>

class QLabel;

namespace mirolux::app {

class BenchRows;
class NumberField;

/// Several lights at once: each number is a percentage of what it is now, for all of them; a drag ends with the field
/// back at 100 %.
class SeveralLights : public QWidget {
    Q_OBJECT
public:
    SeveralLights(Document& document, Selection& selection, QWidget* parent = nullptr);

signals:
    void isolate_wanted();
    void delete_wanted();
    void off_here_wanted();

private:
    /// A number of a light under a factor.
    using Change = std::function<void(Light& light, const Light& start, double factor)>;
    void add_field(const QString& label, const QString& name, const QString& help, const Change& change,
                   const std::function<bool(const Light&)>& when, bool another); // another: of the same row follows
    void fill();
    void apply(const QString& name, const Change& change, double percent);

    Document& document_;
    Selection& selection_;
    BenchRows* rows_;
    QLabel* head_;
    std::vector<QWidget*> row_; // under way
    std::vector<Light> starts_; // of the drag under way
};

} // namespace mirolux::app
