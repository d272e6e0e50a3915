#include "app/plots/plot.h"
#include "app/theme.h"
#include "core/base/text.h"

namespace mirolux::app {

Plot::Plot(QWidget* parent) : QCustomPlot(parent) {
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setPlottingHints(QCP::phCacheLabels); // painted when the window comes to it, not at once for each change
    setInteractions({}); // its own wheel and drag first try every point for a hit: seconds with very many
    axisRect()->setAutoMargins(QCP::msNone);
    axisRect()->setMinimumSize(0, 0);
    plotLayout()->setMinimumSize(0, 0);
    connect(xAxis, qOverload<const QCPRange&>(&QCPAxis::rangeChanged), this,
            [this] { keep_inside(*xAxis, x_, least_); });
    connect(yAxis, qOverload<const QCPRange&>(&QCPAxis::rangeChanged), this,
            [this] { keep_inside(*yAxis, y_, y_.size() * 1e-3); });
    connect(this, &QCustomPlot::beforeReplot, this, [this] { before_drawing(); });
    restyle();
}

void Plot::show_whole() {
    xAxis->setRange(x_);
    yAxis->setRange(y_);
    redraw();
}

bool Plot::is_whole() const {
    return xAxis->range().size() >= x_.size() * (1 - 1e-9) && yAxis->range().size() >= y_.size() * (1 - 1e-9);
}

QPointF Plot::place(double x, double y) const {
    return {xAxis->coordToPixel(x), yAxis->coordToPixel(y)};
}

void Plot::set_bounds(QCPRange x, QCPRange y, double least) {
    const bool whole = is_whole();
    x_ = x;
    y_ = y;
    least_ = least;
    if (whole) return show_whole();
    keep_inside(*xAxis, x_, least_);
    keep_inside(*yAxis, y_, y_.size() * 1e-3);
    redraw();
}

void Plot::set_room(int left, int top, int right, int bottom) {
    axisRect()->setMargins({left, top, right, bottom});
}

void Plot::redraw() {
    dirty_ = true;
    update();
}

void Plot::keep_inside(QCPAxis& axis, const QCPRange& bounds, double least) {
    QCPRange r = axis.range();
    if (const double span = std::clamp(r.size(), std::min(least, bounds.size()), bounds.size()); span != r.size())
        r = {r.center() - span / 2, r.center() + span / 2};
    r = r.bounded(bounds.lower, bounds.upper);
    if (r != axis.range()) axis.setRange(r);
}

void Plot::go_nearer(double factor, const QPointF& about) {
    xAxis->scaleRange(factor, xAxis->pixelToCoord(about.x()));
    redraw();
}

bool Plot::zoom_key(const QKeyEvent& key, const QPointF& about) {
    if (key.key() == Qt::Key_Plus || key.key() == Qt::Key_Minus)
        go_nearer(key.key() == Qt::Key_Plus ? 0.6 : 1 / 0.6, about);
    else if (key.key() == Qt::Key_Backspace)
        show_whole();
    else
        return false;
    return true;
}

void Plot::restyle() {
    const Theme& t = theme();
    setBackground(t.panel);
    for (QCPAxis* axis : {xAxis, yAxis}) {
        axis->setBasePen(Qt::NoPen);
        axis->setTickPen(Qt::NoPen);
        axis->setSubTickPen(Qt::NoPen);
        axis->setTickLabelColor(t.quiet);
        axis->setTickLabelFont(sized(font(), 11));
        axis->grid()->setPen(QPen(t.line, 1));
        axis->grid()->setZeroLinePen(QPen(t.line, 1));
    }
    xAxis->grid()->setVisible(false);
    redraw();
}

void Plot::paintEvent(QPaintEvent* e) {
    if (const QString words = empty_words(); !words.isEmpty()) {
        QPainter p(this);
        p.fillRect(rect(), theme().panel);
        p.setFont(sized(font(), 11));
        p.setPen(theme().quiet);
        p.drawText(rect(), Qt::AlignCenter, words);
        return;
    }
    if (std::exchange(dirty_, false)) replot(rpQueuedRefresh);
    QCustomPlot::paintEvent(e);
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setFont(sized(font(), 11));
    p.setPen(theme().quiet);
    paint_over(p);
    if (!is_whole()) paint_part_in_view(p);
}

/// The whole as a hairline along each axis that shows less, and on it the part in view.
void Plot::paint_part_in_view(QPainter& p) const {
    const QRectF r = area();
    const auto strip = [&](QPointF from, QPointF to, const QCPRange& whole, const QCPRange& part) {
        if (part.size() >= whole.size() * (1 - 1e-9)) return;
        const auto at = [&](double v) { return from + (to - from) * ((v - whole.lower) / whole.size()); };
        p.setPen(QPen(theme().line, 1));
        p.drawLine(from, to);
        p.setPen(QPen(theme().lit, 3, Qt::SolidLine, Qt::RoundCap));
        p.drawLine(at(part.lower), at(part.upper));
    };
    strip(r.bottomLeft() + QPointF(0, 3), r.bottomRight() + QPointF(0, 3), x_, xAxis->range());
    strip(r.bottomRight() + QPointF(5, 0), r.topRight() + QPointF(5, 0), y_, yAxis->range());
}

void Plot::changeEvent(QEvent* e) {
    QCustomPlot::changeEvent(e);
    if (e->type() == QEvent::StyleChange || e->type() == QEvent::PaletteChange || e->type() == QEvent::FontChange)
        restyle();
}

void Plot::wheelEvent(QWheelEvent* e) {
    const double factor = std::pow(0.998, e->angleDelta().y());
    if (e->modifiers() & Qt::ShiftModifier) {
        yAxis->scaleRange(factor, yAxis->pixelToCoord(e->position().y()));
        redraw();
    } else
        go_nearer(factor, e->position());
    e->accept();
}

void Plot::mousePressEvent(QMouseEvent* e) {
    if (e->button() == Qt::LeftButton) drag_ = Drag{e->position(), xAxis->range(), yAxis->range()};
}

void Plot::mouseMoveEvent(QMouseEvent* e) {
    if (!drag_) return;
    const QPointF by = e->position() - drag_->start;
    xAxis->setRange(drag_->x - by.x() * drag_->x.size() / std::max(1.0, area().width()));
    yAxis->setRange(drag_->y + by.y() * drag_->y.size() / std::max(1.0, area().height()));
    redraw();
}

void Plot::mouseReleaseEvent(QMouseEvent* e) {
    clicked_ = drag_ && (e->position() - drag_->start).manhattanLength() < QApplication::startDragDistance();
    drag_.reset();
}

void Plot::mouseDoubleClickEvent(QMouseEvent* e) {
    if (area().contains(e->position())) show_whole();
}

namespace {

class UnitTicker : public QCPAxisTicker {
public:
    UnitTicker(const QString& unit, int count) : unit_(unit) { setTickCount(count); }

protected:
    QString getTickLabel(double tick, const QLocale&, QChar, int) override {
        return QString::fromStdString(number_text(std::abs(tick) < 1e-9 ? 0 : tick)) + " " + unit_;
    }
    int getSubTickCount(double) override { return 0; }

private:
    QString unit_;
};

} // namespace

QSharedPointer<QCPAxisTicker> unit_ticker(const QString& unit, int count) {
    return QSharedPointer<QCPAxisTicker>(new UnitTicker(unit, count));
}

QBrush hatch() {
    QPixmap tile(18, 18);
    tile.fill(Qt::transparent);
    QPainter p(&tile);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(QColor(0, 0, 0, 90), 2));
    for (int x = -18; x <= 18; x += 9)
        p.drawLine(x, 18, x + 18, 0);
    return tile;
}

} // namespace mirolux::app
