#include "app/pass_tape.h"
#include "app/deck_page.h"
#include "core/base/text.h"
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
        std::max({budget * 1.2, shown().frame().median * 1.04, prediction_ ? prediction_->highMs * 1.04 : 0.0,
                  b_ ? b_->frame().median * 1.04 : 0.0});
    const double base = budget * 1.2;
    return base * std::pow(1.3333, std::max(0.0, std::ceil(std::log(wanted / base) / std::log(1.3333) - 1e-6)));
}

QRectF PassTape::tape() const {
    return b_ ? QRectF(34.0, 36.0, width() - 48.0, 32.0) : QRectF(14.0, 38.0, width() - 28.0, 46.0);
}

void PassTape::set_b(const FrameHistory* history) {
    b_ = history;
    update();
}

void PassTape::set_pair_line(const QString& text) {
    pairLine_ = text;
    update();
}

/// B below A, and between them how each pass of B differs: grey where the middle halves overlap.
void PassTape::paint_b(QPainter& p) {
    const Theme& t = theme();
    const QRectF a = tape(), r = a.translated(0, a.height() + 22);
    const double perMs = r.width() / scale_ms();
    QFont strong = font();
    strong.setPixelSize(14);
    strong.setWeight(QFont::Bold);
    p.setFont(strong);
    p.setPen(t.a);
    p.drawText(QRectF(10, a.top(), 20, a.height()), Qt::AlignVCenter, "A");
    p.setPen(t.b);
    p.drawText(QRectF(10, r.top(), 20, r.height()), Qt::AlignVCenter, "B");
    QFont small = font();
    small.setPixelSize(11);
    p.setFont(small);
    p.setPen(Qt::NoPen);
    p.setBrush(t.field);
    p.drawRect(r);
    if (b_->frames() == 0) {
        p.setPen(t.quiet);
        p.drawText(r.adjusted(8, 0, 0, 0), Qt::AlignVCenter, tr("B is on its way"));
        return;
    }
    double x = r.left();
    for (const auto& pass : b_->passes()) {
        const QRectF s(x, r.top(), pass.median * perMs, r.height());
        x = s.right();
        p.setPen(QPen(t.panel, 1));
        p.setBrush(family_color(pass.family));
        p.drawRect(s);
        const QString text = QString::fromStdString(pass.name) + "  " + ms_text(pass.median);
        p.setPen(Qt::white);
        if (s.width() > 52)
            p.drawText(s.adjusted(5, 0, -3, 0), Qt::AlignVCenter,
                       p.fontMetrics().elidedText(text, Qt::ElideRight, static_cast<int>(s.width() - 8)));
        for (const auto& one : shown().passes()) {
            if (one.name != pass.name || s.width() < 40) continue;
            const bool real = pass.low > one.high || pass.high < one.low;
            const double change = pass.median - one.median;
            p.setPen(real ? t.text : t.quiet);
            p.drawText(QRectF(s.left() + 2, r.top() - 16, std::max(90.0, s.width()), 14), Qt::AlignVCenter,
                       (change > 0 ? "+" : "\u2212") + ms_text(std::abs(change)));
        }
    }
    const double budgetX = r.left() + budget_ms(document_.target()) * perMs;
    p.setPen(QPen(t.text, 2));
    p.drawLine(QPointF(budgetX, a.bottom()), QPointF(budgetX, r.bottom() + 4));
    p.setPen(t.text);
    const QString total = ms_text(b_->frame().median);
    if (x + p.fontMetrics().horizontalAdvance(total) + 12 < r.right())
        p.drawText(QRectF(x + 8, r.top(), 90, r.height()), Qt::AlignVCenter, total);
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

void PassTape::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    p.fillRect(rect(), t.panel);
    QFont strong = font(), small = font();
    strong.setPixelSize(13);
    strong.setWeight(QFont::DemiBold);
    small.setPixelSize(11);
    p.setFont(strong);
    if (!document_.is_open()) return;
    const double budget = budget_ms(document_.target());
    const auto frame = shown().frame();
    const bool known = shown().frames() > 0;
    if (known) {
        const bool over = frame.median > budget;
        const QString total = tr("%1 of %2").arg(ms_text(frame.median), ms_text(budget));
        p.setPen(over ? t.alarm : t.text);
        p.drawText(QRectF(0, 0, width() - 14.0, 18), Qt::AlignRight | Qt::AlignVCenter, total);
        const int totalWidth = p.fontMetrics().horizontalAdvance(total);
        p.setFont(small);
        p.setPen(t.quiet);
        const bool unsure = prediction_ && prediction_->lowMs <= budget && prediction_->highMs > budget;
        const QString verdict =
            unsure ? tr("not sure: the error bar holds the budget")
            : over ? tr("over by %1 (%2 x)").arg(ms_text(frame.median - budget)).arg(frame.median / budget, 0, 'f', 1)
                   : tr("inside, %1 left").arg(ms_text(budget - frame.median));
        p.drawText(QRectF(0, 0, width() - 26.0 - totalWidth, 18), Qt::AlignRight | Qt::AlignVCenter, verdict);
        if (prediction_) {
            p.setPen(t.accent);
            p.drawText(QPointF(14, 13), tr("predicted by profile %1%2, not measured; error bar %3 to %4")
                                            .arg(QString::fromStdString(prediction_->profile),
                                                 prediction_->madeUp ? tr(" (made up)") : QString(),
                                                 ms_text(prediction_->lowMs), ms_text(prediction_->highMs)));
        }
        QString how = tr("median of %1 frames, %2 clock; whiskers: middle half").arg(shown().frames()).arg(clock_);
        if (b_ && !pairLine_.isEmpty()) {
            how = pairLine_;
            p.setPen(t.text);
        } else if (shown().whole_median() > 0)
            how += tr("; unfenced frame %1").arg(ms_text(shown().whole_median()));
        if (!prediction_)
            p.drawText(QPointF(14, 13), p.fontMetrics().elidedText(how, Qt::ElideRight,
                                                                   std::max(0, width() - 14 - 320 - totalWidth / 2)));
    } else {
        p.setFont(small);
        p.setPen(t.quiet);
        p.drawText(QRectF(0, 0, width() - 14.0, 18), Qt::AlignRight | Qt::AlignVCenter,
                   prediction_ ? tr("counting the frame's work") : tr("measuring the first frames"));
    }

    const QRectF r = tape();
    const double scale = scale_ms(), perMs = r.width() / scale, budgetX = r.left() + budget * perMs;
    p.setPen(Qt::NoPen);
    p.setBrush(t.field);
    p.drawRect(r);
    // Ticks at a round step.
    double step = std::pow(10.0, std::floor(std::log10(scale / 6)));
    for (const double m : {1.0, 2.0, 5.0, 10.0})
        if (step * m >= scale / 9) {
            step *= m;
            break;
        }
    p.setFont(small);
    for (double v = 0; v <= scale + 1e-9; v += step) {
        const double x = r.left() + v * perMs;
        p.setPen(t.line);
        p.drawLine(QPointF(x, r.bottom()), QPointF(x, r.bottom() + 5));
        p.setPen(t.quiet);
        const double bottom = b_ ? r.bottom() + r.height() + 22 : r.bottom();
        p.drawText(QRectF(x - 30, bottom + 4, 60, 14), Qt::AlignHCenter, QString::fromStdString(number_text(v)));
    }
    for (const auto& pass : shown().passes()) {
        const QRectF s = segment(pass.name);
        const QColor color = family_color(pass.family);
        const bool chosen = selected_.toStdString() == pass.name;
        p.setPen(Qt::NoPen);
        p.setBrush(hovered_ == pass.name ? color.lighter(112) : color);
        p.drawRect(s);
        // Over budget: by place and hatch before colour.
        const QRectF over = s.intersected(QRectF(budgetX, r.top(), r.right() - budgetX + 1, r.height()));
        if (!over.isEmpty()) {
            p.save();
            p.setClipRect(over);
            p.setPen(QPen(QColor(0, 0, 0, 90), 2));
            for (double x = std::floor(over.left() / 9) * 9 - r.height(); x < over.right(); x += 9)
                p.drawLine(QPointF(x, over.bottom()), QPointF(x + r.height(), over.top()));
            p.restore();
        }
        p.setPen(QPen(t.panel, 1));
        p.drawLine(s.topRight(), s.bottomRight());
        if (s.width() > 46) {
            QRectF text = s.adjusted(6, 0, -4, 0);
            if (budgetX > text.left() - 6 && budgetX < text.left() + 90 && s.right() - budgetX > 90)
                text.setLeft(budgetX + 10); // keep clear of the budget line
            if (b_) {                       // two tapes leave room for one line
                const QString both =
                    p.fontMetrics().elidedText(QString::fromStdString(pass.name) + "  " + ms_text(pass.median),
                                               Qt::ElideRight, static_cast<int>(text.width()));
                p.setPen(Qt::NoPen);
                p.setBrush(color.darker(150));
                if (!over.isEmpty())
                    p.drawRoundedRect(QRectF(text.left() - 4, text.top() + 6,
                                             p.fontMetrics().horizontalAdvance(both) + 8, text.height() - 12),
                                      3, 3);
                p.setPen(Qt::white);
                p.drawText(text, Qt::AlignVCenter, both);
                if (chosen) {
                    p.setBrush(Qt::NoBrush);
                    p.setPen(QPen(t.accent, 2));
                    p.drawRect(s.adjusted(1, 1, -1, -1));
                }
                continue;
            }
            // A plate behind the words keeps them readable on the hatch.
            const QString name = p.fontMetrics().elidedText(QString::fromStdString(pass.name), Qt::ElideRight,
                                                            static_cast<int>(text.width()));
            const QString time =
                p.fontMetrics().elidedText(ms_text(pass.median), Qt::ElideRight, static_cast<int>(text.width()));
            const double w = std::max(p.fontMetrics().horizontalAdvance(name), p.fontMetrics().horizontalAdvance(time));
            p.setPen(Qt::NoPen);
            p.setBrush(color.darker(150));
            if (!over.isEmpty())
                p.drawRoundedRect(QRectF(text.left() - 4, text.top() + 7, w + 8, text.height() - 14), 3, 3);
            p.setPen(Qt::white);
            p.drawText(text.adjusted(0, 8, 0, 0), Qt::AlignLeft | Qt::AlignTop, name);
            p.drawText(text.adjusted(0, 0, 0, -8), Qt::AlignLeft | Qt::AlignBottom, time);
        }
        if (chosen) {
            p.setBrush(Qt::NoBrush);
            p.setPen(QPen(t.accent, 2));
            p.drawRect(s.adjusted(1, 1, -1, -1));
        }
    }
    // Whiskers below the tape, at each pass's end: how far its end would move.
    double end = r.left();
    for (const auto& pass : shown().passes()) {
        const double start = end;
        end += pass.median * perMs;
        const double low = std::min(start + pass.low * perMs, r.right()),
                     high = std::min(start + pass.high * perMs, r.right()), y = r.top() - 6;
        if (high - low < 1) continue;
        p.setPen(QPen(t.quiet, 1.2));
        p.drawLine(QPointF(low, y), QPointF(high, y));
        p.drawLine(QPointF(low, y - 3), QPointF(low, y + 3));
        p.drawLine(QPointF(high, y - 3), QPointF(high, y + 3));
    }
    if (prediction_ && known) { // the error bar of the whole frame
        const double low = r.left() + prediction_->lowMs * perMs, high = r.left() + prediction_->highMs * perMs,
                     y = r.center().y();
        p.setPen(QPen(t.accent, 2));
        p.drawLine(QPointF(low, y), QPointF(high, y));
        for (const double x : {low, high})
            p.drawLine(QPointF(x, y - 7), QPointF(x, y + 7));
    }
    p.setPen(QPen(t.text, 2));
    p.drawLine(QPointF(budgetX, r.top() - 14), QPointF(budgetX, r.bottom() + 6));
    p.setFont(small);
    const QString budgetText = tr("budget %1").arg(ms_text(budget));
    p.drawText(
        QPointF(std::min(budgetX + 5, width() - 14.0 - p.fontMetrics().horizontalAdvance(budgetText)), r.top() - 14),
        budgetText);
    if (b_) return paint_b(p);
    // The legend names what is too narrow to carry its own label.
    double x = 14;
    const double y = r.bottom() + 38;
    for (const auto& pass : shown().passes()) {
        const QString label = QString::fromStdString(pass.name) + "  " + ms_text(pass.median);
        const double w = p.fontMetrics().horizontalAdvance(label) + 34;
        if (x + w > width() - 14) break;
        p.setPen(Qt::NoPen);
        p.setBrush(family_color(pass.family));
        p.drawRect(QRectF(x, y - 9, 10, 10));
        p.setPen(hovered_ == pass.name || selected_.toStdString() == pass.name ? t.accent : t.text);
        p.drawText(QPointF(x + 15, y), label);
        x += w;
    }
    if (!notice_.isEmpty()) {
        p.setPen(t.alarm);
        p.drawText(QPointF(14, y + 22), p.fontMetrics().elidedText(notice_, Qt::ElideRight, width() - 28));
    }
}

