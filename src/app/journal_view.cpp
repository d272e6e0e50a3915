#include "app/journal_view.h"
#include "app/read_out.h"
#include "app/theme.h"
#include "core/base/text.h"
#include <QDateTime>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>

namespace mirolux::app {

namespace {

constexpr int lanes = 6; // of step names over the plot
constexpr int laneHeight = 15;
constexpr std::size_t fewEntries = 400; // in view: each is drawn by itself; more are drawn as a band

} // namespace

JournalView::JournalView(QWidget* parent) : QWidget(parent) {
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setToolTip(
        tr("All entries over time. Left and Right walk them, Return restores one, + and - go nearer and farther."));
    setAccessibleName(tr("Change journal"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(14, 8, 14, 8);
    auto* bar = new QHBoxLayout;
    auto* title = new QLabel(tr("Journal"), this);
    title->setObjectName("title");
    auto* whole = new QPushButton(tr("Whole"), this);
    auto* report = new QPushButton(tr("Save report\u2026"), this);
    auto* back = new QPushButton(tr("Back to the picture"), this);
    whole->setToolTip(tr("Shows all entries again."));
    report->setToolTip(tr(
        "Writes the journal as a page that opens anywhere and prints well; or as CSV or JSON, by the name's ending."));
    back->setToolTip(tr("Closes the journal."));
    bar->addWidget(title);
    bar->addStretch(1);
    bar->addWidget(whole);
    bar->addWidget(report);
    bar->addWidget(back);
    column->addLayout(bar);
    column->addStretch(1);
    connect(whole, &QPushButton::clicked, this, &JournalView::show_whole);
    connect(report, &QPushButton::clicked, this, &JournalView::report_wanted);
    connect(back, &QPushButton::clicked, this, &JournalView::back_wanted);
}

void JournalView::show_entries(std::vector<EntryPoint> points,
                               std::function<std::vector<Entry>(const std::vector<std::int64_t>&)> fetch) {
    const bool grown = points.size() != points_.size();
    points_ = std::move(points);
    fetch_ = std::move(fetch);
    read_.clear();
    std::vector<std::int64_t> times;
    std::vector<double> tops;
    for (const EntryPoint& p : points_) {
        times.push_back(p.at);
        tops.push_back(p.highMs);
    }
    axis_ = journal_axis(times);
    most_ = 1;
    for (const EntryPoint& p : points_)
        most_ = std::max({most_, p.highMs * 1.06, p.budgetMs * 1.15});
    hovered_ = -1;
    if (picked_ >= static_cast<int>(points_.size())) picked_ = -1;
    if (grown) show_whole();
    update();
}

void JournalView::show_whole() {
    from_ = 0;
    to_ = 1;
    update();
}

QRectF JournalView::plot() const {
    return {70.0, 52.0 + lanes * laneHeight, width() - 70.0 - 20.0, height() - 52.0 - lanes * laneHeight - 96.0};
}

QPointF JournalView::place_of(std::size_t i) const {
    const QRectF r = plot();
    return {r.left() + 12 + (r.width() - 130) * (axis_.places[i] - from_) / (to_ - from_),
            r.bottom() - r.height() * points_[i].ms / most_};
}

int JournalView::point_at(const QPointF& at) const {
    int best = -1;
    double nearest = 14;
    const auto first = static_cast<std::size_t>(
        std::lower_bound(axis_.places.begin(), axis_.places.end(), from_ - 0.01) - axis_.places.begin());
    for (std::size_t i = first; i < points_.size() && axis_.places[i] <= to_ + 0.2 * (to_ - from_); ++i)
        if (const QPointF d = place_of(i) - at; std::hypot(d.x(), d.y()) < nearest) {
            nearest = std::hypot(d.x(), d.y());
            best = static_cast<int>(i);
        }
    return best;
}

const Entry* JournalView::entry(std::size_t i) {
    if (const auto it = read_.find(points_[i].id); it != read_.end()) return &it->second;
    for (Entry& e : fetch_({points_[i].id}))
        return &read_.insert_or_assign(points_[i].id, std::move(e)).first->second;
    return nullptr;
}

/// Each entry by itself: line, whiskers, marks, names in lanes over the plot.
void JournalView::paint_story(QPainter& p, std::size_t first, std::size_t last) {
    const Theme& t = theme();
    const QRectF r = plot();
    QPolygonF line;
    std::vector<double> xs, widths;
    std::vector<QString> names;
    const bool roomForNames = last - first <= 120;
    for (std::size_t i = first; i < last; ++i) {
        line << place_of(i);
        if (!roomForNames) continue;
        const Entry* e = entry(i);
        QString name = e ? QString::number(i + 1) + " " + QString::fromStdString(step_name(*e)) : QString();
        names.push_back(p.fontMetrics().elidedText(name, Qt::ElideRight, 250));
        widths.push_back(p.fontMetrics().horizontalAdvance(names.back()) + 12);
        xs.push_back(
            std::min(place_of(i).x(), r.right() - widths.back())); // near the end a name stands to the left of its mark
    }
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.quiet, 1.2));
    p.drawPolyline(line);
    const std::vector<int> lane = label_lanes(xs, widths, lanes);
    for (std::size_t i = first; i < last; ++i) {
        const EntryPoint& e = points_[i];
        const QPointF at = line[static_cast<int>(i - first)];
        const double ms = r.height() / most_;
        if (roomForNames && lane[i - first] >= 0) {
            const double y = 50 + laneHeight * lane[i - first];
            p.setPen(QPen(t.line, 1));
            p.drawLine(QPointF(at.x(), y + 13), QPointF(at.x(), at.y() - 8));
            p.setPen(static_cast<int>(i) == picked_ || static_cast<int>(i) == hovered_ ? t.lit : t.text);
            p.drawText(QPointF(xs[i - first] + 3, y + 11), names[i - first]);
            ++labels_;
        }
        if (axis_.pauses[i] && i > first) {
            p.setPen(t.quiet);
            p.drawText(QRectF(0.5 * (at.x() + line[static_cast<int>(i - first) - 1].x()) - 10, r.bottom() - 9, 20, 18),
                       Qt::AlignCenter, "//");
        }
        p.setPen(QPen(t.text, 1));
        p.drawLine(QPointF(at.x(), r.bottom() - e.lowMs * ms), QPointF(at.x(), r.bottom() - e.highMs * ms));
        const bool over = e.budgetMs > 0 && e.ms > e.budgetMs;
        p.setPen(QPen(static_cast<int>(i) == picked_ ? t.lit
                      : over                         ? t.alarm
                                                     : t.text,
                      static_cast<int>(i) == picked_ ? 2.5 : 1.5));
        p.setBrush(over ? t.panel : t.a);
        p.drawEllipse(at, 5, 5);
    }
}

/// The picked or hovered entry, below the plot: picture, figures, all of what changed.
void JournalView::paint_picked(QPainter& p) {
    const Theme& t = theme();
    const QRectF foot(70, height() - 70.0, width() - 90.0, 62);
    const int which = hovered_ >= 0 ? hovered_ : picked_;
    if (which < 0) {
        p.setPen(t.quiet);
        p.drawText(foot, Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap,
                   tr("Rest on a mark to read its step, double-click it to bring that state back. The wheel goes "
                      "nearer, dragging moves along. Hollow marks are over the budget."));
        return;
    }
    const Entry* e = entry(static_cast<std::size_t>(which));
    if (!e) return;
    QPixmap picture;
    picture.loadFromData(e->thumbnail.data(), static_cast<uint>(e->thumbnail.size()), "PNG");
    double x = foot.left();
    if (!picture.isNull()) {
        p.drawPixmap(QPointF(x, foot.top()), picture.scaledToHeight(60, Qt::SmoothTransformation));
        x += 60.0 * picture.width() / picture.height() + 12;
    }
    const EntryPoint* before = which > 0 ? &points_[static_cast<std::size_t>(which) - 1] : nullptr;
    const Entry* older = before ? entry(static_cast<std::size_t>(which) - 1) : nullptr;
    e = entry(static_cast<std::size_t>(which));
    QString head = tr("%1 ms  (%2 to %3, %4 rounds)")
                       .arg(e->frame.median, 0, 'f', 2)
                       .arg(e->frame.low, 0, 'f', 2)
                       .arg(e->frame.high, 0, 'f', 2)
                       .arg(e->rounds);
    const QString words = QString::fromStdString(step_words(*e, older));
    if (!words.isEmpty()) head += "   " + words;
    p.setPen(t.text);
    p.drawText(QRectF(x, foot.top(), foot.right() - x, 16), Qt::AlignLeft | Qt::AlignVCenter, head);
    QStringList all;
    if (!e->note.empty()) all << QString::fromStdString(e->note);
    for (const std::string& c : e->changes)
        all << QString::fromStdString(c);
    p.setPen(t.quiet);
    p.drawText(QRectF(x, foot.top() + 18, foot.right() - x, 44), Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap,
               all.join("; "));
}

void JournalView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    p.fillRect(rect(), t.panel);
    p.setFont(sized(font(), 11));
    labels_ = 0;
    if (points_.empty()) {
        p.setPen(t.quiet);
        p.drawText(rect(), Qt::AlignCenter,
                   tr("Nothing is logged yet. Log it (L) measures a state; change one thing, log again, and the story "
                      "stands here."));
        return;
    }
    const QRectF r = plot();
    const auto y = [&](double ms) { return r.bottom() - r.height() * ms / most_; };
    double step = std::pow(10.0, std::floor(std::log10(most_ / 3)));
    while (most_ / step > 7)
        step *= 2;
    for (double v = 0; v <= most_; v += step) {
        p.setPen(t.line);
        p.drawLine(QPointF(r.left(), y(v)), QPointF(r.right(), y(v)));
        p.setPen(t.quiet);
        p.drawText(QRectF(0, y(v) - 8, 62, 16), Qt::AlignRight | Qt::AlignVCenter,
                   QString::fromStdString(number_text(v)) + " ms");
    }
    const auto first = static_cast<std::size_t>(std::max<std::ptrdiff_t>(
        0, std::lower_bound(axis_.places.begin(), axis_.places.end(), from_) - axis_.places.begin() - 1));
    const double end = to_ + (to_ - from_) * 118 / std::max(1.0, r.width() - 130);
    const auto last = static_cast<std::size_t>(std::upper_bound(axis_.places.begin(), axis_.places.end(), end) -
                                               axis_.places.begin());
    // Budgets: a line for each stretch of entries that share one; under it, room to spare.
    p.save();
    p.setClipRect(r.adjusted(0, -lanes * laneHeight - 14, 0, 24));
    for (std::size_t i = first; i < last;) {
        std::size_t k = i;
        while (k + 1 < last && points_[k + 1].budgetMs == points_[i].budgetMs)
            ++k;
        if (points_[i].budgetMs <= 0) {
            i = k + 1;
            continue;
        }
        const double a = i == first ? r.left() : place_of(i).x() - 6,
                     b = k + 1 >= last ? r.right() : place_of(k + 1).x() - 6, budget = y(points_[i].budgetMs);
        p.fillRect(QRectF(a, budget, b - a, r.bottom() - budget), QColor(t.a.red(), t.a.green(), t.a.blue(), 18));
        p.setPen(QPen(t.text, 2));
        p.drawLine(QPointF(a, budget), QPointF(b, budget));
        const QString text = tr("budget %1 ms").arg(points_[i].budgetMs, 0, 'f', 2);
        const double w = p.fontMetrics().horizontalAdvance(text);
        if (b - a > w + 16) p.drawText(QPointF(b - w - 6, budget + 14), text); // inside, where few marks are
        i = k + 1;
    }
    if (last - first <= fewEntries)
        paint_story(p, first, last);
    else {
        // A band from the least to the most of each column of pixels, and a line through the middle.
        const int columns = std::max(1, static_cast<int>(r.width()));
        std::vector<double> low(static_cast<std::size_t>(columns), 1e300), high(static_cast<std::size_t>(columns), -1);
        const double perPlace =
            (r.width() - 130) / (to_ - from_); // as place_of, without its cost for each of very many
        for (std::size_t i = first; i < last; ++i) {
            const int c = std::clamp(static_cast<int>(12 + perPlace * (axis_.places[i] - from_)), 0, columns - 1);
            low[static_cast<std::size_t>(c)] = std::min(low[static_cast<std::size_t>(c)], points_[i].ms);
            high[static_cast<std::size_t>(c)] = std::max(high[static_cast<std::size_t>(c)], points_[i].ms);
        }
        p.setRenderHint(QPainter::Antialiasing, false);
        p.setPen(t.a);
        for (int c = 0; c < columns; ++c)
            if (high[static_cast<std::size_t>(c)] >= 0)
                p.drawLine(QPointF(r.left() + c, y(low[static_cast<std::size_t>(c)]) + 1),
                           QPointF(r.left() + c, y(high[static_cast<std::size_t>(c)]) - 1));
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(t.quiet);
        p.drawText(QRectF(r.left(), 50, r.width(), 16), Qt::AlignLeft,
                   tr("%L1 entries in view: go nearer with the wheel to read their names")
                       .arg(static_cast<qulonglong>(last - first)));
    }
    p.restore();
    double free = r.left() - 50;
    const bool closely =
        last - first > 1 && points_[last - 1].at - points_[first].at < 60 * static_cast<std::int64_t>(last - first);
    QString day;
    for (std::size_t i = first; i < last; i += std::max<std::size_t>(1, (last - first) / 400)) {
        const double x = place_of(i).x();
        if (x < r.left() || x - 44 < free) continue;
        const QDateTime when = QDateTime::fromSecsSinceEpoch(points_[i].at);
        const QString today = when.toString("d MMM"),
                      text = (today == day ? QString() : today + " ") + when.toString(closely ? "HH:mm:ss" : "HH:mm");
        p.setPen(t.quiet);
        p.drawText(QRectF(x - 45, r.bottom() + 7, 90, 14), Qt::AlignCenter, text);
        free = x + 44;
        day = today;
    }
    paint_picked(p);
}

