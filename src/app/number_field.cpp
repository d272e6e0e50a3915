#include "app/number_field.h"
#include "app/theme.h"
#include "core/base/text.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

namespace mirolux::app {

NumberField::NumberField(const Range& range, const QString& unit, QWidget* parent)
    : QWidget(parent), range_(range), unit_(unit) {
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setCursor(Qt::SizeHorCursor);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    setAttribute(Qt::WA_Hover);
}

void NumberField::set_value(double value) {
    if (value == value_) return;
    value_ = value;
    update();
}

void NumberField::set_word_for(double value, const QString& word) {
    wordValue_ = value;
    wordFor_ = word;
}

QString NumberField::text() const {
    if (value_ == wordValue_) return wordFor_;
    const double size = std::abs(value_);
    QString shown = range_.decimals == 0 ? QString::number(std::lround(value_))
                    : size >= 1000       ? QString::number(value_, 'f', 0)
                    : size >= 100        ? QString::number(value_, 'f', std::min(1, range_.decimals))
                                         : QString::number(value_, 'f', range_.decimals);
    if (shown.contains('.')) {
        while (shown.endsWith('0'))
            shown.chop(1);
        if (shown.endsWith('.')) shown.chop(1);
    }
    return unit_.isEmpty() ? shown : shown + " " + unit_;
}

void NumberField::change(double value) {
    value = std::clamp(value, range_.low, range_.high);
    if (range_.decimals == 0) value = std::round(value);
    if (value == value_) return;
    value_ = value;
    update();
    emit edited(value);
}

void NumberField::set_default(std::optional<double> value) {
    if (value == default_) return;
    default_ = value;
    update();
}

/// A logarithmic gauge that begins at 0 shows the last four powers of ten; its very beginning is 0.
double NumberField::share_of(double value) const {
    if (!range_.logarithmic) return std::clamp((value - range_.low) / (range_.high - range_.low), 0.0, 1.0);
    const double low = smallest();
    return std::clamp(std::log(std::max(value, low) / low) / std::log(range_.high / low), 0.0, 1.0);
}

double NumberField::value_at(double share) const {
    share = std::clamp(share, 0.0, 1.0);
    if (!range_.logarithmic) return range_.low + share * (range_.high - range_.low);
    if (share == 0) return range_.low;
    const double low = smallest();
    return low * std::pow(range_.high / low, share);
}

QRectF NumberField::gauge() const {
    if (range_.low < -1000) return {};
    return {8.0, height() - 6.0, width() - 8.0, 4.0};
}

QRectF NumberField::dot() const {
    return changed() ? QRectF(0, height() / 2.0 - 7, 7, 10) : QRectF();
}

void NumberField::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    if (hasFocus() || under_) p.fillRect(rect().adjusted(8, 0, 0, 0), t.field);
    p.setPen(isEnabled() ? t.text : t.quiet);
    // Value and unit apart: the number is what is read, the unit is told once.
    const QString all = text(), number = all == wordFor_ ? all : all.section(' ', 0, 0), unit = all.mid(number.size());
    const QRectF line(8, 1, width() - 9.0, height() - (gauge().isEmpty() ? 2.0 : 7.0));
    const QFontMetrics metrics(font());
    double right = line.right();
    if (!unit.isEmpty() && metrics.horizontalAdvance(all) < line.width()) {
        p.setPen(t.quiet);
        p.drawText(line, Qt::AlignRight | Qt::AlignVCenter, unit);
        right -= metrics.horizontalAdvance(unit);
    }
    p.setPen(isEnabled() ? t.text : t.quiet);
    p.setFont(sized(font(), 12, changed() ? QFont::DemiBold : QFont::Normal));
    p.drawText(QRectF(line.left(), line.top(), right - line.left(), line.height()), Qt::AlignRight | Qt::AlignVCenter,
               p.fontMetrics().elidedText(number, Qt::ElideRight, static_cast<int>(right - line.left())));
    if (changed()) {
        p.setPen(Qt::NoPen);
        p.setBrush(t.text);
        p.drawEllipse(QPointF(3, height() / 2.0 - 2), 2.2, 2.2);
    }
    const QRectF g = gauge();
    if (g.isEmpty()) return;
    const double y = g.top() + 1.5, x = g.left() + g.width() * share_of(value_);
    p.setPen(QPen(t.line, 1));
    p.drawLine(QPointF(g.left(), y), QPointF(g.right(), y));
    if (default_) { // the notch
        const double n = g.left() + g.width() * share_of(*default_);
        p.setPen(QPen(t.quiet, 1));
        p.drawLine(QPointF(n, y + 1), QPointF(n, y + 4));
    }
    p.setPen(QPen(hasFocus() || under_ ? t.text : t.quiet, 1.2));
    p.drawLine(QPointF(g.left(), y), QPointF(x, y));
    p.setPen(QPen(t.text, 2));
    p.drawLine(QPointF(x, y - 2.5), QPointF(x, y + 2.5));
}

