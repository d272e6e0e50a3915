#pragma once
#include "app/choice_row.h"
#include "core/shadow/spot_trial.h"
#include <QLabel>
#include <QPushButton>
#include <QWidget>
#include <memory>

namespace mirolux::app {

/// All directions around a light, flattened with their areas kept: those that it uses, and the cones of spots over
/// them.
class DirectionsFigure : public QWidget {
    Q_OBJECT
public:
    explicit DirectionsFigure(QWidget* parent = nullptr);
    void show_trial(const SpotTrial* trial); // null: nothing
    QSize sizeHint() const override { return {260, 120}; }

protected:
    void paintEvent(QPaintEvent*) override;

private:
    std::vector<glm::dvec3> used_;
    std::vector<SpotCone> cones_;
};

/// What if a point light were two, three or four spots: tried beside the window, kept or left.
class SpotTrialRow : public QWidget {
    Q_OBJECT
public:
    using Trials = std::shared_ptr<const std::vector<SpotTrial>>;
    explicit SpotTrialRow(QWidget* parent = nullptr);
    void show_progress(const QString& what, double share);
    void show_trials(Trials trials);
    void show_trouble(const QString& words);
    void show_rest();
    /// The light, the setup, the scene or the view is another one now.
    void set_stale();

signals:
    void trial_wanted();
    void stop_wanted();
    void keep_wanted(const mirolux::SpotTrial& trial);

private:
    void choose(int index);
    void clear(const QString& words);
    QPushButton *try_, *keep_;
    ChoiceRow* choices_;
    DirectionsFigure* figure_;
    QLabel* facts_;
    Trials trials_;
    int chosen_ = 0;
    bool running_ = false;
};

} // namespace mirolux::app
