#include "app/air_row.h"
#include "app/benches.h"
#include "core/air/end_of_sight.h"
#include "core/base/text.h"
#include <QEvent>
#include <QGridLayout>
#include <QLabel>

namespace mirolux::app {

std::optional<Setup> other_air(const Setup& setup) {
    Setup b = setup;
    const bool beams = setup.choice("beams.kind") == "mesh", cells = setup.choice("air.kind") == "froxels";
    if (!beams && !cells) return std::nullopt;
    // Beams stand for cells with the same fog; both at once are held against cells alone.
    (void)b.set_text("beams.kind", beams ? "none" : "mesh");
    if (beams && !cells) {
        if (setup.choice("air.kind") == "height") (void)b.set_text("air.profile", "height");
        (void)b.set_text("air.kind", "froxels");
        if (setup.choice("air.kind") == "none") (void)b.set("air.extinction", setup.number("beams.strength"));
    } else if (!beams)
        (void)b.set_text("air.kind", setup.choice("air.profile") == "height" ? "height" : "uniform");
    return b;
}

AirRow::AirRow(Document& document, const RenderBridge& bridge, QWidget* parent) : QWidget(parent), document_(document) {
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(0, 4, 0, 0);
    grid->setSpacing(4);
    figure_ = new AirFigure(document, bridge, this);
    grid->addWidget(figure_, 0, 0, 1, 2);
    facts_ = quiet_label({}, this);
    facts_->setObjectName("sight facts");
    grid->addWidget(facts_, 1, 0, 1, 2);
    const auto button = [&](const QString& name, const QString& help, int row, int column, int columns) {
        auto* b = new QPushButton(this);
        b->setObjectName(name);
        b->setToolTip(help);
        b->installEventFilter(this);
        grid->addWidget(b, row, column, 1, columns);
        return b;
    };
    shadows_ = button("end shadows",
                      tr("The directional light casts no farther than the fog lets one see. Resting here foresees what "
                         "it saves; undo takes it back."),
                      2, 0, 1);
    fades_ = button("end lamps",
                    tr("Lamps fade out where the fog hides what they light; their glow in the fog goes with them. "
                       "Resting here foresees what it saves; undo takes it back."),
                    2, 1, 1);
    against_ = button("against lit air",
                      tr("Takes the other way as B: cells of air beside beams, or beams beside cells; pictures, times "
                         "and differences stand beside each other, and Shift+K measures them in pairs."),
                      3, 0, 2);
    connect(shadows_, &QPushButton::clicked, this, [this] { take(toShadows_, tr("end shadows where sight ends")); });
    connect(fades_, &QPushButton::clicked, this, [this] { take(toFades_, tr("end lamps where sight ends")); });
    connect(against_, &QPushButton::clicked, this, [this] {
        if (const auto b = other_air(document_.project().setup)) emit against_wanted(*b);
    });
    connect(&document_, &Document::changed, this, &AirRow::fill);
    connect(&document_, &Document::opened, this, &AirRow::fill);
    connect(&document_, &Document::camera_moved, this, &AirRow::fill);
}

void AirRow::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    fill();
}

void AirRow::take(const std::optional<Setup>& setup, const QString& label) {
    if (setup) document_.edit(label, [&](Project& p) { p.setup = *setup; });
}

bool AirRow::eventFilter(QObject* watched, QEvent* e) {
    const auto* setup = watched == shadows_ ? &toShadows_ : watched == fades_ ? &toFades_ : nullptr;
    if (setup && e->type() == QEvent::Enter && *setup)
        document_.consider_setup(qobject_cast<QPushButton*>(watched)->text(), **setup);
    if (setup && e->type() == QEvent::Leave) document_.consider_nothing();
    return QWidget::eventFilter(watched, e);
}

void AirRow::fill() {
    if (!document_.is_open() || !isVisible()) return;
    const Project& p = document_.project();
    const bool fog = p.setup.choice("air.kind") != "none";
    const SightProposal sight = fog ? propose_sight(document_.scene(), p.setup, p.view) : SightProposal{};
    const bool ends = fog && std::isfinite(sight.metres);
    toShadows_ = ends ? sight.shadows : std::nullopt;
    toFades_ = ends ? sight.fades : std::nullopt;
    const QString metres = QString::fromStdString(number_text(std::ceil(sight.metres)));
    facts_->setText(!fog    ? QString()
                    : !ends ? tr("Nothing of the scene is lost in this fog.")
                            : tr("At %1 m less than 2 % of a surface's contrast is left.").arg(metres) +
                                  (toShadows_ || toFades_ ? QString() : tr(" Shadows and lamps end there already.")));
    facts_->setVisible(fog);
    shadows_->setText(tr("End shadows at %1 m").arg(metres));
    fades_->setText(tr("End lamps at %1 m").arg(metres));
    shadows_->setVisible(toShadows_.has_value());
    fades_->setVisible(toFades_.has_value());
    const bool beams = p.setup.choice("beams.kind") == "mesh";
    against_->setText(beams ? tr("Against lit air") : tr("Against beams of mesh"));
    against_->setVisible(other_air(p.setup).has_value());
    figure_->setVisible(fog);
}

} // namespace mirolux::app
