#include "app/plots/patch_plot.h"
#include "app/theme.h"

namespace mirolux::app {

PatchPlot::PatchPlot(QWidget* parent) : Plot(parent) {
    setObjectName("patch plot");
    setAccessibleName(tr("Light that patches have left, by shot"));
    setToolTip(tr("Light that is left to be sent on, of all there ever was, by shot; the line: where it is over."));
    set_room(52, 24, 12, 30);
    yAxis->setScaleType(QCPAxis::stLogarithmic);
    yAxis->setTicker(QSharedPointer<QCPAxisTickerLog>(new QCPAxisTickerLog));
    yAxis->setNumberFormat("g");
    yAxis->setNumberPrecision(3);
    restyle();
}

void PatchPlot::clear() {
    shots_.clear();
    redraw();
}

void PatchPlot::add(std::size_t shots, double unshot, double rest) {
    const auto number = static_cast<double>(shots);
    if (!shots_.empty() && number <= shots_.back().first) shots_.clear(); // it began anew
    constexpr std::size_t most = 600;
    if (shots_.size() >= most) { // every other one says as much
        std::vector<std::pair<double, double>> fewer;
        for (std::size_t i = 0; i < shots_.size(); i += 2)
            fewer.push_back(shots_[i]);
        shots_ = std::move(fewer);
    }
    shots_.emplace_back(number, 100 * unshot);
    rest_ = 100 * rest;
    double low = rest_, high = 100;
    for (const auto& [n, left] : shots_)
        high = std::max(high, left);
    low = std::min(low, shots_.back().second);
    set_bounds({0, std::max(10.0, 1.05 * number)}, {std::max(1e-3, low / 1.5), high * 1.3}, 1e-4);
    show_whole();
    redraw();
}

QString PatchPlot::empty_words() const {
    return shots_.empty() ? tr("No patch has shot yet") : QString();
}

void PatchPlot::paint_over(QPainter& p) {
    if (shots_.empty()) return;
    const Theme& t = theme();
    const QRectF r = area();
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    p.setClipRect(r);
    const double over = place(0, rest_).y();
    p.setPen(QPen(t.quiet, 1, Qt::DashLine));
    p.drawLine(QPointF(r.left(), over), QPointF(r.right(), over));
    QPolygonF line;
    for (const auto& [number, left] : shots_)
        line << place(number, std::max(left, 1e-3));
    p.setPen(QPen(QColor(0xD9A441), 1.6));
    p.drawPolyline(line);
    p.setBrush(QColor(0xD9A441));
    p.setPen(Qt::NoPen);
    p.drawEllipse(line.last(), 3, 3);
    p.restore();
    p.setPen(t.quiet);
    p.drawText(QRectF(r.left(), r.bottom() + 14, r.width(), 16), Qt::AlignRight, tr("shots"));
    p.drawText(QRectF(r.left() - 44, r.top() - 21, r.width(), 16), Qt::AlignLeft, tr("light left, %"));
}

} // namespace mirolux::app
