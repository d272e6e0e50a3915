#pragma once
#include "app/plots/plot.h"

namespace mirolux::app {

/// How much of the light patches have left to send on, by shot: the scale of shares is one of ratios.
class PatchPlot : public Plot {
    Q_OBJECT
public:
    explicit PatchPlot(QWidget* parent = nullptr);
    void clear();
    /// One more; rest: where it is over, 0 to 1.
    void add(std::size_t shots, double unshot, double rest);
    std::size_t points() const { return shots_.size(); }
    QSize sizeHint() const override { return {260, 150}; }
    QSize minimumSizeHint() const override { return {160, 150}; }

protected:
    void paint_over(QPainter& p) override;
    QString empty_words() const override;

private:
    std::vector<std::pair<double, double>> shots_; // number, per cent
    double rest_ = 1;                              // per cent
};

} // namespace mirolux::app