void JournalView::wheelEvent(QWheelEvent* e) {
    const QRectF r = plot();
    const double share = std::clamp((e->position().x() - r.left() - 12) / std::max(1.0, r.width() - 130), 0.0, 1.0),
                 about = from_ + share * (to_ - from_);
    const double least = std::min(1.0, 3.0 / std::max<double>(3.0, static_cast<double>(points_.size())));
    const double span = std::clamp((to_ - from_) * std::pow(0.998, e->angleDelta().y()), least, 1.0);
    from_ = std::clamp(about - share * span, 0.0, 1.0 - span);
    to_ = from_ + span;
    update();
}

void JournalView::mousePressEvent(QMouseEvent* e) {
    picked_ = point_at(e->position());
    dragging_ = picked_ < 0;
    dragStart_ = e->position();
    dragFrom_ = from_;
    update();
}

void JournalView::mouseMoveEvent(QMouseEvent* e) {
    if (dragging_) {
        const double span = to_ - from_;
        from_ =
            std::clamp(dragFrom_ - (e->position().x() - dragStart_.x()) * span / std::max(1.0, plot().width() - 130),
                       0.0, 1.0 - span);
        to_ = from_ + span;
        update();
        return;
    }
    const int now = point_at(e->position());
    if (now == hovered_) return;
    hovered_ = now;
    setCursor(now >= 0 ? Qt::PointingHandCursor : Qt::ArrowCursor);
    update();
}