void PassTape::mousePressEvent(QMouseEvent* e) {
    std::string hit = at(e->position());
    if (hit.empty()) { // the legend works as well as the tape
        double x = 14;
        QFont small = font();
        small.setPixelSize(11);
        const QFontMetrics metrics(small);
        for (const auto& pass : shown().passes()) {
            const double w =
                metrics.horizontalAdvance(QString::fromStdString(pass.name) + "  " + ms_text(pass.median)) + 34;
            if (QRectF(x, tape().bottom() + 24, w, 20).contains(e->position())) hit = pass.name;
            x += w;
        }
    }
    selected_ = QString::fromStdString(hit);
    emit pass_picked(selected_);
    update();
}

void PassTape::mouseMoveEvent(QMouseEvent* e) {
    const std::string now = at(e->position());
    if (now == hovered_) return;
    hovered_ = now;
    QString tip;
    for (const auto& pass : shown().passes())
        if (pass.name == now)
            tip = tr("%1: %2 (middle half %3 to %4). Click for its bench.")
                      .arg(QString::fromStdString(pass.name), ms_text(pass.median), ms_text(pass.low),
                           ms_text(pass.high));
    setToolTip(tip);
    setCursor(now.empty() ? Qt::ArrowCursor : Qt::PointingHandCursor);
    update();
}

void PassTape::leaveEvent(QEvent*) {
    hovered_.clear();
    update();
}

} // namespace mirolux::app
