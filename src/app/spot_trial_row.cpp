#include "app/spot_trial_row.h"
#include "app/benches.h"
#include "app/theme.h"
#include "core/base/text.h"
#include <QGridLayout>
#include <QPainter>
#include <QPainterPath>
#include <cmath>
#include <numbers>

namespace mirolux::app {

DirectionsFigure::DirectionsFigure(QWidget* parent) : QWidget(parent) {
    setObjectName("directions figure");
    setAccessibleName(tr("Directions that the light uses, and cones of spots"));
    setToolTip(
        tr("Every direction around the light, straight up at the top, straight down at the bottom, \u2212z in the "
           "middle; areas are true. Dots: it meets something within its reach. Rings: the spots' cones."));
    setFixedHeight(120);
}

void DirectionsFigure::show_trial(const SpotTrial* trial) {
    used_.clear();
    cones_.clear();
    if (trial) {
        for (const UsedDirection& u : trial->used)
            used_.push_back(u.direction);
        cones_ = trial->cover.cones;
    }
    update();
}

void DirectionsFigure::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    const QRectF r = QRectF(rect()).adjusted(1, 1, -1, -1);
    p.fillRect(r, t.field);
    const auto place = [&](const glm::dvec3& d) { // J. H. Lambert's cylindrical projection, 1772
        const double turn = std::atan2(d.x, -d.z);
        return QPointF(r.center().x() + turn / (2 * std::numbers::pi) * r.width(),
                       r.center().y() - 0.5 * d.y * r.height());
    };
    QColor dot = t.quiet;
    dot.setAlpha(150);
    for (const glm::dvec3& d : used_)
        p.fillRect(QRectF(place(d) - QPointF(1, 1), QSizeF(2, 2)), dot);
    const QColor hues[] = {QColor(74, 140, 210), QColor(214, 150, 48), QColor(80, 165, 96), QColor(196, 88, 70)};
    for (std::size_t k = 0; k < cones_.size(); ++k) {
        const SpotCone& c = cones_[k];
        const glm::dvec3 side = std::abs(c.axis.y) < 0.9 ? glm::dvec3(0, 1, 0) : glm::dvec3(1, 0, 0),
                         x = glm::normalize(glm::cross(c.axis, side)), y = glm::cross(x, c.axis);
        p.setPen(QPen(hues[k % 4], 2));
        QPainterPath ring;
        QPointF last;
        for (int i = 0; i <= 180; ++i) {
            const double a = i * std::numbers::pi / 90;
            const QPointF at =
                place(std::cos(c.angle) * c.axis + std::sin(c.angle) * (std::cos(a) * x + std::sin(a) * y));
            if (i == 0 || std::abs(at.x() - last.x()) > 0.5 * r.width()) // round the back
                ring.moveTo(at);
            else
                ring.lineTo(at);
            last = at;
        }
        p.drawPath(ring);
        p.drawText(QRectF(place(c.axis) - QPointF(10, 10), QSizeF(20, 20)), Qt::AlignCenter, QString::number(k + 1));
    }
    p.setPen(QPen(t.line, 1));
    p.drawRect(r);
}