void JournalView::mouseReleaseEvent(QMouseEvent*) {
    dragging_ = false;
}

void JournalView::mouseDoubleClickEvent(QMouseEvent* e) {
    if (const int i = point_at(e->position()); i >= 0) emit restore_wanted(points_[static_cast<std::size_t>(i)].id);
}

/// Left and Right walk the entries, Return restores one, + and - go nearer and farther.
void JournalView::keyPressEvent(QKeyEvent* e) {
    if (points_.empty()) return QWidget::keyPressEvent(e);
    if ((e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) && picked_ >= 0)
        return emit restore_wanted(points_[static_cast<std::size_t>(picked_)].id);
    if (e->key() == Qt::Key_Plus || e->key() == Qt::Key_Minus) {
        QWheelEvent wheel(picked_ >= 0 ? place_of(static_cast<std::size_t>(picked_)) : QPointF(rect().center()), {}, {},
                          {0, e->key() == Qt::Key_Plus ? 240 : -240}, Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase,
                          false);
        return wheelEvent(&wheel);
    }
    const int to = walked_to(*e, picked_, static_cast<int>(points_.size()));
    if (to < 0) return QWidget::keyPressEvent(e);
    picked_ = to;
    const double at = axis_.places[static_cast<std::size_t>(to)], span = to_ - from_;
    if (at < from_ || at > to_) { // it comes into view
        from_ = std::clamp(at - span / 2, 0.0, 1.0 - span);
        to_ = from_ + span;
    }
    const EntryPoint& point = points_[static_cast<std::size_t>(to)];
    const Entry* of = entry(static_cast<std::size_t>(to));
    QStringList changes;
    if (of)
        for (const std::string& change : of->changes)
            changes << QString::fromStdString(change);
    read_out(this, tr("Entry %1 of %2: %3 ms%4. %5")
                       .arg(to + 1)
                       .arg(points_.size())
                       .arg(point.ms, 0, 'f', 2)
                       .arg(point.budgetMs > 0 ? tr(" of %1").arg(point.budgetMs, 0, 'f', 2) : QString(),
                            changes.join("; ")));
    update();
}

void JournalView::leaveEvent(QEvent*) {
    hovered_ = -1;
    update();
}

} // namespace mirolux::app
