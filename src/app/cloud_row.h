#pragma once
#include "app/selection.h"
#include "app/thing_rows.h"
#include <QPointer>
#include <QWidget>

class QPushButton;

namespace mirolux::app {

/// Clouds of air of the project: which there are, and the numbers of the chosen one, whose handles are in the picture.
/// Shown where cells of air show them.
class CloudRow : public QWidget {
    Q_OBJECT
public:
    CloudRow(Document& document, Selection& selection, QWidget* parent = nullptr);

protected:
    void showEvent(QShowEvent*) override;
    void hideEvent(QHideEvent*) override;

private:
    void fill();
    int chosen() const; // AirVolume::id; -1: none
    void add_cloud(VolumeShape shape);
    void change(const QString& what, const std::function<void(AirVolume&)>& change);
    Document& document_;
    QPointer<Selection> selection_; // a window takes it down before its rows
    QListWidget* list_;
    QPushButton* delete_;
    BenchRows* rows_;
    std::unique_ptr<ThingNumbers<AirVolume>> numbers_;
    bool filling_ = false;
};

} // namespace mirolux::app
