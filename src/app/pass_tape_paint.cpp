#include "app/deck_page.h"
#include "app/pass_tape.h"
#include "app/plots/plot.h"
#include "core/base/text.h"
#include <QPainter>
#include <cmath>

// What is painted of the tape: its head and scale, segments, the budget, B, the ghost of a choice, the band.
namespace mirolux::app {

/// Above the tape, right: the frame against its budget in words; left: how the numbers were obtained.
void PassTape::paint_head(QPainter& p) const {
    const Theme& t = theme();
    const QRectF line(0, 0, width() - 14.0, 18);
    if (shown().frames() == 0) {
        p.setFont(sized(font(), 11));
        p.setPen(t.quiet);
        p.drawText(line, Qt::AlignRight | Qt::AlignVCenter,
                   prediction_ ? tr("counting the frame's work") : tr("measuring the first frames"));
        return;
    }
    const double budget = budget_ms(document_.target()), median = shown().drawn();
    const bool over = median > budget;
    const QString total = tr("%1 of %2").arg(ms_text(median), ms_text(budget));
    p.setFont(sized(font(), 13, QFont::DemiBold));
    p.setPen(over ? t.alarm : t.text);
    p.drawText(line, Qt::AlignRight | Qt::AlignVCenter, total);
    const int totalWidth = p.fontMetrics().horizontalAdvance(total);
    p.setFont(sized(font(), 11));
    p.setPen(t.quiet);
    const bool unsure = prediction_ && prediction_->lowMs <= budget && prediction_->highMs > budget;
    const QString verdict = unsure ? tr("not sure: the error bar holds the budget")
                            : over
                                ? tr("over by %1 (%2 x)").arg(ms_text(median - budget)).arg(median / budget, 0, 'f', 1)
                                : tr("inside, %1 left").arg(ms_text(budget - median));
    const bool spoken = b_ || !pairLine_.isEmpty(); // the line is about two pictures
    if (!spoken) p.drawText(line.adjusted(0, 0, -12.0 - totalWidth, 0), Qt::AlignRight | Qt::AlignVCenter, verdict);
    const int room = width() - 14 - 26 - totalWidth - (spoken ? 0 : p.fontMetrics().horizontalAdvance(verdict) + 16);
    QString how = tr("medians of %1 frames, %2 clock; whiskers: middle half").arg(shown().frames()).arg(clock_);
    if (prediction_) {
        p.setPen(t.text);
        how = tr("predicted by profile %1%2, not measured; error bar %3 to %4")
                  .arg(QString::fromStdString(prediction_->profile), prediction_->madeUp ? tr(" (made up)") : QString(),
                       ms_text(prediction_->lowMs), ms_text(prediction_->highMs));
    } else if (!pairLine_.isEmpty()) {
        p.setPen(t.text);
        how = compared_ ? tr("medians of the comparison. ") + pairLine_ : pairLine_;
    } else if (shown().whole_median() > 0)
        how += tr("; unfenced frame %1").arg(ms_text(shown().whole_median()));
    p.drawText(QPointF(14, 13),
               p.fontMetrics().elidedText(how, spoken ? Qt::ElideMiddle : Qt::ElideRight, std::max(0, room)));
}

/// The empty tape, and ticks at a round step under the lowest one.
void PassTape::paint_scale(QPainter& p) const {
    const Theme& t = theme();
    const QRectF r = tape();
    const double scale = scale_ms(), bottom = b_ ? r.bottom() + r.height() + 22 : r.bottom();
    p.setPen(Qt::NoPen);
    p.setBrush(t.field);
    p.drawRect(r);
    p.setFont(sized(font(), 11));
    const double step = round_step(scale, 9);
    for (double v = 0; v <= scale + 1e-9; v += step) {
        const double x = r.left() + v * r.width() / scale;
        p.setPen(t.line);
        p.drawLine(QPointF(x, r.bottom()), QPointF(x, r.bottom() + 5));
        p.setPen(t.quiet);
        p.drawText(QRectF(x - 30, bottom + 4, 60, 14), Qt::AlignHCenter, QString::fromStdString(number_text(v)));
    }
}

/// One pass to scale: over the budget told by place and hatch before colour.
void PassTape::paint_segment(QPainter& p, const FrameHistory::PassCost& pass) const {
    const Theme& t = theme();
    const QRectF r = tape(), s = segment(pass.name);
    const QColor color = family_color(pass.family);
    p.setPen(Qt::NoPen);
    p.setBrush(hovered_ == pass.name ? color.lighter(112) : color);
    p.drawRect(s);
    const double budgetX = budget_x();
    const QRectF over = s.intersected(QRectF(budgetX, r.top(), r.right() - budgetX + 1, r.height()));
    if (!over.isEmpty()) {
        static const QBrush strokes = hatch(); // a hundred smooth lines would take longer than all the rest
        p.fillRect(over, strokes);
    }
    p.setPen(QPen(t.panel, 1));
    p.drawLine(s.topRight(), s.bottomRight());
    const bool lit = selected_.toStdString() == pass.name;
    if (lit) { // its family stays as a band
        p.setPen(Qt::NoPen);
        p.setBrush(t.lit);
        p.drawRect(s.adjusted(1, 0, -1, -6));
    }
}

/// Name and time in a segment; a plate behind the words keeps them readable on the hatch.
void PassTape::paint_words(QPainter& p, const FrameHistory::PassCost& pass, const QRectF& s, bool lit,
                           bool hatched) const {
    QRectF text = s.adjusted(6, 0, -4, 0);
    const double budgetX = budget_x();
    if (budgetX > text.left() - 6 && budgetX < text.left() + 90 && s.right() - budgetX > 90)
        text.setLeft(budgetX + 10); // keep clear of the budget line
    QStringList lines = {QString::fromStdString(pass.name), ms_text(pass.median)};
    if (b_) lines = {lines.join("  ")}; // two tapes leave room for one line
    int widest = 0;
    for (QString& line : lines) {
        if (p.fontMetrics().horizontalAdvance(line) > text.width()) return; // the legend says it; half a word does not
        widest = std::max(widest, p.fontMetrics().horizontalAdvance(line));
    }
    const double inset = b_ ? 6 : 7;
    p.setPen(Qt::NoPen);
    p.setBrush(family_color(pass.family).darker(150));
    if (hatched && !lit && widest > 0)
        p.drawRoundedRect(QRectF(text.left() - 4, text.top() + inset, widest + 8, text.height() - 2 * inset), 3, 3);
    p.setPen(lit ? theme().ink : Qt::white);
    if (b_) {
        p.drawText(text, Qt::AlignVCenter, lines.front());
        return;
    }
    p.drawText(text.adjusted(0, 8, 0, 0), Qt::AlignLeft | Qt::AlignTop, lines.front());
    p.drawText(text.adjusted(0, 0, 0, -8), Qt::AlignLeft | Qt::AlignBottom, lines.back());
}

/// Whiskers above the tape, at each pass's end: how far its end would move. And the error bar of a prediction.
void PassTape::paint_spread(QPainter& p) const {
    const Theme& t = theme();
    const QRectF r = tape();
    const double perMs = r.width() / scale_ms();
    const auto bar = [&](double low, double high, double y, double half) {
        p.drawLine(QPointF(low, y), QPointF(high, y));
        for (const double x : {low, high})
            p.drawLine(QPointF(x, y - half), QPointF(x, y + half));
    };
    double end = r.left();
    p.setPen(QPen(t.quiet, 1.2));
    for (const auto& pass : shown().passes()) {
        const double start = end;
        end += pass.median * perMs;
        const double low = std::min(start + pass.low * perMs, r.right()),
                     high = std::min(start + pass.high * perMs, r.right());
        if (high - low >= 1) bar(low, high, r.top() - 6, 3);
    }
    if (!prediction_ || shown().frames() == 0) return;
    p.setPen(QPen(t.text, 2));
    bar(r.left() + prediction_->lowMs * perMs, r.left() + prediction_->highMs * perMs, r.center().y(), 7);
}

void PassTape::paint_budget(QPainter& p) const {
    const QRectF r = tape();
    const double x = budget_x();
    p.setPen(QPen(theme().text, 2));
    p.drawLine(QPointF(x, r.top() - 20), QPointF(x, r.bottom() + 6));
    p.setFont(sized(font(), 11));
    const QString text = tr("budget %1").arg(ms_text(budget_ms(document_.target())));
    p.drawText(QPointF(std::min(x + 5, width() - 14.0 - p.fontMetrics().horizontalAdvance(text)), r.top() - 14), text);
}

/// The legend names what is too narrow to carry its own label.
void PassTape::paint_legend(QPainter& p) const {
    const Theme& t = theme();
    p.setFont(sized(font(), 11));
    for (const LegendEntry& entry : legend()) {
        p.setPen(Qt::NoPen);
        p.setBrush(family_color(entry.family));
        p.drawRect(QRectF(entry.place.left(), entry.place.top() + 5, 10, 10));
        const bool lit = selected_.toStdString() == entry.pass;
        if (lit) p.fillRect(entry.place.adjusted(12, 1, -14, -1), t.lit);
        p.setPen(lit ? t.ink : t.text);
        p.drawText(QPointF(entry.place.left() + 15, entry.place.top() + 14), entry.label);
    }
    if (notice_.isEmpty()) return;
    p.setPen(t.alarm);
    p.drawText(QPointF(14, tape().bottom() + 54), p.fontMetrics().elidedText(notice_, Qt::ElideRight, width() - 28));
}

/// B below A, and between them how each pass of B differs: grey where the middle halves overlap.
void PassTape::paint_b(QPainter& p) {
    const Theme& t = theme();
    const QRectF a = tape(), r = a.translated(0, a.height() + 22);
    const double perMs = r.width() / scale_ms();
    p.setFont(sized(font(), 14, QFont::Bold));
    p.setPen(t.a);
    p.drawText(QRectF(10, a.top(), 20, a.height()), Qt::AlignVCenter, "A");
    p.setPen(t.b);
    p.drawText(QRectF(10, r.top(), 20, r.height()), Qt::AlignVCenter, "B");
    p.setFont(sized(font(), 11));
    p.setPen(Qt::NoPen);
    p.setBrush(t.field);
    p.drawRect(r);
    if (shown_b().frames() == 0) {
        p.setPen(t.quiet);
        p.drawText(r.adjusted(8, 0, 0, 0), Qt::AlignVCenter, tr("B is on its way"));
        return;
    }
    double x = r.left();
    for (const auto& pass : shown_b().passes()) {
        const QRectF s(x, r.top(), pass.median * perMs, r.height());
        x = s.right();
        p.setPen(QPen(t.panel, 1));
        p.setBrush(family_color(pass.family));
        p.drawRect(s);
    }
    const double budgetX = r.left() + budget_ms(document_.target()) * perMs;
    p.setPen(QPen(t.text, 2));
    p.drawLine(QPointF(budgetX, a.bottom()), QPointF(budgetX, r.bottom() + 4));
    double left = r.left();
    for (const auto& pass : shown_b().passes()) { // over the budget's line
        const QRectF s(left, r.top(), pass.median * perMs, r.height());
        left = s.right();
        p.setFont(sized(font(), 11));
        if (s.width() > 52) paint_words(p, pass, s, false, s.left() < budgetX && s.right() > budgetX);
    }
    paint_changes(p, r);
    p.setFont(sized(font(), 11));
    p.setPen(t.text);
    const QString total = ms_text(shown_b().drawn());
    const int wide = p.fontMetrics().horizontalAdvance(total);
    if (x + wide + 12 >= r.right()) return;
    p.fillRect(QRectF(x + 5, r.top() + 7, wide + 6, r.height() - 14), t.field); // clear of the budget's line
    p.drawText(QRectF(x + 8, r.top(), 90, r.height()), Qt::AlignVCenter, total);
}

/// Over each pass of B: how it differs from A's, grey where the middle halves overlap; on plates, so that no line runs
/// through the words.
void PassTape::paint_changes(QPainter& p, const QRectF& r) const {
    const Theme& t = theme();
    const double perMs = r.width() / scale_ms();
    p.setFont(sized(font(), 11));
    double x = r.left(), free = r.left();
    for (const auto& pass : shown_b().passes()) {
        const double left = std::max(x + 2, free);
        x += pass.median * perMs;
        for (const auto& one : shown().passes()) {
            if (one.name != pass.name || pass.median * perMs < 30) continue;
            const bool real = pass.low > one.high || pass.high < one.low;
            const double change = pass.median - one.median;
            const QString text = (change > 0 ? "+" : "\u2212") + ms_text(std::abs(change));
            const QRectF plate(left, r.top() - 17, p.fontMetrics().horizontalAdvance(text) + 6, 14);
            p.fillRect(plate, t.panel);
            p.setPen(real ? t.text : t.quiet);
            p.drawText(plate, Qt::AlignCenter, text);
            free = plate.right() + 4;
        }
    }
}

/// Hollow, so that nobody takes it for measured; what would change has a solid outline.
void PassTape::paint_ghost(QPainter& p) const {
    if (ghostWords_.isEmpty()) return;
    const Theme& t = theme();
    p.setFont(sized(font(), 12));
    const QRectF line = ghost_line();
    if (b_) p.fillRect(line, t.panel);
    p.setPen(t.text);
    if (ghostLink_) {
        QFont f = p.font();
        f.setUnderline(true);
        p.setFont(f);
    }
    p.drawText(line, Qt::AlignVCenter,
               p.fontMetrics().elidedText(ghostWords_, Qt::ElideRight, static_cast<int>(line.width())));
    if (!ghost_) return;
    const QRectF r = ghost_tape();
    const double perMs = r.width() / scale_ms();
    p.setFont(sized(font(), 11));
    double x = r.left();
    for (const ForeseenPass& pass : ghost_->passes) {
        const QRectF s(x, r.top(), pass.ms * perMs, r.height());
        x = s.right();
        QColor fill = family_color(pass.family);
        fill.setAlpha(pass.changed ? 80 : 36);
        p.setPen(QPen(family_color(pass.family), 1, pass.changed ? Qt::SolidLine : Qt::DotLine));
        p.setBrush(fill);
        p.drawRect(s.adjusted(0.5, 0.5, -1, -0.5));
        const QString words = QString::fromStdString(pass.name) + "  " + ms_text(pass.ms);
        if (r.height() < 10 || p.fontMetrics().horizontalAdvance(words) + 10 > s.width()) continue;
        p.setPen(pass.changed ? t.text : t.quiet);
        p.drawText(s.adjusted(6, 0, 0, 0), Qt::AlignVCenter, words);
    }
    const double low = r.left() + ghost_->lowMs * perMs, high = r.left() + ghost_->highMs * perMs,
                 now = r.left() + ghost_->nowMs * perMs;
    p.setPen(QPen(t.quiet, 1, Qt::DotLine)); // where the present frame ends
    p.drawLine(QPointF(now, tape().bottom()), QPointF(now, r.bottom() + 3));
    const double y = r.bottom() + 3; // clear of the words
    p.setPen(QPen(t.text, 1.6));
    p.drawLine(QPointF(low, y), QPointF(high, y));
    for (const double end : {low, high})
        p.drawLine(QPointF(end, y - 4), QPointF(end, y + 2));
}

void PassTape::paint_band(QPainter& p) const {
    const Theme& t = theme();
    const QRectF r = tape();
    p.fillRect(r, t.field);
    for (const auto& pass : shown().passes())
        paint_segment(p, pass);
    p.setFont(sized(font(), 11));
    for (const auto& pass : shown().passes())
        if (const QRectF s = segment(pass.name); s.width() > 80) {
            p.setPen(selected_.toStdString() == pass.name ? t.ink : QColor(Qt::white));
            p.drawText(s.adjusted(6, 0, -4, 0), Qt::AlignVCenter,
                       p.fontMetrics().elidedText(QString::fromStdString(pass.name) + "  " + ms_text(pass.median),
                                                  Qt::ElideRight, static_cast<int>(s.width()) - 10));
        }
    p.setPen(QPen(t.text, 2));
    p.drawLine(QPointF(budget_x(), r.top() - 3), QPointF(budget_x(), r.bottom() + 3));
    const double budget = budget_ms(document_.target()), median = shown().drawn();
    p.setFont(sized(font(), 12, QFont::DemiBold));
    p.setPen(median > budget ? t.alarm : t.text);
    p.drawText(QRectF(r.right() + 8, 0, width() - r.right() - 20, height()), Qt::AlignRight | Qt::AlignVCenter,
               shown().frames() > 0 ? tr("%1 of %2").arg(ms_text(median), ms_text(budget)) : tr("measuring"));
}

void PassTape::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), theme().panel);
    if (!document_.is_open()) return;
    if (band_) return paint_band(p);
    paint_head(p);
    paint_scale(p);
    for (const auto& pass : shown().passes())
        paint_segment(p, pass);
    paint_spread(p);
    paint_budget(p);
    for (const auto& pass : shown().passes()) // over the budget's line
        if (const QRectF s = segment(pass.name); s.width() > 46)
            paint_words(p, pass, s, selected_.toStdString() == pass.name, s.right() > budget_x());
    if (b_)
        paint_b(p);
    else if (ghostWords_.isEmpty())
        paint_legend(p);
    paint_ghost(p);
}

} // namespace mirolux::app