SpotTrialRow::SpotTrialRow(QWidget* parent) : QWidget(parent) {
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(0, 6, 0, 0);
    grid->setSpacing(4);
    const auto button = [&](const QString& text, const QString& name, const QString& help) {
        auto* b = new QPushButton(text, this);
        b->setObjectName(name);
        b->setToolTip(help);
        return b;
    };
    try_ =
        button(tr("What if it were spots"), "try spots",
               tr("Tries two, three and four spots in the point's place, which need a shadow map each where it needs "
                  "six: measures both in pairs and compares the pictures, beside the window."));
    grid->addWidget(try_, 0, 0, 1, 4);
    choices_ = new ChoiceRow({tr("2 spots"), tr("3 spots"), tr("4 spots")}, this);
    choices_->setObjectName("spot counts");
    choices_->setToolTip(tr("How many spots."));
    connect(choices_, &ChoiceRow::chosen, this, &SpotTrialRow::choose);
    grid->addWidget(choices_, 1, 0, 1, 3);
    keep_ = button(tr("Keep"), "keep spots",
                   tr("The point is switched off and the spots take its place; undo brings it back."));
    grid->addWidget(keep_, 1, 3);
    figure_ = new DirectionsFigure(this);
    grid->addWidget(figure_, 2, 0, 1, 4);
    facts_ = quiet_label({}, this);
    facts_->setObjectName("spot facts");
    facts_->setTextFormat(Qt::RichText);
    grid->addWidget(facts_, 3, 0, 1, 4);
    clear({});
    connect(try_, &QPushButton::clicked, this, [this] { running_ ? emit stop_wanted() : emit trial_wanted(); });
    connect(keep_, &QPushButton::clicked, this, [this] {
        if (trials_) emit keep_wanted((*trials_)[static_cast<std::size_t>(chosen_)]);
    });
}

void SpotTrialRow::clear(const QString& words) {
    trials_.reset();
    for (QWidget* w : std::initializer_list<QWidget*>{choices_, keep_, figure_})
        w->hide();
    facts_->setText(words.toHtmlEscaped());
    facts_->setVisible(!words.isEmpty());
}

void SpotTrialRow::choose(int index) {
    if (!trials_ || index >= static_cast<int>(trials_->size())) return;
    chosen_ = index;
    choices_->set_current(index);
    const SpotTrial& t = (*trials_)[static_cast<std::size_t>(index)];
    figure_->show_trial(&t);
    const auto percent = [](double v) { return QString::fromStdString(number_text(100 * v, 3)) + " %"; };
    const auto times = [](const Comparison& c) {
        return SpotTrialRow::tr("%1\u00d7 (%2 to %3)")
            .arg(c.ratio, 0, 'f', 2)
            .arg(c.low, 0, 'f', 2)
            .arg(c.high, 0, 'f', 2);
    };
    QString text = tr("They light <b>%1</b> of what it lights, %2 of it twice. Its %3 maps become <b>%4</b>")
                       .arg(percent(t.cover.covered), percent(t.cover.doubled))
                       .arg(t.mapsBefore)
                       .arg(t.mapsAfter);
    if (t.unmapped > 0) text += tr(", %1 of the spots without one").arg(t.unmapped);
    text += tr(". The frame takes <b>%1</b> of the time").arg(times(t.times.frame));
    if (t.maps) text += tr(", drawing maps %1").arg(times(t.maps->comparison));
    text += tr("; <b>%1</b> of the pixels differ by more than 5 %, the picture by %2 in the mean.")
                .arg(percent(t.picture.shareOver), percent(t.picture.meanRelative));
    text += tr(" Kept, the setup lets %1 lights cast, so that no other goes without.").arg(t.casters);
    facts_->setText(text);
}

void SpotTrialRow::show_progress(const QString& what, double share) {
    running_ = true;
    try_->setText(tr("Stop"));
    const bool seen = facts_->isVisible();
    clear(tr("%1: %2 %").arg(what).arg(100 * share, 0, 'f', 0));
    if (!seen) reveal(facts_);
}

void SpotTrialRow::show_trials(Trials trials) {
    trials_ = std::move(trials);
    if (!trials_ || trials_->empty()) return clear({});
    for (QWidget* w : std::initializer_list<QWidget*>{choices_, keep_, figure_, facts_})
        w->show();
    choose(0);
    reveal(facts_);
}

void SpotTrialRow::show_trouble(const QString& words) {
    clear(words);
}

void SpotTrialRow::show_rest() {
    running_ = false;
    try_->setText(tr("What if it were spots"));
    if (!trials_ && facts_->text().endsWith('%')) clear({});
}

void SpotTrialRow::set_stale() {
    if (trials_) clear(tr("Something has changed since spots were tried."));
}

} // namespace mirolux::app
