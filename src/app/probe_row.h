#pragma once
#include "app/selection.h"
#include "app/thing_rows.h"
#include <QPointer>
#include <QWidget>

class QLabel;
class QPushButton;

namespace mirolux::app {

class ChoiceRow;

/// Probes of the project: which there are, and the numbers of the chosen one, whose handles are in the picture. Shown
/// where probes give light.
class ProbeRow : public QWidget {
    Q_OBJECT
public:
    ProbeRow(Document& document, Selection& selection, QWidget* parent = nullptr);
    /// What a capture takes on this device, milliseconds; none: not measured yet.
    void set_cost(std::optional<double> ms);
    /// While captures are under way.
    void set_capturing(bool on);
    int chosen() const; // Probe::id; -1: none
    QString words() const;

signals:
    void capture_wanted(const std::vector<int>& ids);
    void shown();

protected:
    void showEvent(QShowEvent*) override;
    void hideEvent(QHideEvent*) override;

private:
    void fill();
    void show_state(const Probe* probe);
    void place();
    void change(const QString& what, const std::function<void(Probe&)>& change);
    Document& document_;
    QPointer<Selection> selection_; // a window takes it down before its rows
    QListWidget* list_;
    QPushButton *fit_, *delete_, *capture_, *captureAll_;
    QLabel* state_;
    BenchRows* rows_;
    ChoiceRow* recapture_;
    std::unique_ptr<ThingNumbers<Probe>> numbers_;
    std::optional<double> cost_;
    bool filling_ = false, capturing_ = false;
};

} // namespace mirolux::app
