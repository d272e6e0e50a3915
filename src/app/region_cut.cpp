#include "app/region_cut.h"
#include "app/deck_page.h"
#include "app/read_out.h"
#include "app/tile_map.h"
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <cmath>

namespace mirolux::app {

RegionCut::RegionCut(QWidget* parent) : QWidget(parent) {
    setMouseTracking(true);
    setAccessibleName(tr("Cost by region"));
    setFocusPolicy(Qt::StrongFocus);
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
    update();
}

void RegionCut::set_stale() {
    stale_ = true;
    selectedLow_ = -1;
    update();
}

QRectF RegionCut::plot() const {
    return {52.0, 8.0, width() - 52.0 - 250.0, height() - 40.0};
}

QRectF RegionCut::bar(int n) const {
    if (tiles_.empty()) return {};
    const QRectF r = plot();
    const double step = r.width() / static_cast<double>(tiles_.size());
    const int b = n / binWidth_;
    return {r.left() + b * step, r.top(), step, r.height()};
}

int RegionCut::bar_at(const QPointF& at) const {
    const QRectF r = plot();
    if (tiles_.empty() || !r.adjusted(0, 0, 0, 18).contains(at)) return -1;
    return std::min(static_cast<int>((at.x() - r.left()) / r.width() * static_cast<double>(tiles_.size())),
                    static_cast<int>(tiles_.size()) - 1);
}

void RegionCut::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& t = theme();
    begin_page(p, *this);
    if (!inspection_) {
        p.drawText(rect(), Qt::AlignCenter,
                   stale_ ? tr("Holding the lists against the exact reference\u2026")
                          : tr("This path makes no light lists. Take a tiled or clustered path at the Path station."));
        return;
    }
    p.setOpacity(stale_ ? 0.5 : 1.0);
    const QRectF r = plot();
    int most = 1;
    for (const int n : tiles_)
        most = std::max(most, n);
    // Square-root scale: one tile of ninety lights still shows beside a thousand of three.
    const auto y = [&](double n) { return r.bottom() - r.height() * std::sqrt(n / most); };
    for (const double share : {0.1, 0.4, 1.0}) {
        p.setPen(t.line);
        p.drawLine(QPointF(r.left(), y(most * share)), QPointF(r.right(), y(most * share)));
        p.setPen(t.quiet);
        p.drawText(QRectF(0, y(most * share) - 8, 46, 16), Qt::AlignRight | Qt::AlignVCenter,
                   QString::number(std::lround(most * share)));
    }
    const double step = r.width() / static_cast<double>(tiles_.size());
    const int label = std::max(1, static_cast<int>(std::ceil(30 / step)));
    for (int b = 0; b < static_cast<int>(tiles_.size()); ++b) {
        const QRectF bar(r.left() + b * step + (step > 4 ? 1 : 0), y(tiles_[static_cast<std::size_t>(b)]),
                         step - (step > 4 ? 2 : 0), r.bottom() - y(tiles_[static_cast<std::size_t>(b)]));
        p.setPen(Qt::NoPen);
        p.setBrush(TileMap::ramp(static_cast<double>(b) / std::max<std::size_t>(1, tiles_.size() - 1)));
        p.drawRect(bar);
        if (selectedLow_ == b * binWidth_ || (hasFocus() && walked_ == b)) {
            p.setBrush(Qt::NoBrush);
            p.setPen(QPen(t.text, 2));
            p.drawRect(QRectF(bar.left(), r.top(), bar.width(), r.height()));
        }
        if (b % label == 0) {
            p.setPen(t.quiet);
            p.drawText(QRectF(bar.center().x() - 24, r.bottom() + 2, 48, 15), Qt::AlignHCenter,
                       QString::number(b * binWidth_));
        }
    }
    p.setPen(t.quiet);
    p.drawText(QRectF(r.left(), r.bottom() + 15, r.width(), 15), Qt::AlignHCenter,
               inspection_->grid.slices > 1
                   ? tr("lights in a tile's fullest slice; bars count tiles, on a square-root scale")
                   : tr("lights in a tile's list; bars count tiles, on a square-root scale"));
    const cull::Audit& a = inspection_->audit;
    const double x = r.right() + 24;
    double top = r.top() + 2;
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

void RegionCut::mousePressEvent(QMouseEvent* e) {
    mark(bar_at(e->position()));
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
    const int b = bar_at(e->position());
    setCursor(b >= 0 ? Qt::PointingHandCursor : Qt::ArrowCursor);
    setToolTip(b >= 0 ? words_of(b) : resting_tip());
}

QString RegionCut::resting_tip() {
    return tr("How long the light lists are. Left and Right walk the bars, Return marks their tiles.");
}

void RegionCut::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) {
        if (walked_ >= 0 && walked_ < static_cast<int>(tiles_.size())) mark(walked_);
        return;
    }
    const int to =
        walked_to(*e, std::min(walked_, static_cast<int>(tiles_.size()) - 1), static_cast<int>(tiles_.size()));
    if (to < 0) return QWidget::keyPressEvent(e);
    walked_ = to;
    read_out(this, words_of(to));
    update();
}

} // namespace mirolux::app
