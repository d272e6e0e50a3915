#pragma once
#include "app/figures/air_figure.h"
#include <QPushButton>

class QLabel;

namespace mirolux::app {

/// The air's figure, where sight ends in it, and beams beside lit air.
class AirRow : public QWidget {
    Q_OBJECT
public:
    AirRow(Document& document, const RenderBridge& bridge, QWidget* parent = nullptr);
    AirFigure& figure() const { return *figure_; }

signals:
    void against_wanted(const mirolux::Setup& b);

protected:
    void showEvent(QShowEvent*) override;
    bool eventFilter(QObject* watched, QEvent* e) override;

private:
    void fill();
    void take(const std::optional<Setup>& setup, const QString& label);
    Document& document_;
    AirFigure* figure_;
    QLabel* facts_;
    QPushButton *shadows_, *fades_, *against_;
    std::optional<Setup> toShadows_, toFades_;
};

/// The same air in another way of showing its lamps, to hold beside: beams of mesh against cells, cells against none.
std::optional<Setup> other_air(const Setup& setup);

} // namespace mirolux::app
