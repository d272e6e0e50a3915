#pragma once
#include "app/ledger_cut.h"
#include "app/pass_tape.h"
#include "app/plots/region_cut.h"
#include "app/plots/walk_cut.h"

class QButtonGroup;
class QStackedWidget;

namespace mirolux::app {

/// One frame's cost, cut by pass, by light, by region or over the walk.
class CostDeck : public QWidget {
    Q_OBJECT
public:
    enum class Cut { pass, light, region, walk };
    CostDeck(Document& document, const FrameHistory& history, QWidget* parent = nullptr);
    void set_cut(Cut cut);
    Cut cut() const { return cut_; }
    /// Only the tape, as a thin band: for a picture that takes the window.
    void set_band(bool on);
    bool band() const { return band_; }

    PassTape& tape() { return *tape_; }
    LedgerCut& ledger() { return *ledger_; }
    RegionCut& region() { return *region_; }
    WalkCut& walk() { return *walk_; }
    QSize sizeHint() const override { return {900, 190}; }

signals:
    void cut_changed(Cut cut);

protected:
    void paintEvent(QPaintEvent*) override;

private:
    PassTape* tape_;
    LedgerCut* ledger_;
    RegionCut* region_;
    WalkCut* walk_;
    QStackedWidget* pages_;
    QButtonGroup* buttons_;
    QWidget* head_;
    Cut cut_ = Cut::pass, before_ = Cut::pass; // before_: the band
    bool band_ = false;
};

} // namespace mirolux::app
