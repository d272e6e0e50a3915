#include "app/cost_deck.h"
#include "app/theme.h"
#include <QButtonGroup>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QStackedWidget>
#include <QToolButton>

namespace mirolux::app {

CostDeck::CostDeck(Document& document, const FrameHistory& history, QWidget* parent) : QWidget(parent) {
    setAccessibleName(tr("Cost deck"));
    setMinimumHeight(170);
    tape_ = new PassTape(document, history, this);
    ledger_ = new LedgerCut(document, this);
    region_ = new RegionCut(this);
    walk_ = new WalkCut(document, this);
    pages_ = new QStackedWidget(this);
    for (QWidget* w : std::initializer_list<QWidget*>{tape_, ledger_, region_, walk_})
        pages_->addWidget(w);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 4, 0, 0);
    column->setSpacing(2);
    head_ = new QWidget(this);
    auto* row = new QHBoxLayout(head_);
    row->setContentsMargins(14, 0, 14, 0);
    row->setSpacing(2);
    auto* heading = new QLabel(tr("Cost"), this);
    heading->setObjectName("title");
    row->addWidget(heading);
    row->addSpacing(8);
    buttons_ = new QButtonGroup(this);
    const struct {
        QString text, help;
    } cuts[] = {{tr("by pass"), tr("The tape: one frame's passes to scale against the budget (Alt+P).")},
                {tr("by light"), tr("The ledger: what each light costs and what it gives (Alt+L).")},
                {tr("by region"), tr("Lengths of the tiles' light lists, and their audit (Alt+R).")},
                {tr("over the walk"), tr("Cost along a recorded camera path (Alt+W).")}};
    for (int i = 0; i < 4; ++i) {
        auto* button = new QToolButton(this);
        button->setText(cuts[i].text);
        button->setToolTip(cuts[i].help);
        button->setCheckable(true);
        button->setChecked(i == 0);
        buttons_->addButton(button, i);
        row->addWidget(button);
    }
    row->addStretch();
    row->addWidget(ledger_->controls());
    row->addWidget(region_->controls());
    row->addWidget(walk_->controls());
    for (QWidget* w : {ledger_->controls(), region_->controls(), walk_->controls()})
        w->hide();
    column->addWidget(head_);
    column->addWidget(pages_, 1);
    connect(buttons_, &QButtonGroup::idClicked, this, [this](int id) { set_cut(static_cast<Cut>(id)); });
}

void CostDeck::set_cut(Cut cut) {
    if (cut == cut_) return;
    cut_ = cut;
    buttons_->button(static_cast<int>(cut))->setChecked(true);
    pages_->setCurrentIndex(static_cast<int>(cut));
    ledger_->controls()->setVisible(cut == Cut::light);
    region_->controls()->setVisible(cut == Cut::region);
    walk_->controls()->setVisible(cut == Cut::walk);
    emit cut_changed(cut);
}

void CostDeck::set_band(bool on) {
    if (on == band_) return;
    band_ = on;
    if (on) before_ = cut_;
    set_cut(on ? Cut::pass : before_);
    head_->setVisible(!on);
    tape_->set_band(on);
    layout()->setContentsMargins(0, on ? 0 : 4, 0, 0);
    setMinimumHeight(on ? PassTape::bandHeight : 0);
    setMaximumHeight(on ? PassTape::bandHeight : QWIDGETSIZE_MAX);
}

void CostDeck::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), theme().panel);
}

} // namespace mirolux::app
