#include "app/plots/walk_cut.h"
#include "app/deck_page.h"
#include "app/marks.h"
#include "app/read_out.h"
#include "core/base/text.h"
#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <cmath>

namespace mirolux::app {

WalkCut::WalkCut(Document& document, QWidget* parent) : Plot(parent), document_(document) {
    setAccessibleName(tr("Cost over the walk"));
    setToolTip(tr("Cost along the walk, stacked by pass, against the budget. Left and Right walk the places, Return "
                  "goes there; + and - go nearer and farther, Backspace shows all again."));
    controls_ = new QWidget(this);
    auto* row = new QHBoxLayout(controls_);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(4);
    progress_ = new QLabel(controls_);
    progress_->setObjectName("quiet");
    row->addWidget(progress_);
    walks_ = new QComboBox(controls_);
    walks_->setAccessibleName(tr("Walk"));
    walks_->setObjectName("walks");
    walks_->setToolTip(
        tr("The recorded camera path. Record one while flying (Shift+R), or make one of the named cameras (Shift+C)."));
    row->addWidget(walks_);
    every_ = new QComboBox(controls_);
    every_->setAccessibleName(tr("Distance between places"));
    for (const double m : {0.5, 1.0, 2.0, 5.0, 10.0})
        every_->addItem(tr("every %1 m").arg(m), m);
    every_->setCurrentIndex(3);
    every_->setToolTip(tr("Distance between the places that are measured."));
    row->addWidget(every_);
    look_ = new QComboBox(controls_);
    look_->setAccessibleName(tr("Directions"));
    look_->addItem(tr("looking ahead"), 0);
    for (const int n : {4, 8, 12})
        look_->addItem(tr("looking round, %1 ways").arg(n), n);
    look_->setToolTip(tr("Ahead: as the walk looks. Round: turns in place and shows the direction that costs most at "
                         "each place; a click looks that way."));
    row->addWidget(look_);
    play_ = new QPushButton(tr("Play"), controls_);
    play_->setToolTip(tr("Goes along the walk without measuring (Shift+P)."));
    row->addWidget(play_);
    measure_ = new QPushButton(tr("Measure the walk"), controls_);
    measure_->setToolTip(tr("Measures the frame at each place, three times over the whole walk (Shift+M)."));
    row->addWidget(measure_);
    set_room(58, 12, 196, 24);
    xAxis->setTicker(unit_ticker("m", 8));
    yAxis->setTicker(unit_ticker("ms", 4));
    yAxis->grid()->setVisible(false);
    budget_ = addGraph();
    tooMuch_ = addGraph();
    underB_ = addGraph();
    b_ = addGraph();
    connect(measure_, &QPushButton::clicked, this, [this] { running_ ? emit stop_wanted() : emit measure_wanted(); });
    connect(play_, &QPushButton::clicked, this, &WalkCut::play_wanted);
    connect(&document_, &Document::changed, this, [this] {
        fill();
        set_stale();
    });
    fill();
}

void WalkCut::fill() {
    if (!document_.is_open()) return;
    QStringList names, now;
    for (const Walk& w : document_.project().walks)
        names << QString::fromStdString(w.name);
    for (int i = 0; i < walks_->count(); ++i)
        now << walks_->itemText(i);
    if (names != now) {
        walks_->clear();
        walks_->addItems(names);
        walks_->setCurrentIndex(static_cast<int>(names.size()) - 1);
        if (now.isEmpty()) walks_->setCurrentIndex(0);
    }
    measure_->setEnabled(!names.isEmpty());
    play_->setEnabled(!names.isEmpty());
}

int WalkCut::chosen_walk() const {
    return walks_->currentIndex();
}
int WalkCut::headings() const {
    return look_->currentData().toInt();
}
double WalkCut::every_metres() const {
    return every_->currentData().toDouble();
}

void WalkCut::show_walk(const std::vector<WalkMeasurement>& measured) {
    measured_ = measured;
    shownHeadings_ = headings();
    stale_ = false;
    hovered_ = -1;
    draw_costs();
}

void WalkCut::set_step(const QString& words) {
    step_ = words;
    update();
}

void WalkCut::show_progress(int done, int all) {
    running_ = all > 0;
    measure_->setText(running_ ? tr("Stop") : tr("Measure the walk"));
    progress_->setText(running_ ? tr("frame %1 of %2").arg(done + 1).arg(all) : QString());
}

void WalkCut::set_stale() {
    if (std::exchange(stale_, !measured_.empty()) != stale_) restyle();
    draw_over_budget(); // the target may be another
}

double WalkCut::scale_ms() const {
    double most = document_.is_open() ? measured_budget_ms(document_.target()) * 1.15 : 1;
    for (const WalkMeasurement& m : measured_)
        most = std::max(most, m.worst * 1.05);
    return most;
}

QPointF WalkCut::place_of(std::size_t point) const {
    const WalkPoint& w = measured_.front().points[point];
    return place(w.metres, w.ms);
}

int WalkCut::point_at(const QPointF& at) const {
    if (measured_.empty() || !area().adjusted(-8, 0, 8, 14).contains(at)) return -1;
    int best = -1;
    double nearest = 1e9;
    for (std::size_t i = 0; i < measured_.front().points.size(); ++i)
        if (const double d = std::abs(place_of(i).x() - at.x()); d < nearest) nearest = d, best = static_cast<int>(i);
    return best;
}

/// Stacked by pass, from the first below to the last on top; B's frame as a line over it.
void WalkCut::draw_costs() {
    for (QCPGraph* graph : passes_)
        removeGraph(graph);
    passes_.clear();
    if (measured_.empty()) return redraw();
    const WalkMeasurement& m = measured_.front();
    QVector<double> metres, sum(static_cast<qsizetype>(m.points.size()), 0.0);
    for (const WalkPoint& point : m.points)
        metres << point.metres;
    for (std::size_t k = 0; k < m.passes.size(); ++k) {
        for (std::size_t i = 0; i < m.points.size(); ++i)
            sum[static_cast<qsizetype>(i)] += m.points[i].passMs[k];
        QCPGraph* graph = addGraph();
        graph->setData(metres, sum, true);
        graph->setChannelFillGraph(passes_.isEmpty() ? nullptr : passes_.back());
        passes_ << graph;
    }
    QVector<double> metresB, msB;
    if (measured_.size() > 1)
        for (const WalkPoint& point : measured_[1].points) {
            metresB << point.metres;
            msB << point.ms;
        }
    for (QCPGraph* graph : {underB_, b_})
        graph->setData(metresB, msB, true);
    draw_over_budget();
    restyle();
}

/// The budget as a line, and hatched what lies over it: it shows before any colour does.
void WalkCut::draw_over_budget() {
    if (measured_.empty()) return;
    const WalkMeasurement& m = measured_.front();
    const double budget = measured_budget_ms(document_.target());
    QVector<double> metres, over;
    for (std::size_t i = 0; i < m.points.size(); ++i) {
        const WalkPoint& to = m.points[i];
        if (i > 0 && (m.points[i - 1].ms < budget) != (to.ms < budget)) { // where it crosses the line
            const WalkPoint& from = m.points[i - 1];
            metres << from.metres + (to.metres - from.metres) * (budget - from.ms) / (to.ms - from.ms);
            over << budget;
        }
        metres << to.metres;
        over << std::max(to.ms, budget);
    }
    const double end = std::max(m.metres, 1e-6);
    if (budget > 0)
        budget_->setData({0, end}, {budget, budget}, true);
    else
        budget_->setData({}, {}, true);
    tooMuch_->setData(budget > 0 ? metres : QVector<double>(), budget > 0 ? over : QVector<double>(), true);
    double nearest = end;
    for (std::size_t i = 1; i < m.points.size(); ++i)
        if (const double d = m.points[i].metres - m.points[i - 1].metres; d > 0) nearest = std::min(nearest, d);
    set_bounds({0, end}, {0, scale_ms()}, 2 * nearest);
    redraw();
}

void WalkCut::restyle() {
    Plot::restyle();
    if (!budget_) return; // not built yet
    const Theme& t = theme();
    for (qsizetype k = 0; k < passes_.size(); ++k) {
        QColor fill = family_color(measured_.front().passes[static_cast<std::size_t>(k)].family);
        if (stale_) fill.setAlphaF(0.5f);
        passes_[k]->setPen(QPen(t.panel, 0.7));
        passes_[k]->setBrush(fill);
    }
    budget_->setPen(QPen(t.text, 2));
    tooMuch_->setPen(Qt::NoPen);
    tooMuch_->setBrush(hatch());
    tooMuch_->setChannelFillGraph(budget_);
    underB_->setPen(QPen(t.panel, 4));
    b_->setPen(QPen(t.b, 2));
    for (QCPGraph* over : {tooMuch_, budget_, underB_, b_})
        over->setLayer("axes"); // over the passes, which are made anew with each measurement
}

/// The distribution in numbers, beside the plot; B's in a column of its own.
void WalkCut::paint_numbers(QPainter& p) const {
    const Theme& t = theme();
    const WalkMeasurement &m = measured_.front(), &b = measured_.back();
    const double budget = measured_budget_ms(document_.target()), left = area().right() + 22;
    const bool two = measured_.size() > 1;
    double top = area().top();
    const auto row = [&](const QString& name, const QString& value, const QString& other, bool alarm) {
        p.setPen(t.quiet);
        p.drawText(QRectF(left, top, 60, 16), Qt::AlignVCenter, name);
        p.setPen(alarm ? t.alarm : t.text);
        p.drawText(QRectF(left + 30, top, two ? 66 : 130, 16), Qt::AlignVCenter | Qt::AlignRight, value);
        p.setPen(t.b);
        if (two) p.drawText(QRectF(left + 96, top, 66, 16), Qt::AlignVCenter | Qt::AlignRight, other);
        top += 16;
    };
    if (two) row({}, "A", "B", false);
    for (const auto& [name, of] :
         {std::pair{"p50", &WalkMeasurement::p50}, {"p95", &WalkMeasurement::p95}, {"p99", &WalkMeasurement::p99}})
        row(name, ms_text(m.*of), ms_text(b.*of), budget > 0 && m.*of > budget);
    row(tr("worst"), ms_text(m.worst), ms_text(b.worst), budget > 0 && m.worst > budget);
    if (budget > 0)
        row(tr("over"), tr("%1 of %2").arg(m.over(budget)).arg(m.points.size()),
            tr("%1 of %2").arg(b.over(budget)).arg(b.points.size()), m.over(budget) > 0);
    p.setPen(t.quiet);
    p.drawText(QRectF(left, top, 170, 16), Qt::AlignVCenter,
               tr("%1 sweeps, %2 clock").arg(m.sweeps).arg(QString::fromStdString(m.clock)));
    if (shownHeadings_ > 0)
        p.drawText(QRectF(left, top + 15, 170, 16), Qt::AlignVCenter,
                   tr("dearest of %1 directions").arg(shownHeadings_));
}

QString WalkCut::empty_words() const {
    if (!measured_.empty()) return {};
    return !document_.is_open() || document_.project().walks.empty()
               ? tr("No walk yet. Record one while flying with the arrow keys (Shift+R starts and ends), or make one "
                    "of the named cameras (Shift+C).")
               : tr("Not measured yet. Measure the walk to see where it costs most.");
}

/// What the meter asks for along the walk, broken, and what an eye has come to that goes it in its time, whole; on a
/// scale of its own in the upper half.
void WalkCut::paint_exposure(QPainter& p) const {
    const std::vector<WalkPoint>& points = measured_.front().points;
    double low = 1e9, high = -1e9;
    for (const WalkPoint& w : points)
        if (w.ev100)
            for (const double ev : {*w.ev100, *w.meteredEv100}) {
                low = std::min(low, ev);
                high = std::max(high, ev);
            }
    if (low > high) return;
    const double middle = 0.5 * (low + high), span = std::max(2.0, high - low), room = 0.42 * area().height();
    const auto y_of = [&](double ev) { return area().top() + 8 + room * (0.5 - (ev - middle) / span); };
    QPolygonF asked, come;
    for (const WalkPoint& w : points)
        if (w.ev100) {
            const double x = xAxis->coordToPixel(w.metres);
            asked << QPointF(x, y_of(*w.meteredEv100));
            come << QPointF(x, y_of(*w.ev100));
        }
    p.setBrush(Qt::NoBrush);
    two_tone(p, ivory, 1, Qt::DotLine, [&] { p.drawPolyline(asked); });
    two_tone(p, ivory, 1.6, Qt::SolidLine, [&] { p.drawPolyline(come); });
    const auto number = [](double ev) { return QString::number(ev, 'f', 1).replace("-", "\u2212"); };
    paint_plate(p, come.front() + QPointF(6, 4), tr("EV100 %1").arg(number(*points.front().ev100)));
    if (points.back().ev100) paint_plate(p, come.back() + QPointF(-44, 4), number(*points.back().ev100));
}

void WalkCut::paint_over(QPainter& p) {
    const Theme& t = theme();
    p.save();
    p.setClipRect(area().adjusted(-5, -5, 5, 5));
    paint_exposure(p);
    if (const double budget = measured_budget_ms(document_.target()); budget > 0) {
        const QString text = tr("budget %1").arg(ms_text(budget));
        const double y = yAxis->coordToPixel(budget);
        p.fillRect(QRectF(area().left() + 4, y - 17, p.fontMetrics().horizontalAdvance(text) + 8, 15), t.panel);
        p.setPen(t.text);
        p.drawText(QPointF(area().left() + 8, y - 5), text);
    }
    p.setBrush(t.lit);
    p.setPen(QPen(QColor(0, 0, 0, 160), 1));
    p.drawEllipse(place_of(measured_.front().worstPoint), 4, 4);
    if (hovered_ >= 0) {
        const double x = place_of(static_cast<std::size_t>(hovered_)).x();
        p.setPen(QPen(t.text, 1, Qt::DashLine));
        p.drawLine(QPointF(x, area().top()), QPointF(x, area().bottom()));
    }
    if (!step_.isEmpty()) { // above all lines: the upper end of the scale is free
        p.setPen(t.text);
        p.drawText(area().adjusted(8, 1, -8, 0), Qt::AlignTop | Qt::AlignRight,
                   p.fontMetrics().elidedText(step_, Qt::ElideLeft, static_cast<int>(area().width()) - 16));
    }
    p.restore();
    paint_numbers(p);
}

/// A click goes to the place; a drag went along the plot.
void WalkCut::mouseReleaseEvent(QMouseEvent* e) {
    Plot::mouseReleaseEvent(e);
    if (clicked()) go_to(point_at(e->position()));
}

void WalkCut::go_to(int i) {
    if (i < 0) return;
    const WalkPoint& p = measured_.front().points[static_cast<std::size_t>(i)];
    emit place_picked(p.camera, p.seconds);
}

QString WalkCut::words_of(int i) const {
    const WalkPoint& p = measured_.front().points[static_cast<std::size_t>(i)];
    QString words = tr("%1 m: %2").arg(p.metres, 0, 'f', 1).arg(ms_text(p.ms));
    if (p.ev100)
        words += tr("\nEV100 %1, the meter asks for %2")
                     .arg(QString::number(*p.ev100, 'f', 1).replace("-", "\u2212"),
                          QString::number(*p.meteredEv100, 'f', 1).replace("-", "\u2212"));
    for (std::size_t k = 0; k < measured_.front().passes.size(); ++k)
        words += QString("\n%1 %2").arg(QString::fromStdString(measured_.front().passes[k].name), ms_text(p.passMs[k]));
    return words;
}

/// Left and Right walk the places, Return goes there.
void WalkCut::keyPressEvent(QKeyEvent* e) {
    if (measured_.empty()) return QWidget::keyPressEvent(e);
    if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) return go_to(hovered_);
    if (zoom_key(*e, hovered_ >= 0 ? place_of(static_cast<std::size_t>(hovered_)) : area().center())) return;
    const int to = walked_to(*e, hovered_, static_cast<int>(measured_.front().points.size()));
    if (to < 0) return QWidget::keyPressEvent(e);
    hovered_ = to;
    if (const double at = measured_.front().points[static_cast<std::size_t>(to)].metres; !xAxis->range().contains(at)) {
        xAxis->setRange(at, xAxis->range().size(), Qt::AlignCenter);
        redraw();
    }
    read_out(this, words_of(to));
    update();
}

void WalkCut::mouseMoveEvent(QMouseEvent* e) {
    Plot::mouseMoveEvent(e);
    hovered_ = point_at(e->position());
    setCursor(hovered_ >= 0 ? Qt::PointingHandCursor : Qt::ArrowCursor);
    if (hovered_ >= 0) {
        setToolTip(words_of(hovered_) + tr("\nClick or Return to go there."));
    }
    update();
}

void WalkCut::leaveEvent(QEvent*) {
    hovered_ = -1;
    update();
}

} // namespace mirolux::app
