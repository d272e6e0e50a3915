#include "app/plots/region_cut.h"
#include "app/deck_page.h"
#include "app/read_out.h"
#include "app/tile_map.h"
#include <QHBoxLayout>
#include <QPushButton>
#include <cmath>

namespace mirolux::app {

/// Bars that wear the colours of the map in the picture.
class RegionCut::Bars : public QCPBars {
public:
    using QCPBars::QCPBars;
    double opacity = 1;

protected:
    void draw(QCPPainter* painter) override {
        painter->setOpacity(opacity);
        painter->setPen(Qt::NoPen);
        const double last = std::max(1, dataCount() - 1);
        for (const QCPBarsData& bar : *mDataContainer) {
            QRectF r = getBarRect(bar.key, bar.value).normalized();
            if (r.width() > 4) r.adjust(1, 0, -1, 0);
            painter->setBrush(TileMap::ramp(bar.key / last));
            painter->drawRect(r);
        }
        painter->setOpacity(1);
    }
};

RegionCut::RegionCut(QWidget* parent) : Plot(parent) {
    setAccessibleName(tr("Cost by region"));
    set_room(52, 8, 250, 32);
    bars_ = new Bars(xAxis, yAxis);
    bars_->setWidth(1);
    setToolTip(resting_tip());
    controls_ = new QWidget(this);
    auto* row = new QHBoxLayout(controls_);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(4);
    worst_ = new QPushButton(tr("Show me the worst"), controls_);
    worst_->setToolTip(tr("Goes to the tile with most missed, else most needless lights (W)."));
    next_ = new QPushButton(tr("Next worst"), controls_);
    next_->setToolTip(tr("Goes on to the next worse tile (Shift+W)."));
    row->addWidget(worst_);
    row->addWidget(next_);
    connect(worst_, &QPushButton::clicked, this, &RegionCut::show_worst_wanted);
    connect(next_, &QPushButton::clicked, this, &RegionCut::next_worst_wanted);
}

void RegionCut::show_inspection(const std::shared_ptr<const cull::Inspection>& inspection) {
    inspection_ = inspection;
    stale_ = false;
    tiles_.clear();
    if (inspection_) {
        const std::vector<int> histogram = cull::length_histogram(inspection_->grid);
        binWidth_ = std::max(1, static_cast<int>((histogram.size() + 79) / 80));
        for (std::size_t n = 0; n < histogram.size(); ++n) {
            const std::size_t b = n / static_cast<std::size_t>(binWidth_);
            if (tiles_.size() <= b) tiles_.resize(b + 1, 0);
            tiles_[b] += histogram[n];
        }
    }
    worst_->setEnabled(inspection_ != nullptr);
    next_->setEnabled(inspection_ != nullptr);
    draw_bars();
}

void RegionCut::set_stale() {
    stale_ = true;
    selectedLow_ = -1;
    bars_->opacity = 0.5;
    redraw();
}

/// Square-root scale: one tile of ninety lights still shows beside a thousand of three.
void RegionCut::draw_bars() {
    bars_->opacity = 1;
    int most = 1;
    for (const int n : tiles_)
        most = std::max(most, n);
    QVector<QCPBarsData> bars;
    for (std::size_t b = 0; b < tiles_.size(); ++b)
        bars.append({static_cast<double>(b), std::sqrt(static_cast<double>(tiles_[b]) / most)});
    bars_->data()->set(bars, true);
    auto tiles = QSharedPointer<QCPAxisTickerText>::create();
    for (const double share : {0.1, 0.4, 1.0})
        tiles->addTick(std::sqrt(share), QString::number(std::lround(most * share)));
    yAxis->setTicker(tiles);
    const double last = static_cast<double>(std::max<std::size_t>(tiles_.size(), 1)) - 0.5;
    set_bounds({-0.5, last}, {0, 1}, std::min(4.0, last + 0.5));
}

void RegionCut::before_drawing() {
    // Only as many lengths are written as there is room for.
    const double step = area().width() / xAxis->range().size();
    const int every = std::max(1, static_cast<int>(std::ceil(30 / std::max(step, 1e-3))));
    auto lengths = QSharedPointer<QCPAxisTickerText>::create();
    for (int b = 0; b < static_cast<int>(tiles_.size()); b += every)
        lengths->addTick(b, QString::number(b * binWidth_));
    xAxis->setTicker(lengths);
}

QRectF RegionCut::bar(int n) const {
    if (tiles_.empty()) return {};
    const int b = n / binWidth_;
    return {QPointF(xAxis->coordToPixel(b - 0.5), area().top()),
            QPointF(xAxis->coordToPixel(b + 0.5), area().bottom())};
}

int RegionCut::bar_at(const QPointF& at) const {
    if (tiles_.empty() || !area().adjusted(0, 0, 0, 18).contains(at)) return -1;
    return std::clamp(static_cast<int>(std::lround(xAxis->pixelToCoord(at.x()))), 0,
                      static_cast<int>(tiles_.size()) - 1);
}

QString RegionCut::empty_words() const {
    if (inspection_) return {};
    return stale_ ? tr("Holding the lists against the exact reference\u2026")
                  : tr("This path makes no light lists. Take a tiled or clustered path at the Path station.");
}

void RegionCut::paint_over(QPainter& p) {
    const QRectF r = area();
    p.setPen(QPen(theme().text, 2));
    p.save();
    p.setClipRect(r.adjusted(-2, -2, 2, 2));
    for (int b = 0; b < static_cast<int>(tiles_.size()); ++b)
        if (selectedLow_ == b * binWidth_ || (hasFocus() && walked_ == b)) p.drawRect(bar(b * binWidth_));
    p.restore();
    p.setPen(theme().quiet);
    p.drawText(QRectF(r.left(), r.bottom() + 16, r.width(), 15), Qt::AlignHCenter,
               inspection_->grid.slices > 1
                   ? tr("lights in a tile's fullest slice; bars count tiles, on a square-root scale")
                   : tr("lights in a tile's list; bars count tiles, on a square-root scale"));
    paint_audit(p);
}

/// The lists against the exact reference, beside the plot.
void RegionCut::paint_audit(QPainter& p) const {
    const Theme& t = theme();
    const cull::Audit& a = inspection_->audit;
    const double x = area().right() + 24;
    double top = area().top() + 2;
    const auto line = [&](const QString& name, const QString& value, bool alarm = false) {
        p.setPen(alarm ? t.alarm : t.quiet);
        p.drawText(QRectF(x, top, 104, 17), Qt::AlignVCenter, name);
        p.setPen(alarm ? t.alarm : t.text);
        p.drawText(QRectF(x + 84, top, 128, 17), Qt::AlignVCenter | Qt::AlignRight, value);
        top += 17;
    };
    line(tr("missed"), a.missed ? tr("%L1: culling is wrong").arg(static_cast<qulonglong>(a.missed)) : tr("0"),
         a.missed > 0);
    line(tr("surplus"), QString::number(a.surplus * 100, 'f', 1) + " %");
    line(tr("overflow"),
         a.overflow
             ? tr("%L1 in %2 lists").arg(static_cast<qulonglong>(a.overflow)).arg(inspection_->grid.overflowCells)
             : tr("0"),
         a.overflow > 0);
    line(tr("mean length"), QString::number(a.mean, 'f', 1));
    line(tr("p95, longest"), tr("%1, %2").arg(a.p95).arg(a.max));
    line(tr("not in lists"), tr("%1 directional").arg(inspection_->directional));
}

/// A click marks a bar's tiles; a drag went along the plot.
void RegionCut::mouseReleaseEvent(QMouseEvent* e) {
    Plot::mouseReleaseEvent(e);
    if (clicked()) mark(bar_at(e->position()));
}

/// The tiles of a bar are marked in the picture; of the one that is, none are any more.
void RegionCut::mark(int b) {
    const int low = b * binWidth_;
    selectedLow_ = b < 0 || selectedLow_ == low ? -1 : low;
    emit lengths_picked(selectedLow_, selectedLow_ < 0 ? -1 : low + binWidth_ - 1);
    update();
}

QString RegionCut::words_of(int b) const {
    const QString lengths =
        binWidth_ == 1 ? QString::number(b) : tr("%1 to %2").arg(b * binWidth_).arg((b + 1) * binWidth_ - 1);
    return tr("%1 tiles list %2 lights. Click or Return to mark them in the picture.")
        .arg(tiles_[static_cast<std::size_t>(b)])
        .arg(lengths);
}

void RegionCut::mouseMoveEvent(QMouseEvent* e) {
    Plot::mouseMoveEvent(e);
    const int b = bar_at(e->position());
    setCursor(b >= 0 ? Qt::PointingHandCursor : Qt::ArrowCursor);
    setToolTip(b >= 0 ? words_of(b) : resting_tip());
}

QString RegionCut::resting_tip() {
    return tr("How long the light lists are. Left and Right walk the bars, Return marks their tiles; + and - "
              "go nearer and farther, Backspace shows all again.");
}

void RegionCut::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) {
        if (walked_ >= 0 && walked_ < static_cast<int>(tiles_.size())) mark(walked_);
        return;
    }
    if (!tiles_.empty() && zoom_key(*e, walked_ >= 0 ? bar(walked_ * binWidth_).center() : area().center())) return;
    const int to =
        walked_to(*e, std::min(walked_, static_cast<int>(tiles_.size()) - 1), static_cast<int>(tiles_.size()));
    if (to < 0) return QWidget::keyPressEvent(e);
    walked_ = to;
    if (!xAxis->range().contains(to)) {
        xAxis->setRange(to, xAxis->range().size(), Qt::AlignCenter);
        redraw();
    }
    read_out(this, words_of(to));
    update();
}

} // namespace mirolux::app
