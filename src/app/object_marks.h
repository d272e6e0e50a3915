#pragma once
#include "app/document.h"
#include "app/selection.h"
#include <QWidget>

namespace mirolux::app {

class BenchRows;
class ChoiceRow;

/// How the selected objects are marked: rows of choices for whether they cast, stand still and take shadows, and how
/// finely they lie in what is baked.
class ObjectMarks : public QObject {
public:
    using Mark = std::function<void(ObjectEdit&)>;
    /// Adds its rows. change: an edit of all that is selected.
    ObjectMarks(Document& document, Selection& selection, BenchRows& rows,
                std::function<void(const QString& label, const Mark& mark)> change, QWidget* parent);
    /// What is selected as it stands: a choice is lit where all have it.
    void fill();
    /// What of these marks an edit changes, in words.
    static QStringList words_of(const ObjectEdit& edit);

private:
    struct Row {
        ChoiceRow* choices;
        std::function<int(const ObjectEdit&)> of; // which choice an edit has; -1: none of them
    };
    Document& document_;
    Selection& selection_;
    std::vector<Row> marks_;
};

} // namespace mirolux::app
