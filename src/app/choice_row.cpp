#include "app/choice_row.h"
#include "app/theme.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

namespace mirolux::app {

static constexpr int lineHeight = 24, padding = 8;

ChoiceRow::ChoiceRow(const QStringList& words, QWidget* parent) : QWidget(parent), words_(words) {
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    QSizePolicy policy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    policy.setHeightForWidth(true);
    setSizePolicy(policy);
}

/// Right-aligned lines, each as full as it goes.
std::vector<QRect> ChoiceRow::cells(int width) const {
    const QFontMetrics metrics(sized(font(), 12, QFont::DemiBold));
    std::vector<QRect> result;
    std::size_t first = 0;
    int x = 0, y = 0;
    const auto end_line = [&] {
        for (; first < result.size(); ++first)
            result[first].translate(std::max(0, width - x), 0);
    };
    for (const QString& word : words_) {
        const int w = std::min(width, metrics.horizontalAdvance(word) + 2 * padding);
        if (x > 0 && x + w > width) {
            end_line();
            x = 0;
            y += lineHeight;
        }
        result.emplace_back(x, y, w, lineHeight);
        x += w;
    }
    end_line();
    return result;
}

void ChoiceRow::set_words(const QStringList& words) {
    words_ = words;
    current_ = 0;
    under_ = -1;
    setFixedHeight(heightForWidth(std::max(width(), 1)));
    updateGeometry();
    update();
}

QRect ChoiceRow::cell(int index) const {
    return cells(width()).at(static_cast<std::size_t>(index));
}
int ChoiceRow::heightForWidth(int width) const {
    return cells(width).back().bottom() + 1;
}
QSize ChoiceRow::sizeHint() const {
    int w = 0;
    for (const QRect& r : cells(100000))
        w += r.width();
    return {w, lineHeight};
}
QSize ChoiceRow::minimumSizeHint() const {
    int w = 0;
    for (const QRect& r : cells(100000))
        w = std::max(w, r.width());
    return {w, lineHeight};
}

/// As high as its lines: not every layout asks for the height that a width needs.
void ChoiceRow::resizeEvent(QResizeEvent*) {
    if (const int wanted = heightForWidth(width()); wanted != height()) setFixedHeight(wanted);
}

void ChoiceRow::set_current(int index) {
    if (index == current_) return;
    current_ = index;
    update();
}

void ChoiceRow::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    const auto all = cells(width());
    for (int i = 0; i < words_.size(); ++i) {
        const QRect& r = all[static_cast<std::size_t>(i)];
        const bool lit = i == current_;
        p.setPen(Qt::NoPen);
        p.setBrush(lit ? t.lit : i == under_ ? t.line : t.field);
        p.drawRoundedRect(QRectF(r).adjusted(0.5, 1.5, -0.5, -1.5), 2, 2);
        if (lit && hasFocus()) {
            p.setPen(QPen(t.ink, 1, Qt::DotLine));
            p.setBrush(Qt::NoBrush);
            p.drawRoundedRect(QRectF(r).adjusted(3, 4, -3, -4), 2, 2);
        }
        p.setPen(lit ? t.ink : isEnabled() ? t.text : t.quiet);
        p.setFont(sized(font(), 12, lit ? QFont::DemiBold : QFont::Normal));
        p.drawText(r, Qt::AlignCenter, p.fontMetrics().elidedText(words_[i], Qt::ElideRight, r.width() - 6));
    }
}

int ChoiceRow::at(const QPoint& p) const {
    const auto all = cells(width());
    for (std::size_t i = 0; i < all.size(); ++i)
        if (all[i].contains(p)) return static_cast<int>(i);
    return -1;
}

void ChoiceRow::choose(int index) {
    if (index < 0 || index >= words_.size() || index == current_) return;
    set_current(index);
    emit chosen(index);
}

void ChoiceRow::mousePressEvent(QMouseEvent* e) {
    if (e->button() == Qt::LeftButton) choose(at(e->pos()));
}

void ChoiceRow::mouseMoveEvent(QMouseEvent* e) {
    const int now = at(e->pos());
    if (now == under_) return;
    under_ = now;
    setCursor(now >= 0 ? Qt::PointingHandCursor : Qt::ArrowCursor);
    emit hovered(now);
    update();
}

void ChoiceRow::leaveEvent(QEvent*) {
    under_ = -1;
    emit hovered(-1);
    update();
}

void ChoiceRow::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Left || e->key() == Qt::Key_Up)
        choose(current_ - 1);
    else if (e->key() == Qt::Key_Right || e->key() == Qt::Key_Down)
        choose(current_ + 1);
    else
        QWidget::keyPressEvent(e);
}

} // namespace mirolux::app
