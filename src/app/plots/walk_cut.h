#pragma once
#include "app/document.h"
#include "app/plots/plot.h"
#include "core/cost/walk.h"

class QComboBox;
class QLabel;
class QPushButton;

namespace mirolux::app {

/// The cut over the walk: cost along a camera path, stacked by pass, against the budget. A click goes to the place.
class WalkCut : public Plot {
    Q_OBJECT
public:
    WalkCut(Document& document, QWidget* parent = nullptr);
    /// One or two measurements of the same places: A, and B as a line over it.
    void show_walk(const std::vector<WalkMeasurement>& measured);
    void show_progress(int done, int all); // all 0: at rest
    void set_stale();
    /// What was changed since the walk before, and what that gained, in words; empty: nothing to tell.
    void set_step(const QString& words);
    const QString& step() const { return step_; }
    QWidget* controls() { return controls_; }
    int chosen_walk() const;
    double every_metres() const;
    int headings() const; // directions to look in at each place; 0: along the walk
    QComboBox& looking() { return *look_; }
    const std::vector<WalkMeasurement>& measured() const { return measured_; }
    /// Where a point lies in the widget.
    QPointF place_of(std::size_t point) const;

signals:
    void measure_wanted();
    void stop_wanted();
    void play_wanted();
    void place_picked(const Camera& camera, double seconds);

protected:
    void restyle() override;
    void paint_over(QPainter& p) override;
    QString empty_words() const override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

private:
    double scale_ms() const;
    int point_at(const QPointF& at) const;
    QString words_of(int point) const;
    void go_to(int point);
    void draw_costs();
    void draw_over_budget();
    void paint_exposure(QPainter& p) const;
    void paint_numbers(QPainter& p) const;
    void fill();
    Document& document_;
    std::vector<WalkMeasurement> measured_;
    QList<QCPGraph*> passes_;
    QCPGraph *budget_ = nullptr, *tooMuch_, *b_, *underB_;
    int hovered_ = -1;
    QString step_;
    bool stale_ = false, running_ = false;
    QWidget* controls_;
    QComboBox *walks_, *every_, *look_;
    int shownHeadings_ = 0; // of what is shown
    QPushButton *measure_, *play_;
    QLabel* progress_;
};

} // namespace mirolux::app
