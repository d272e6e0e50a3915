#include "app/plots/bias_plot.h"
#include "app/theme.h"
#include "core/base/text.h"
#include <QHelpEvent>
#include <QToolTip>

namespace mirolux::app {

QString words_of(const BiasPoint& p) {
    const auto number = [](double v) { return QString::fromStdString(number_text(v, 3)); };
    return BiasPlot::tr("bias %1 m, by slope %2, normal offset %3: missed %4 %, false %5 %")
        .arg(number(p.set.bias), number(p.set.slopeBias), number(p.set.normalOffset), number(100 * p.missed),
             number(100 * p.falsely));
}

BiasPlot::BiasPlot(QWidget* parent) : Plot(parent) {
    setObjectName("bias plot");
    setAccessibleName(tr("False against missed shadow"));
    set_room(58, 24, 10, 32);
    front_ = addGraph();
    tried_ = addGraph();
    tried_->setLineStyle(QCPGraph::lsNone);
    xAxis->setTicker(unit_ticker(" %", 3));
    yAxis->setTicker(unit_ticker(" %", 4));
    restyle();
}

void BiasPlot::restyle() {
    Plot::restyle();
    if (!tried_) return;
    const Theme& t = theme();
    tried_->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssDisc, t.quiet, 4));
    front_->setPen(QPen(t.text, 1.2));
}

void BiasPlot::show_solution(std::shared_ptr<const BiasSolution> solution, double bound) {
    solution_ = std::move(solution);
    bound_ = bound;
    tried_->data()->clear();
    front_->data()->clear();
    if (!solution_) return redraw();
    const BiasSolution& s = *solution_;
    for (const BiasPoint& p : s.points)
        tried_->addData(100 * p.falsely, 100 * p.missed);
    for (const BiasPoint& p : s.front)
        front_->addData(100 * p.falsely, 100 * p.missed);
    // The part that decides: around the front, the present set and the bound; what lies far out may be gone to.
    double right = 100 * std::max(s.before.falsely, bound), top = 100 * std::max(s.before.missed, s.best.missed),
           farRight = right, farTop = top, bottom = std::min(s.before.missed, s.best.missed) * 100;
    for (const BiasPoint& p : s.front)
        top = std::max(top, p.falsely <= bound ? 100 * std::min(p.missed, 4 * s.best.missed) : 0.0);
    for (const BiasPoint& p : s.front)
        if (100 * p.falsely <= 1.4 * right) bottom = std::min(bottom, 100 * p.missed);
    for (const BiasPoint& p : s.points) {
        farRight = std::max(farRight, 100 * p.falsely);
        farTop = std::max(farTop, 100 * p.missed);
    }
    const QCPRange x(0, std::max(0.01, 1.05 * farRight)), y(0, std::max(0.01, 1.05 * farTop));
    set_bounds(x, y, 1e-3);
    show_whole();
    xAxis->setRange(0, std::min(x.upper, std::max(0.01, 1.4 * right)));
    const double room = std::max(0.1 * (top - bottom), 0.02 * top + 1e-3);
    yAxis->setRange(std::max(0.0, bottom - room), std::min(y.upper, top + 2 * room));
    redraw();
}

QPointF BiasPlot::place_of(const BiasPoint& p) const {
    return place(100 * p.falsely, 100 * p.missed);
}

QString BiasPlot::empty_words() const {
    return solution_ ? QString() : tr("No search yet");
}

void BiasPlot::paint_over(QPainter& p) {
    if (!solution_) return;
    const Theme& t = theme();
    const QRectF r = area();
    p.save();
    p.setClipRect(r.adjusted(-6, -6, 6, 6));
    const double at = place(100 * bound_, 0).x();
    p.setPen(QPen(t.text, 1, Qt::DashLine));
    p.drawLine(QPointF(at, r.top()), QPointF(at, r.bottom()));
    const QPointF now = place_of(solution_->before), best = place_of(solution_->best);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.text, 1.6));
    p.drawEllipse(now, 6, 6);
    p.fillRect(QRectF(best.x() - 4, best.y() - 4, 8, 8), t.text);
    p.setPen(t.text);
    const auto label = [&](const QPointF& point, const QString& text, double dy) {
        const double w = p.fontMetrics().horizontalAdvance(text);
        const double x = point.x() + 10 + w < r.right() ? point.x() + 10 : point.x() - 10 - w;
        p.drawText(QPointF(x, std::clamp(point.y() + dy, r.top() + 10, r.bottom() - 2)), text);
    };
    const bool close = (now - best).manhattanLength() < 24;
    label(now, tr("now"), close ? -8 : 4);
    label(best, solution_->under ? tr("least") : tr("nearest"), close ? 16 : 4);
    p.restore();
    p.setPen(t.quiet);
    p.drawText(QRectF(r.left(), r.bottom() + 15, r.width(), 16), Qt::AlignRight, tr("false"));
    p.drawText(QRectF(r.left() - 44, r.top() - 21, 60, 16), Qt::AlignLeft, tr("missed"));
}

bool BiasPlot::event(QEvent* e) {
    if (e->type() == QEvent::ToolTip && solution_) {
        const auto* help = static_cast<QHelpEvent*>(e);
        const BiasPoint* nearest = nullptr;
        double best = 10;
        for (const BiasPoint& p : solution_->points)
            if (const double d = (place_of(p) - help->pos()).manhattanLength(); d < best) best = d, nearest = &p;
        if (nearest)
            QToolTip::showText(help->globalPos(), words_of(*nearest), this);
        else
            QToolTip::hideText();
        return true;
    }
    return Plot::event(e);
}

} // namespace mirolux::app
