#include "app/plots/map_plot.h"
#include "app/theme.h"
#include "core/base/text.h"
#include <QHelpEvent>
#include <QToolTip>
#include <cmath>

namespace mirolux::app {

static constexpr double least_error = 1e-4; // what is shown at the bottom

QString words_of(const LightMapRow& r) {
    const auto number = [](double v) { return QString::fromStdString(number_text(v, 3)); };
    return MapPlot::tr("%1 a metre, %2, %3: %4 MiB, picture off by %5 %, highlights %6 %")
        .arg(number(double(r.options.density)), QString(word(r.kind)), QString(word(r.store)),
             number(double(r.bytes) / (1 << 20)), number(100 * r.pictureError), number(100 * r.highlightKept));
}

MapPlot::MapPlot(QWidget* parent) : Plot(parent) {
    setObjectName("map plot");
    setAccessibleName(tr("Bytes against error of light maps"));
    set_room(52, 24, 12, 34);
    xAxis->setScaleType(QCPAxis::stLogarithmic);
    yAxis->setScaleType(QCPAxis::stLogarithmic);
    const QSharedPointer<QCPAxisTickerLog> ratio(new QCPAxisTickerLog);
    xAxis->setTicker(ratio);
    yAxis->setTicker(QSharedPointer<QCPAxisTickerLog>(new QCPAxisTickerLog));
    for (QCPAxis* axis : {xAxis, yAxis}) {
        axis->setNumberFormat("g");
        axis->setNumberPrecision(3);
    }
    restyle();
}

void MapPlot::show_table(std::shared_ptr<const LightMapTable> table) {
    table_ = std::move(table);
    if (!table_ || table_->rows.empty()) return redraw();
    double low = 1e300, high = 0, top = 10 * least_error;
    for (const LightMapRow& r : table_->rows) {
        low = std::min(low, double(r.bytes) / (1 << 20));
        high = std::max(high, double(r.bytes) / (1 << 20));
        top = std::max(top, r.pictureError);
    }
    set_bounds({low / 1.6, high * 1.6}, {100 * least_error / 1.6, 100 * top * 2}, 1e-4);
    show_whole();
    redraw();
}

QPointF MapPlot::place_of(const LightMapRow& r) const {
    return place(double(r.bytes) / (1 << 20), 100 * std::max(r.pictureError, least_error));
}

QString MapPlot::empty_words() const {
    return table_ && !table_->rows.empty() ? QString() : tr("Nothing compared yet");
}

void MapPlot::paint_over(QPainter& p) {
    if (!table_) return;
    const Theme& t = theme();
    const QRectF r = area();
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    p.setClipRect(r.adjusted(-8, -8, 8, 8));
    for (const LightMapRow& row : table_->rows) {
        const QPointF at = place_of(row);
        const QColor color(row.kind == DirectionKind::plain      ? 0x8A8F98
                           : row.kind == DirectionKind::dominant ? 0xD9A441
                                                                 : 0x4FA3C7);
        p.setPen(QPen(color, 1.4));
        p.setBrush(Qt::NoBrush);
        const QRectF box(at.x() - 5, at.y() - 5, 10, 10);
        p.drawEllipse(box);
        p.setBrush(color);
        p.setPen(Qt::NoPen);
        p.drawPie(box, 90 * 16, -static_cast<int>(std::lround(360 * 16 * std::clamp(row.highlightKept, 0.0, 1.0))));
        if (row.chosen) {
            p.setBrush(Qt::NoBrush);
            p.setPen(QPen(t.text, 1.6));
            p.drawEllipse(at, 9, 9);
        }
    }
    p.restore();
    p.setPen(t.quiet);
    p.drawText(QRectF(r.left(), r.bottom() + 16, r.width(), 16), Qt::AlignRight, tr("MiB"));
    p.drawText(QRectF(r.left() - 44, r.top() - 21, r.width(), 16), Qt::AlignLeft, tr("picture off, %"));
}

const LightMapRow* MapPlot::near(const QPointF& at) const {
    const LightMapRow* nearest = nullptr;
    double best = 12;
    if (!table_) return nullptr;
    for (const LightMapRow& r : table_->rows)
        if (const double d = (place_of(r) - at).manhattanLength(); d < best) {
            best = d;
            nearest = &r;
        }
    return nearest;
}

bool MapPlot::event(QEvent* e) {
    if (e->type() == QEvent::ToolTip && table_) {
        const auto* help = static_cast<QHelpEvent*>(e);
        if (const LightMapRow* row = near(help->pos()))
            QToolTip::showText(help->globalPos(), words_of(*row), this);
        else
            QToolTip::hideText();
        return true;
    }
    return Plot::event(e);
}

void MapPlot::mouseReleaseEvent(QMouseEvent* e) {
    Plot::mouseReleaseEvent(e);
    if (!clicked()) return;
    if (const LightMapRow* row = near(e->position())) emit chosen(*row);
}

} // namespace mirolux::app
