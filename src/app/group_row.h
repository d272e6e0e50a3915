#pragma once
#include "app/document.h"
#include "app/selection.h"
#include <QWidget>

class QComboBox;
class QPushButton;

namespace mirolux::app {

/// Groups of the project: choosing one selects it, its name can be typed over; the present selection can be kept as
/// one.
class GroupRow : public QWidget {
    Q_OBJECT
public:
    GroupRow(Document& document, Selection& selection, QWidget* parent = nullptr);

protected:
    void showEvent(QShowEvent*) override;

private:
    void fill();
    void select(int group);
    Document& document_;
    Selection& selection_;
    QComboBox* groups_;
    QPushButton *keep_, *remove_;
    int chosen_ = -1;
};

} // namespace mirolux::app
