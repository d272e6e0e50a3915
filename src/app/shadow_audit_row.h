#pragma once
#include "app/number_field.h"
#include "app/plots/bias_plot.h"
#include "core/shadow/shadow_session.h"
#include <QLabel>
#include <QPushButton>

namespace mirolux::app {

/// Shadows held against rays: what is missed, what is false, where; and the least bias that keeps false under a bound.
class ShadowAuditRow : public QWidget {
    Q_OBJECT
public:
    explicit ShadowAuditRow(QWidget* parent = nullptr);
    void show_progress(const QString& what, double share);
    void show_report(std::shared_ptr<const ShadowReport> report);
    void show_solution(std::shared_ptr<const BiasSolution> solution, double bound);
    void show_trouble(const QString& words);
    void show_rest();
    /// The setup, the scene or the view is another one now.
    void set_stale();
    void set_possible(bool on);
    double bound() const { return bound_->value() / 100; } // share of pairs that may be false

signals:
    void audit_wanted();
    void search_wanted();
    void stop_wanted();
    void take_wanted(const mirolux::BiasSet& set);
    void marks_wanted(bool on);

private:
    QPushButton *audit_, *search_, *take_, *marks_;
    NumberField* bound_;
    QLabel *facts_, *offer_;
    BiasPlot* plot_;
    bool running_ = false, possible_ = false;
    QString facts();
    std::shared_ptr<const ShadowReport> report_;
};

} // namespace mirolux::app