void NumberField::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) return;
    if (dot().contains(e->position())) return change(*default_);
    down_ = true;
    moved_ = false;
    onGauge_ = !gauge().isEmpty() && e->position().y() >= gauge().top() - 3;
    pressX_ = e->pos().x();
    pressValue_ = value_;
}

void NumberField::mouseMoveEvent(QMouseEvent* e) {
    if (!down_) {
        const QRectF g = gauge();
        if (dot().contains(e->position()))
            emit considered(*default_);
        else if (!g.isEmpty() && e->position().y() >= g.top() - 3)
            emit considered(value_at((e->position().x() - g.left()) / g.width()));
        return;
    }
    const int dx = e->pos().x() - pressX_;
    if (!moved_ && std::abs(dx) < 3) return;
    if (!moved_) {
        moved_ = true;
        emit scrubbing(true);
    }
    if (onGauge_) return change(value_at((e->position().x() - gauge().left()) / gauge().width()));
    const double pace = e->modifiers() & Qt::ShiftModifier ? 0.1 : 1.0;
    if (range_.logarithmic)
        change(std::max(pressValue_, smallest()) * std::pow(1.0 + range_.step, dx * pace));
    else
        change(pressValue_ + dx * range_.step * pace);
}

void NumberField::mouseReleaseEvent(QMouseEvent* e) {
    if (down_ && !moved_ && onGauge_) change(value_at((e->position().x() - gauge().left()) / gauge().width()));
    if (moved_) emit scrubbing(false);
    down_ = moved_ = false;
}

/// A field that is not in use leaves the wheel to the bench, which scrolls.
void NumberField::wheelEvent(QWheelEvent* e) {
    if (!hasFocus()) return e->ignore();
    step(e->angleDelta().y() > 0 ? (e->modifiers() & Qt::ShiftModifier ? 1 : 10)
                                 : -(e->modifiers() & Qt::ShiftModifier ? 1 : 10));
}

void NumberField::enterEvent(QEnterEvent*) {
    under_ = true;
    update();
    emit hovered(true);
}

void NumberField::leaveEvent(QEvent*) {
    under_ = false;
    update();
    emit hovered(false);
}

void NumberField::mouseDoubleClickEvent(QMouseEvent*) {
    type();
}

void NumberField::step(double steps) {
    change(range_.decimals == 0 ? value_ + (steps > 0 ? 1 : -1)
           : range_.logarithmic ? std::max(value_, smallest()) * std::pow(1 + range_.step, steps)
                                : value_ + steps * range_.step);
}

void NumberField::keyPressEvent(QKeyEvent* e) {
    const double steps = e->modifiers() & Qt::ShiftModifier ? 1 : 10;
    if (e->key() == Qt::Key_Up || e->key() == Qt::Key_Right)
        step(steps);
    else if (e->key() == Qt::Key_Down || e->key() == Qt::Key_Left)
        step(-steps);
    else if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter)
        type();
    else if (e->key() == Qt::Key_Backspace && default_)
        change(*default_);
    else
        QWidget::keyPressEvent(e);
}

void NumberField::type() {
    if (!line_) {
        line_ = new QLineEdit(this);
        line_->setAlignment(Qt::AlignRight);
        connect(line_, &QLineEdit::editingFinished, this, &NumberField::take_typed);
    }
    line_->setText(QString::fromStdString(number_text(value_, 6)));
    line_->setGeometry(rect());
    line_->show();
    line_->selectAll();
    line_->setFocus();
}

void NumberField::take_typed() {
    if (!line_ || !line_->isVisible()) return;
    bool ok = false;
    const double v = line_->text().section(' ', 0, 0).toDouble(&ok);
    line_->hide();
    if (ok && std::isfinite(v)) change(v);
    setFocus();
}

void NumberField::resizeEvent(QResizeEvent*) {
    if (line_) line_->setGeometry(rect());
}

} // namespace mirolux::app
