#include "app/walk_cut.h"
#include "app/deck_page.h"
#include "app/read_out.h"
#include "core/base/text.h"
#include <QComboBox>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>
#include <cmath>

namespace mirolux::app {

WalkCut::WalkCut(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    setMouseTracking(true);
    setAccessibleName(tr("Cost over the walk"));
    setFocusPolicy(Qt::StrongFocus);
    setToolTip(tr("Cost along the walk, stacked by pass, against the budget. Left and Right walk the places, Return "
                  "goes there."));
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
    update();
}

void WalkCut::show_progress(int done, int all) {
    running_ = all > 0;
    measure_->setText(running_ ? tr("Stop") : tr("Measure the walk"));
    progress_->setText(running_ ? tr("frame %1 of %2").arg(done + 1).arg(all) : QString());
}

void WalkCut::set_stale() {
    stale_ = !measured_.empty();
    update();
}

QRectF WalkCut::plot() const {
    return {58.0, 12.0, width() - 58.0 - 196.0, height() - 36.0};
}

double WalkCut::scale_ms() const {
    double most = document_.is_open() ? measured_budget_ms(document_.target()) * 1.15 : 1;
    for (const WalkMeasurement& m : measured_)
        most = std::max(most, m.worst * 1.05);
    return most;
}

QPointF WalkCut::place_of(std::size_t point) const {
    const WalkPoint& w = measured_.front().points[point];
    return {x_of(w.metres), y_of(w.ms)};
}

int WalkCut::point_at(const QPointF& at) const {
    if (measured_.empty() || !plot().adjusted(-8, 0, 8, 14).contains(at)) return -1;
    int best = -1;
    double nearest = 1e9;
    for (std::size_t i = 0; i < measured_.front().points.size(); ++i)
        if (const double d = std::abs(place_of(i).x() - at.x()); d < nearest) nearest = d, best = static_cast<int>(i);
    return best;
}

double WalkCut::x_of(double metres) const {
    return plot().left() + plot().width() * metres / std::max(measured_.front().metres, 1e-6);
}

double WalkCut::y_of(double ms) const {
    return plot().bottom() - plot().height() * ms / scale_ms();
}

/// Stacked by pass, from the first below to the last on top; what lies over the budget is hatched: it shows before any
/// colour does. B's frame as a line over it.
void WalkCut::paint_costs(QPainter& p) const {
    const WalkMeasurement& m = measured_.front();
    const QRectF r = plot();
    std::vector<double> floor(m.points.size(), 0.0);
    for (std::size_t k = 0; k < m.passes.size(); ++k) {
        QPolygonF area;
        for (std::size_t i = 0; i < m.points.size(); ++i)
            area << QPointF(x_of(m.points[i].metres), y_of(floor[i] + m.points[i].passMs[k]));
        for (std::size_t i = m.points.size(); i-- > 0;) {
            area << QPointF(x_of(m.points[i].metres), y_of(floor[i]));
            floor[i] += m.points[i].passMs[k];
        }
        p.setPen(QPen(theme().panel, 0.7));
        p.setBrush(family_color(m.passes[k].family));
        p.drawPolygon(area);
    }
    if (const double budget = measured_budget_ms(document_.target()); budget > 0) {
        QPainterPath under;
        under.moveTo(x_of(m.points.front().metres), r.bottom());
        for (const WalkPoint& point : m.points)
            under.lineTo(x_of(point.metres), y_of(point.ms));
        under.lineTo(x_of(m.points.back().metres), r.bottom());
        under.closeSubpath();
        p.save();
        p.setClipPath(under);
        p.setClipRect(QRectF(r.left(), r.top(), r.width(), y_of(budget) - r.top()), Qt::IntersectClip);
        p.setPen(QPen(QColor(0, 0, 0, 80), 2));
        for (double h = std::floor((r.left() - r.height()) / 9) * 9; h < r.right(); h += 9)
            p.drawLine(QPointF(h, r.bottom()), QPointF(h + r.height(), r.top()));
        p.restore();
    }
    if (measured_.size() < 2) return;
    QPolygonF line;
    for (const WalkPoint& b : measured_[1].points)
        line << QPointF(x_of(b.metres), y_of(b.ms));
    p.setBrush(Qt::NoBrush);
    for (const QPen& pen : {QPen(theme().panel, 4), QPen(theme().b, 2)}) {
        p.setPen(pen);
        p.drawPolyline(line);
    }
}

void WalkCut::paint_scales(QPainter& p) const {
    const Theme& t = theme();
    const QRectF r = plot();
    const double scale = scale_ms(), metres = measured_.front().metres, step = round_step(scale, 6);
    p.setPen(t.quiet);
    for (double v = 0; v <= scale; v += step)
        p.drawText(QRectF(0, y_of(v) - 8, 52, 16), Qt::AlignRight | Qt::AlignVCenter,
                   QString::fromStdString(number_text(v)) + " ms");
    for (double v = 0; v <= metres + 0.1; v += metres > 120 ? 20 : metres > 40 ? 10 : 5) {
        p.setPen(t.line);
        p.drawLine(QPointF(x_of(v), r.bottom()), QPointF(x_of(v), r.bottom() + 4));
        p.setPen(t.quiet);
        p.drawText(QRectF(x_of(v) - 30, r.bottom() + 4, 60, 14), Qt::AlignHCenter, QString::number(v) + " m");
    }
    if (const double budget = measured_budget_ms(document_.target()); budget > 0) {
        p.setPen(QPen(t.text, 2));
        p.drawLine(QPointF(r.left(), y_of(budget)), QPointF(r.right(), y_of(budget)));
        const QString text = tr("budget %1").arg(ms_text(budget));
        p.fillRect(QRectF(r.left() + 4, y_of(budget) - 17, p.fontMetrics().horizontalAdvance(text) + 8, 15), t.panel);
        p.drawText(QPointF(r.left() + 8, y_of(budget) - 5), text);
    }
}

/// The distribution in numbers, beside the plot; B's in a column of its own.
void WalkCut::paint_numbers(QPainter& p) const {
    const Theme& t = theme();
    const WalkMeasurement &m = measured_.front(), &b = measured_.back();
    const double budget = measured_budget_ms(document_.target()), left = plot().right() + 22;
    const bool two = measured_.size() > 1;
    double top = plot().top();
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

void WalkCut::paintEvent(QPaintEvent*) {
    QPainter p(this);
    begin_page(p, *this);
    if (measured_.empty()) {
        p.drawText(rect(), Qt::AlignCenter,
                   !document_.is_open() || document_.project().walks.empty()
                       ? tr("No walk yet. Record one while flying with the arrow keys (Shift+R starts and ends), or "
                            "make one of the named cameras (Shift+C).")
                       : tr("Not measured yet. Measure the walk to see where it costs most."));
        return;
    }
    p.setOpacity(stale_ ? 0.5 : 1.0);
    paint_costs(p);
    p.setOpacity(1);
    paint_scales(p);
    p.setBrush(theme().lit);
    p.setPen(QPen(QColor(0, 0, 0, 160), 1));
    p.drawEllipse(place_of(measured_.front().worstPoint), 4, 4);
    if (hovered_ >= 0) {
        const double x = place_of(static_cast<std::size_t>(hovered_)).x();
        p.setPen(QPen(theme().text, 1, Qt::DashLine));
        p.drawLine(QPointF(x, plot().top()), QPointF(x, plot().bottom()));
    }
    paint_numbers(p);
}

void WalkCut::mousePressEvent(QMouseEvent* e) {
    go_to(point_at(e->position()));
}

void WalkCut::go_to(int i) {
    if (i < 0) return;
    const WalkPoint& p = measured_.front().points[static_cast<std::size_t>(i)];
    emit place_picked(p.camera, p.seconds);
}

QString WalkCut::words_of(int i) const {
    const WalkPoint& p = measured_.front().points[static_cast<std::size_t>(i)];
    QString words = tr("%1 m: %2").arg(p.metres, 0, 'f', 1).arg(ms_text(p.ms));
    for (std::size_t k = 0; k < measured_.front().passes.size(); ++k)
        words += QString("\n%1 %2").arg(QString::fromStdString(measured_.front().passes[k].name), ms_text(p.passMs[k]));
    return words;
}

/// Left and Right walk the places, Return goes there.
void WalkCut::keyPressEvent(QKeyEvent* e) {
    if (measured_.empty()) return QWidget::keyPressEvent(e);
    if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) return go_to(hovered_);
    const int to = walked_to(*e, hovered_, static_cast<int>(measured_.front().points.size()));
    if (to < 0) return QWidget::keyPressEvent(e);
    hovered_ = to;
    read_out(this, words_of(to));
    update();
}

void WalkCut::mouseMoveEvent(QMouseEvent* e) {
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
