#include "app/pass_tape.h"
#include "app/deck_page.h"
#include "app/read_out.h"
#include "core/base/text.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>

namespace mirolux::app {

PassTape::PassTape(Document& document, const FrameHistory& history, QWidget* parent)
    : QWidget(parent), document_(document), history_(history) {
    setMouseTracking(true);
    setMinimumHeight(120);
    setAccessibleName(tr("Cost by pass"));
    setFocusPolicy(Qt::StrongFocus);
    setToolTip(resting_tip());
    connect(&document_, &Document::changed, this, qOverload<>(&QWidget::update));
}

void PassTape::refresh(const QString& clock, const QString& notice) {
    clock_ = clock;
    notice_ = notice;
    update();
}

void PassTape::select(const QString& pass) {
    selected_ = pass;
    update();
}

void PassTape::set_prediction(const std::optional<Prediction>& prediction) {
    prediction_ = prediction;
    predicted_.clear();
    if (prediction) {
        FrameRecord r;
        for (const PassPrediction& p : prediction->passes)
            r.passes.push_back({p.name, p.family, {p.ms}, {}, false});
        if (!r.passes.empty()) predicted_.add(r);
    }
    update();
}

double PassTape::scale_ms() const {
    const double budget = document_.is_open() ? budget_ms(document_.target()) : 16.67;
    // Room for the budget and a fifth more, or for all of the frame; steps of a third keep the scale still while
    // numbers jitter.
    const double wanted =
        std::max({budget * 1.2, shown().drawn() * 1.04, prediction_ ? prediction_->highMs * 1.04 : 0.0,
                  b_ ? shown_b().drawn() * 1.04 : 0.0, ghost_ ? ghost_->highMs * 1.04 : 0.0});
    const double base = budget * 1.2;
    return base * std::pow(1.3333, std::max(0.0, std::ceil(std::log(wanted / base) / std::log(1.3333) - 1e-6)));
}

double PassTape::budget_x() const {
    return tape().left() + budget_ms(document_.target()) * tape().width() / scale_ms();
}

QRectF PassTape::tape() const {
    if (band_) return {14.0, 4.0, width() - 190.0, height() - 8.0};
    return b_ ? QRectF(34.0, 40.0, width() - 48.0, 32.0) : QRectF(14.0, 44.0, width() - 28.0, 46.0);
}

void PassTape::set_ghost(const QString& words, const std::optional<Foresight>& ghost, bool link) {
    ghostWords_ = words;
    ghost_ = ghost;
    ghostLink_ = link;
    update();
}

void PassTape::set_band(bool on) {
    band_ = on;
    setMinimumHeight(on ? bandHeight : 120);
    update();
}

QRectF PassTape::ghost_tape() const {
    const QRectF t = tape();
    return b_ ? QRectF(t.left(), t.bottom() + 1, t.width(), 5) : QRectF(t.left(), t.bottom() + 20, t.width(), 14);
}

QRectF PassTape::ghost_line() const {
    return b_ ? QRectF(14, 1, width() - 150.0, 16) : QRectF(14, tape().bottom() + 41, width() - 28.0, 16);
}

void PassTape::set_b(const FrameHistory* history) {
    b_ = history;
    update();
}

void PassTape::set_compared(FrameHistory a, FrameHistory b) {
    compared_ = {std::move(a), std::move(b)};
    update();
}

void PassTape::forget_compared() {
    compared_.reset();
    update();
}

void PassTape::set_pair_line(const QString& text) {
    pairLine_ = text;
    update();
}

QRectF PassTape::segment(const std::string& pass) const {
    const QRectF t = tape();
    const double perMs = t.width() / scale_ms();
    double x = t.left();
    for (const auto& p : shown().passes()) {
        const double w = p.median * perMs;
        if (p.name == pass) return {x, t.top(), w, t.height()};
        x += w;
    }
    return {};
}

std::string PassTape::at(const QPointF& point) const {
    for (const auto& p : shown().passes())
        if (segment(p.name).adjusted(-0.5, -4, 0.5, 40).contains(point)) return p.name;
    return {};
}

/// Where each pass's name stands under the tape; those that do not fit are left out.
std::vector<PassTape::LegendEntry> PassTape::legend() const {
    std::vector<LegendEntry> entries;
    if (b_ || band_) return entries; // the second tape stands there
    const QFontMetrics metrics(sized(font(), 11));
    double x = 14;
    for (const auto& pass : shown().passes()) {
        const QString label = QString::fromStdString(pass.name) + "  " + ms_text(pass.median);
        const double w = metrics.horizontalAdvance(label) + 34;
        if (x + w > width() - 14) break;
        entries.push_back({pass.name, pass.family, label, QRectF(x, tape().bottom() + 20, w, 20)});
        x += w;
    }
    return entries;
}

void PassTape::mousePressEvent(QMouseEvent* e) {
    if (ghostLink_ && ghost_line().contains(e->position())) return emit ghost_clicked();
    std::string hit = at(e->position());
    for (const LegendEntry& entry : legend()) // the legend works as well as the tape
        if (hit.empty() && entry.place.contains(e->position())) hit = entry.pass;
    selected_ = QString::fromStdString(hit);
    emit pass_picked(selected_);
    update();
}

void PassTape::mouseMoveEvent(QMouseEvent* e) {
    const std::string now = at(e->position());
    if (now == hovered_) return;
    hovered_ = now;
    setToolTip(now.empty() ? resting_tip() : words_of(now) + tr(" Click for its bench."));
    setCursor(now.empty() ? Qt::ArrowCursor : Qt::PointingHandCursor);
    update();
}

void PassTape::leaveEvent(QEvent*) {
    hovered_.clear();
    update();
}

/// "opaque: 12.3 ms (middle half 12.0 to 12.8), 61 % of the frame."
QString PassTape::words_of(const std::string& name) const {
    for (const auto& pass : shown().passes())
        if (pass.name == name)
            return tr("%1: %2 (middle half %3 to %4), %5 % of the frame.")
                .arg(QString::fromStdString(pass.name), ms_text(pass.median), ms_text(pass.low), ms_text(pass.high))
                .arg(100 * pass.median / std::max(1e-9, shown().drawn()), 0, 'f', 0);
    return {};
}

QString PassTape::resting_tip() {
    return tr(
        "One frame's cost by pass, to scale against the budget. Left and Right walk the passes, Return opens one.");
}

void PassTape::keyPressEvent(QKeyEvent* e) {
    const auto& passes = shown().passes();
    int at = -1;
    for (std::size_t i = 0; i < passes.size(); ++i)
        if (passes[i].name == hovered_) at = static_cast<int>(i);
    if ((e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) && at >= 0) {
        selected_ = QString::fromStdString(hovered_);
        return emit pass_picked(selected_);
    }
    const int to = walked_to(*e, at, static_cast<int>(passes.size()));
    if (to < 0) return QWidget::keyPressEvent(e);
    hovered_ = passes[static_cast<std::size_t>(to)].name;
    read_out(this, words_of(hovered_));
    update();
}

void PassTape::focusOutEvent(QFocusEvent*) {
    hovered_.clear();
    setToolTip(resting_tip());
    update();
}

} // namespace mirolux::app
