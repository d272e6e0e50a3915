#pragma once
#include "app/plots/plot.h"
#include "core/shadow/bias_solver.h"

namespace mirolux::app {

/// What each tried set of biases shadows falsely against what it misses, both in percent: a dot for each, a line
/// through those that no other betters, a ring around the present set, a square around the one that is offered.
class BiasPlot : public Plot {
    Q_OBJECT
public:
    explicit BiasPlot(QWidget* parent = nullptr);
    void show_solution(std::shared_ptr<const BiasSolution> solution, double bound);
    const BiasSolution* solution() const { return solution_.get(); }
    /// Where a set lies in the widget.
    QPointF place_of(const BiasPoint& point) const;
    QSize sizeHint() const override { return {260, 190}; }
    QSize minimumSizeHint() const override { return {160, 190}; }

protected:
    void restyle() override;
    void paint_over(QPainter& p) override;
    QString empty_words() const override;
    bool event(QEvent*) override;

private:
    std::shared_ptr<const BiasSolution> solution_;
    double bound_ = 0;
    QCPGraph *tried_ = nullptr, *front_ = nullptr;
};

/// "bias 0.02 m, by slope 1, normal offset 0.5: missed 0.3 %, false 0.1 %".
QString words_of(const BiasPoint& point);

} // namespace mirolux::app
