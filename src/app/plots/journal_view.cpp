#include "app/plots/journal_view.h"
#include "app/read_out.h"
#include "app/theme.h"
#include "core/base/text.h"
#include <QDateTime>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <cmath>

namespace mirolux::app {

namespace {

constexpr int lanes = 6; // of step names over the plot
constexpr int laneHeight = 15;
constexpr std::size_t fewEntries = 400;   // in view: each has its mark and its interval; of more only the line is drawn
constexpr std::size_t namedEntries = 120; // in view: each is named as far as there is room
constexpr double roomAfter = 0.14;        // of the axis, after the last entry: its name

} // namespace

/// Names the time of entries that stand far enough apart, the day where it is another than before.
class JournalView::EntryTicker : public QCPAxisTicker {
public:
    explicit EntryTicker(const JournalView& view) : view_(view) {}

protected:
    QVector<double> createTickVector(double, const QCPRange&) override {
        labels_.clear();
        QVector<double> out;
        const auto [first, last] = view_.in_view();
        const bool closely = last - first > 1 && view_.points_[last - 1].at - view_.points_[first].at <
                                                     60 * static_cast<std::int64_t>(last - first);
        double free = view_.area().left() - 50;
        QString day;
        for (std::size_t i = first; i < last; i += std::max<std::size_t>(1, (last - first) / 400)) {
            const double x = view_.place_of(i).x();
            if (x < view_.area().left() || x - 44 < free) continue;
            const QDateTime when = QDateTime::fromSecsSinceEpoch(view_.points_[i].at);
            const QString today = when.toString("d MMM");
            labels_[view_.axis_.places[i]] =
                (today == day ? QString() : today + " ") + when.toString(closely ? "HH:mm:ss" : "HH:mm");
            out << view_.axis_.places[i];
            free = x + 44;
            day = today;
        }
        return out;
    }
    int getSubTickCount(double) override { return 0; }
    QString getTickLabel(double tick, const QLocale&, QChar, int) override { return labels_.value(tick); }

private:
    const JournalView& view_;
    QMap<double, QString> labels_;
};

JournalView::JournalView(QWidget* parent) : Plot(parent) {
    setToolTip(
        tr("All entries over time. Left and Right walk them, Return restores one, + and - go nearer and farther, "
           "Backspace shows all again."));
    setAccessibleName(tr("Change journal"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(14, 8, 14, 8);
    auto* bar = new QHBoxLayout;
    auto* title = new QLabel(tr("Journal"), this);
    title->setObjectName("title");
    auto* latest = new QPushButton(tr("Latest"), this);
    auto* whole = new QPushButton(tr("Whole"), this);
    auto* report = new QPushButton(tr("Save report\u2026"), this);
    auto* back = new QPushButton(tr("Back to the picture"), this);
    latest->setToolTip(tr("Goes near to the last twelve entries (Shift+J)."));
    whole->setToolTip(tr("Shows all entries again (Backspace)."));
    report->setToolTip(tr(
        "Writes the journal as a page that opens anywhere and prints well; or as CSV or JSON, by the name's ending."));
    back->setToolTip(tr("Closes the journal."));
    bar->addWidget(title);
    bar->addStretch(1);
    bar->addWidget(latest);
    bar->addWidget(whole);
    bar->addWidget(report);
    bar->addWidget(back);
    column->addLayout(bar);
    column->addStretch(1);
    connect(latest, &QPushButton::clicked, this, &JournalView::show_latest);
    connect(whole, &QPushButton::clicked, this, &JournalView::show_whole);
    connect(report, &QPushButton::clicked, this, &JournalView::report_wanted);
    connect(back, &QPushButton::clicked, this, &JournalView::back_wanted);
    set_room(70, 52 + lanes * laneHeight, 20, 96);
    xAxis->setTicker(QSharedPointer<QCPAxisTicker>(new EntryTicker(*this)));
    yAxis->setTicker(unit_ticker("ms"));
    budget_ = addGraph();
    line_ = addGraph();
    middles_ = addGraph();
    intervals_ = new QCPErrorBars(xAxis, yAxis);
    within_ = addGraph();
    over_ = addGraph();
    intervals_->setDataPlottable(middles_);
    intervals_->setWhiskerWidth(0);
    intervals_->setSymbolGap(0);
    for (QCPGraph* marks : {middles_, within_, over_})
        marks->setLineStyle(QCPGraph::lsNone);
    restyle();
}

void JournalView::restyle() {
    Plot::restyle();
    if (!budget_) return; // the base's own call
    const Theme& t = theme();
    budget_->setPen(QPen(t.text, 2));
    budget_->setBrush(QColor(t.a.red(), t.a.green(), t.a.blue(), 18));
    intervals_->setPen(QPen(t.text, 1));
    within_->setScatterStyle({QCPScatterStyle::ssCircle, QPen(t.text, 1.5), t.a, 10});
    over_->setScatterStyle({QCPScatterStyle::ssCircle, QPen(t.alarm, 1.5), t.panel, 10});
}

void JournalView::show_entries(std::vector<EntryPoint> points,
                               std::function<std::vector<Entry>(const std::vector<std::int64_t>&)> fetch) {
    const bool grown = points.size() != points_.size();
    points_ = std::move(points);
    fetch_ = std::move(fetch);
    read_.clear();
    std::vector<std::int64_t> times;
    double most = 1;
    for (const EntryPoint& p : points_) {
        times.push_back(p.at);
        most = std::max({most, p.highMs * 1.06, p.budgetMs * 1.15});
    }
    axis_ = journal_axis(times);
    hovered_ = -1;
    labels_ = 0;
    if (picked_ >= static_cast<int>(points_.size())) picked_ = -1;
    draw_line();
    draw_budgets();
    set_bounds({-0.015, 1 + roomAfter}, {0, most}, 0.3 / std::max(1.0, static_cast<double>(points_.size())));
    if (grown) show_whole();
}

void JournalView::show_latest() {
    if (points_.empty()) return;
    constexpr std::size_t latest = 12;
    const double from = axis_.places[points_.size() > latest ? points_.size() - latest : 0];
    const double span = std::max(1 - from, 1e-9);
    double most = 1;
    for (std::size_t i = points_.size() > latest ? points_.size() - latest : 0; i < points_.size(); ++i)
        most = std::max({most, points_[i].highMs * 1.06, points_[i].budgetMs * 1.15});
    xAxis->setRange(from - 0.015 * span, 1 + roomAfter * span);
    yAxis->setRange(0, most);
    redraw();
}

void JournalView::draw_line() {
    QVector<QCPGraphData> all;
    all.reserve(static_cast<qsizetype>(points_.size()));
    for (std::size_t i = 0; i < points_.size(); ++i)
        all.append({axis_.places[i], points_[i].ms});
    line_->data()->set(all, true);
}

/// A line for each stretch of entries that share a budget, from halfway before its first to halfway after its last;
/// under it, room to spare.
void JournalView::draw_budgets() {
    QVector<QCPGraphData> budgets;
    const auto halfway = [&](std::size_t i) { return 0.5 * (axis_.places[i - 1] + axis_.places[i]); };
    for (std::size_t i = 0; i < points_.size();) {
        std::size_t k = i;
        while (k + 1 < points_.size() && points_[k + 1].budgetMs == points_[i].budgetMs)
            ++k;
        const double from = i == 0 ? -1 : halfway(i), to = k + 1 == points_.size() ? 2 : halfway(k + 1);
        if (points_[i].budgetMs > 0)
            for (const double x : {from, to})
                budgets.append({x, points_[i].budgetMs});
        budgets.append({to, std::nan("")});
        i = k + 1;
    }
    budget_->data()->set(budgets, true);
}

/// Few entries: each with its mark and interval (given for what is in view alone: intervals are looked for one by one);
/// many: the line alone, which then says how far they spread.
void JournalView::before_drawing() {
    if (!budget_) return; // not built yet
    const auto [first, last] = in_view();
    const bool few = last - first <= fewEntries;
    QVector<QCPGraphData> within, over, all;
    QVector<QCPErrorBarsData> intervals;
    for (std::size_t i = first; few && i < last; ++i) {
        const EntryPoint& p = points_[i];
        (p.budgetMs > 0 && p.ms > p.budgetMs ? over : within).append({axis_.places[i], p.ms});
        all.append({axis_.places[i], p.ms});
        intervals.append({p.ms - p.lowMs, p.highMs - p.ms});
    }
    within_->data()->set(within, true);
    over_->data()->set(over, true);
    middles_->data()->set(all, true);
    intervals_->data()->swap(intervals);
    line_->setPen(few ? QPen(theme().quiet, 1.2) : QPen(theme().a, 1));
    line_->setAntialiased(few);
    setPlottingHint(QCP::phFastPolylines, !few);
}

QString JournalView::empty_words() const {
    if (!points_.empty()) return {};
    return tr("Nothing is logged yet. Log it (L) measures a state; change one thing, log again, and the story stands "
              "here.");
}

QPointF JournalView::place_of(std::size_t i) const {
    return place(axis_.places[i], points_[i].ms);
}

std::pair<std::size_t, std::size_t> JournalView::in_view() const {
    const auto begin = axis_.places.begin(), end = axis_.places.end();
    const auto first = std::lower_bound(begin, end, xAxis->range().lower) - begin;
    const auto last = std::upper_bound(begin, end, xAxis->range().upper) - begin;
    return {static_cast<std::size_t>(std::max<std::ptrdiff_t>(0, first - 1)), static_cast<std::size_t>(last)};
}

int JournalView::point_at(const QPointF& at) const {
    int best = -1;
    double nearest = 14;
    const auto [first, last] = in_view();
    const double perPlace = area().width() / xAxis->range().size(), left = area().left() - at.x();
    for (std::size_t i = first; i < last; ++i) {
        if (std::abs(left + perPlace * (axis_.places[i] - xAxis->range().lower)) > nearest) continue;
        if (const QPointF d = place_of(i) - at; std::hypot(d.x(), d.y()) < nearest) {
            nearest = std::hypot(d.x(), d.y());
            best = static_cast<int>(i);
        }
    }
    return best;
}

const Entry* JournalView::entry(std::size_t i) {
    if (const auto it = read_.find(points_[i].id); it != read_.end()) return &it->second;
    for (Entry& e : fetch_({points_[i].id}))
        return &read_.insert_or_assign(points_[i].id, std::move(e)).first->second;
    return nullptr;
}

/// The steps' names in lanes over the plot, a line down to each mark; cuts of long pauses.
void JournalView::paint_names(QPainter& p, std::size_t first, std::size_t last) {
    const Theme& t = theme();
    const QRectF r = area();
    std::vector<double> xs, widths;
    std::vector<QString> names;
    for (std::size_t i = first; i < last; ++i) {
        const Entry* e = entry(i);
        const QString name = e ? QString::number(i + 1) + " " + QString::fromStdString(step_name(*e)) : QString();
        names.push_back(p.fontMetrics().elidedText(name, Qt::ElideRight, 250));
        widths.push_back(p.fontMetrics().horizontalAdvance(names.back()) + 12);
        xs.push_back(
            std::min(place_of(i).x(), r.right() - widths.back())); // near the end a name stands to the left of its mark
    }
    const std::vector<int> lane = label_lanes(xs, widths, lanes);
    for (std::size_t i = first; i < last; ++i) {
        const QPointF at = place_of(i);
        if (const int in = lane[i - first]; in >= 0 && at.x() >= r.left() - 1) {
            const double y = 50 + laneHeight * in;
            p.setPen(QPen(t.line, 1));
            p.drawLine(QPointF(at.x(), y + 13), QPointF(at.x(), std::max(y + 13, at.y() - 8)));
            p.setPen(static_cast<int>(i) == picked_ || static_cast<int>(i) == hovered_ ? t.lit : t.text);
            p.drawText(QPointF(xs[i - first] + 3, y + 11), names[i - first]);
            ++labels_;
        }
        if (i > first && axis_.pauses[i]) {
            p.setPen(t.quiet);
            p.drawText(QRectF(0.5 * (at.x() + place_of(i - 1).x()) - 10, r.bottom() - 9, 20, 18), Qt::AlignCenter,
                       "//");
        }
    }
}

/// What the budget is, at the end of each stretch that has room for the words.
void JournalView::paint_budget_words(QPainter& p, std::size_t first, std::size_t last) const {
    const QRectF r = area();
    p.setPen(theme().text);
    for (std::size_t i = first; i < last;) {
        std::size_t k = i;
        while (k + 1 < last && points_[k + 1].budgetMs == points_[i].budgetMs)
            ++k;
        const double from = i == first ? r.left() : place_of(i).x(),
                     to = k + 1 >= last ? r.right() : 0.5 * (place_of(k).x() + place_of(k + 1).x()),
                     y = yAxis->coordToPixel(points_[i].budgetMs);
        const QString text = tr("budget %1 ms").arg(points_[i].budgetMs, 0, 'f', 2);
        const double w = p.fontMetrics().horizontalAdvance(text);
        if (points_[i].budgetMs > 0 && to - from > w + 16 && y > r.top() && y < r.bottom())
            p.drawText(QPointF(to - w - 6, y + 14), text); // inside, where few marks are
        i = k + 1;
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
                      "nearer (Shift: in height), dragging moves along. Hollow marks are over the budget."));
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

void JournalView::paint_over(QPainter& p) {
    const QRectF r = area();
    const auto [first, last] = in_view();
    labels_ = 0;
    p.save();
    p.setClipRect(r.adjusted(0, -lanes * laneHeight - 14, 0, 24));
    paint_budget_words(p, first, last);
    if (last - first <= namedEntries)
        paint_names(p, first, last);
    else {
        p.setPen(theme().quiet);
        p.drawText(QRectF(r.left(), 50, r.width(), 16), Qt::AlignLeft,
                   tr("%L1 entries in view: go nearer with the wheel to read their names")
                       .arg(static_cast<qulonglong>(last - first)));
    }
    if (picked_ >= 0) {
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(theme().lit, 2.5));
        p.drawEllipse(place_of(static_cast<std::size_t>(picked_)), 6, 6);
    }
    p.restore();
    paint_picked(p);
}

void JournalView::mousePressEvent(QMouseEvent* e) {
    picked_ = point_at(e->position());
    if (picked_ < 0) Plot::mousePressEvent(e); // drags
    update();
}

void JournalView::mouseMoveEvent(QMouseEvent* e) {
    Plot::mouseMoveEvent(e);
    const int now = e->buttons() ? hovered_ : point_at(e->position());
    if (now == hovered_) return;
    hovered_ = now;
    setCursor(now >= 0 ? Qt::PointingHandCursor : Qt::ArrowCursor);
    update();
}

void JournalView::mouseDoubleClickEvent(QMouseEvent* e) {
    if (const int i = point_at(e->position()); i >= 0)
        emit restore_wanted(points_[static_cast<std::size_t>(i)].id);
    else
        Plot::mouseDoubleClickEvent(e);
}

/// Left and Right walk the entries, Return restores one, + and - go nearer and farther.
void JournalView::keyPressEvent(QKeyEvent* e) {
    if (points_.empty()) return QWidget::keyPressEvent(e);
    if ((e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) && picked_ >= 0)
        return emit restore_wanted(points_[static_cast<std::size_t>(picked_)].id);
    if (zoom_key(*e, picked_ >= 0 ? place_of(static_cast<std::size_t>(picked_)) : area().center())) return;
    const int to = walked_to(*e, picked_, static_cast<int>(points_.size()));
    if (to < 0) return QWidget::keyPressEvent(e);
    picked_ = to;
    const double at = axis_.places[static_cast<std::size_t>(to)], span = xAxis->range().size();
    if (!xAxis->range().contains(at)) { // it comes into view
        xAxis->setRange(at, span, Qt::AlignCenter);
        redraw();
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
