#include "app/entry_list.h"
#include "app/theme.h"
#include "core/cost/journal.h"
#include <QDateTime>
#include <QHelpEvent>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollBar>
#include <QToolTip>

namespace mirolux::app {

EntryList::EntryList(QWidget* parent) : QAbstractScrollArea(parent) {
    setFrameShape(QFrame::NoFrame);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setAccessibleName(tr("Logbook entries"));
    viewport()->setMouseTracking(true);
    note_ = new QLineEdit(viewport());
    note_->setPlaceholderText(tr("note"));
    note_->setToolTip(tr("Your own words about this state; Enter keeps them."));
    note_->hide();
    connect(note_, &QLineEdit::editingFinished, this, &EntryList::end_note);
}

void EntryList::show_entries(std::vector<EntryPoint> points,
                             std::function<std::vector<Entry>(const std::vector<std::int64_t>&)> fetch) {
    note_->hide();
    noteRow_ = -1;
    points_ = std::move(points);
    fetch_ = std::move(fetch);
    read_.clear();
    resizeEvent(nullptr);
    viewport()->update();
}

const EntryList::Shown* EntryList::shown(int row) {
    if (row < 0 || row >= rows()) return nullptr;
    const auto id_of = [&](int r) { return points_[points_.size() - 1 - static_cast<std::size_t>(r)].id; };
    if (const auto it = read_.find(id_of(row)); it != read_.end()) return &it->second;
    if (read_.size() > 400) read_.clear();
    std::vector<std::int64_t> wanted; // a few at once: the neighbours come into view next
    for (int r = std::max(0, row - 2); r < std::min(rows(), row + 6); ++r)
        if (!read_.count(id_of(r))) wanted.push_back(id_of(r));
    for (Entry& e : fetch_(wanted)) {
        QPixmap picture;
        picture.loadFromData(e.thumbnail.data(), static_cast<uint>(e.thumbnail.size()), "PNG");
        if (!picture.isNull()) picture = picture.scaledToWidth(170, Qt::SmoothTransformation);
        const std::int64_t id = e.id;
        read_.insert_or_assign(id, Shown{std::move(e), std::move(picture)});
    }
    const auto it = read_.find(id_of(row));
    return it == read_.end() ? nullptr : &it->second;
}

QRect EntryList::rect_of(int row, Part part) const {
    const int top = row * row_height - verticalScrollBar()->value(), w = viewport()->width(),
              foot = top + row_height - 26;
    switch (part) {
    case Part::note:
        return {8, foot - 20, w - 16, 18};
    case Part::restore:
        return {w - 116, foot, 56, 20};
    case Part::remove:
        return {w - 56, foot, 48, 20};
    default:
        return {0, top, w, row_height};
    }
}

std::pair<int, EntryList::Part> EntryList::at(const QPoint& point) const {
    const int row = (point.y() + verticalScrollBar()->value()) / row_height;
    if (row < 0 || row >= rows()) return {-1, Part::none};
    for (const Part part : {Part::restore, Part::remove, Part::note})
        if (rect_of(row, part).contains(point)) return {row, part};
    return {row, Part::none};
}

void EntryList::paint_row(QPainter& p, int row) {
    const Shown* s = shown(row);
    if (!s) return;
    const Entry& e = s->entry;
    const Theme& t = theme();
    const QRect r = rect_of(row, Part::none);
    const int left = 8, width = r.width() - 16;
    int y = r.top() + 6;
    QFont small = font(), strong = font();
    small.setPixelSize(11);
    strong.setPixelSize(13);
    strong.setWeight(QFont::DemiBold);
    const auto text = [&](const QFont& f, const QColor& c, const QString& what, int height) {
        p.setFont(f);
        p.setPen(c);
        p.drawText(QRect(left, y, width, height), Qt::AlignLeft | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(what, Qt::ElideRight, width));
        y += height;
    };
    text(small, t.quiet,
         QDateTime::fromString(QString::fromStdString(e.created), Qt::ISODate).toLocalTime().toString("d MMM HH:mm") +
             (e.recovered ? tr(", cut off") : QString()),
         15);
    if (!s->picture.isNull()) p.drawPixmap(left, y, s->picture);
    y = r.top() + 6 + 15 + 100;
    p.setFont(strong);
    p.setPen(e.budgetMs > 0 && e.frame.median > e.budgetMs ? t.alarm : t.text);
    const QString ms = tr("%1 ms").arg(e.frame.median, 0, 'f', 1);
    p.drawText(QRect(left, y, width, 18), Qt::AlignLeft | Qt::AlignVCenter, ms);
    const int after = p.fontMetrics().horizontalAdvance(ms) + 8;
    p.setFont(small);
    p.setPen(t.quiet);
    p.drawText(QRect(left + after, y, width - after, 18), Qt::AlignLeft | Qt::AlignVCenter,
               tr("%1 to %2").arg(e.frame.low, 0, 'f', 1).arg(e.frame.high, 0, 'f', 1));
    y += 18;
    const Shown* older = shown(row + 1);
    s = shown(row); // reading the other may have moved this one
    const Entry* before = older ? &older->entry : nullptr;
    const StepVerdict verdict = step_verdict(s->entry, before);
    if (verdict != StepVerdict::first)
        text(small,
             verdict == StepVerdict::faster   ? t.a
             : verdict == StepVerdict::slower ? t.alarm
                                              : t.quiet,
             QString::fromStdString(step_words(s->entry, before)), 14);
    const auto& changes = s->entry.changes;
    const int lines = verdict == StepVerdict::first ? 3 : 2;
    if (changes.empty()) text(small, t.quiet, tr("nothing changed"), 14);
    for (int i = 0; i < std::min<int>(lines, static_cast<int>(changes.size())); ++i) {
        QString one = QString::fromStdString(changes[static_cast<std::size_t>(i)]);
        if (i + 1 == lines && static_cast<int>(changes.size()) > lines)
            one = tr("%1, and %2 more").arg(one).arg(static_cast<int>(changes.size()) - lines);
        text(small, t.text, one, 14);
    }
    const QRect note = rect_of(row, Part::note);
    const bool hasNote = !s->entry.note.empty();
    QFont words = small;
    words.setItalic(!hasNote);
    p.setFont(words);
    p.setPen(hasNote ? t.text : t.quiet);
    p.drawText(note, Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(hasNote ? QString::fromStdString(s->entry.note) : tr("add a note"),
                                          Qt::ElideRight, note.width()));
    for (const auto& [part, label] : {std::pair{Part::restore, tr("Restore")}, {Part::remove, tr("Delete")}}) {
        const QRect b = rect_of(row, part);
        const bool under = hovered_ == std::pair{row, part};
        p.setFont(small);
        p.setPen(Qt::NoPen);
        p.setBrush(under ? t.field : t.panel);
        p.drawRoundedRect(b, 3, 3);
        p.setPen(under ? t.text : t.quiet);
        p.drawText(b, Qt::AlignCenter, label);
    }
    p.setPen(t.line);
    p.drawLine(0, r.bottom(), r.width(), r.bottom());
}

void EntryList::paintEvent(QPaintEvent*) {
    QPainter p(viewport());
    p.fillRect(viewport()->rect(), theme().panel);
    const int first = verticalScrollBar()->value() / row_height,
              last = (verticalScrollBar()->value() + viewport()->height()) / row_height;
    for (int row = first; row <= std::min(last, rows() - 1); ++row)
        paint_row(p, row);
}

void EntryList::resizeEvent(QResizeEvent*) {
    verticalScrollBar()->setPageStep(viewport()->height());
    verticalScrollBar()->setSingleStep(40);
    verticalScrollBar()->setRange(0, std::max(0, rows() * row_height - viewport()->height()));
}

void EntryList::scrollContentsBy(int, int) {
    if (noteRow_ >= 0) note_->setGeometry(rect_of(noteRow_, Part::note));
    viewport()->update();
}

void EntryList::mousePressEvent(QMouseEvent* e) {
    const auto [row, part] = at(e->pos());
    const Shown* s = shown(row);
    if (!s || e->button() != Qt::LeftButton) return;
    const qint64 id = s->entry.id;
    if (part == Part::restore)
        emit restore_wanted(id);
    else if (part == Part::remove)
        emit delete_wanted(id);
    else if (part == Part::note) {
        noteRow_ = row;
        note_->setText(QString::fromStdString(s->entry.note));
        note_->setGeometry(rect_of(row, Part::note));
        note_->show();
        note_->setFocus();
    }
}

void EntryList::end_note() {
    if (noteRow_ < 0) return;
    const int row = std::exchange(noteRow_, -1);
    note_->hide();
    const Shown* s = shown(row);
    if (!s) return;
    const std::string text = note_->text().trimmed().toStdString();
    if (text == s->entry.note) return;
    const qint64 id = s->entry.id;
    read_.at(id).entry.note = text;
    viewport()->update();
    emit annotated(id, QString::fromStdString(text));
}

void EntryList::mouseMoveEvent(QMouseEvent* e) {
    const auto now = at(e->pos());
    if (now == hovered_) return;
    hovered_ = now;
    viewport()->setCursor(now.second == Part::none   ? Qt::ArrowCursor
                          : now.second == Part::note ? Qt::IBeamCursor
                                                     : Qt::PointingHandCursor);
    viewport()->update();
}

void EntryList::leaveEvent(QEvent*) {
    hovered_ = {-1, Part::none};
    viewport()->update();
}

bool EntryList::viewportEvent(QEvent* event) {
    if (event->type() != QEvent::ToolTip) return QAbstractScrollArea::viewportEvent(event);
    auto* help = static_cast<QHelpEvent*>(event);
    const auto [row, part] = at(help->pos());
    const Shown* s = shown(row);
    QString text;
    if (s) {
        const Entry& e = s->entry;
        if (part == Part::restore)
            text = tr("Brings setup, lights and view back to this state; undo takes you back.");
        else if (part == Part::remove)
            text = tr("Takes the entry out of the logbook; Ctrl+B brings it back.");
        else if (part == Part::note)
            text = tr("Your own words about this state. Click to write.");
        else {
            text = tr("Median of %1 rounds with its 95 % interval; %2 clock, %3x%4, %5. Budget %6 ms.")
                       .arg(e.rounds)
                       .arg(QString::fromStdString(e.clock))
                       .arg(e.width)
                       .arg(e.height)
                       .arg(QString::fromStdString(e.device))
                       .arg(e.budgetMs, 0, 'f', 2);
            text += tr("\nA difference to the entry before is said only where the two intervals are apart. For a small "
                       "one measure A|B in paired rounds.");
            for (const std::string& c : e.changes)
                text += "\n" + QString::fromStdString(c);
        }
    }
    if (text.isEmpty())
        QToolTip::hideText();
    else
        QToolTip::showText(help->globalPos(), text, viewport());
    return true;
}

} // namespace mirolux::app
