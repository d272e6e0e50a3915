#include "app/scrub_field.h"
#include "app/theme.h"
#include "core/base/text.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

namespace mirolux::app {

ScrubField::ScrubField(const Range& range, const QString& unit, QWidget* parent)
    : QWidget(parent), range_(range), unit_(unit) {
    setFocusPolicy(Qt::StrongFocus);
    setCursor(Qt::SizeHorCursor);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
}

void ScrubField::set_value(double value) {
    if (value == value_) return;
    value_ = value;
    update();
}

void ScrubField::set_word_for(double value, const QString& word) {
    wordValue_ = value;
    wordFor_ = word;
}

QString ScrubField::shown() const {
    if (value_ == wordValue_) return wordFor_;
    const double size = std::abs(value_);
    QString text = range_.decimals == 0 ? QString::number(std::lround(value_))
                   : size >= 1000       ? QString::number(value_, 'f', 0)
                   : size >= 100        ? QString::number(value_, 'f', std::min(1, range_.decimals))
                                        : QString::number(value_, 'f', range_.decimals);
    if (text.contains('.')) {
        while (text.endsWith('0'))
            text.chop(1);
        if (text.endsWith('.')) text.chop(1);
    }
    return unit_.isEmpty() ? text : text + " " + unit_;
}

void ScrubField::change(double value) {
    value = std::clamp(value, range_.low, range_.high);
    if (range_.decimals == 0) value = std::round(value);
    if (value == value_) return;
    value_ = value;
    update();
    emit edited(value);
}

void ScrubField::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    const QRectF r = QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5);
    p.setPen(hasFocus() ? t.accent : t.line);
    p.setBrush(t.field);
    p.drawRoundedRect(r, 3, 3);
    // Two small notches say that this can be pulled sideways.
    p.setPen(QPen(t.quiet, 1.2));
    const double y = height() / 2.0;
    const bool roomy = width() >= 76;
    if (roomy) {
        p.drawPolyline(QPolygonF({{8.5, y - 3}, {5.5, y}, {8.5, y + 3}}));
        p.drawPolyline(QPolygonF({{width() - 8.5, y - 3}, {width() - 5.5, y}, {width() - 8.5, y + 3}}));
    }
    p.setPen(isEnabled() ? t.text : t.quiet);
    const int margin = roomy ? 12 : 3;
    p.drawText(rect().adjusted(margin, 0, -margin, 0), Qt::AlignCenter,
               p.fontMetrics().elidedText(shown(), Qt::ElideRight, width() - 2 * margin));
}

void ScrubField::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) return;
    down_ = true;
    moved_ = false;
    pressX_ = e->pos().x();
    pressValue_ = value_;
}

void ScrubField::mouseMoveEvent(QMouseEvent* e) {
    if (!down_) return;
    const int dx = e->pos().x() - pressX_;
    if (!moved_ && std::abs(dx) < 3) return;
    if (!moved_) {
        moved_ = true;
        emit scrubbing(true);
    }
    const double pace = e->modifiers() & Qt::ShiftModifier ? 0.1 : 1.0;
    if (range_.logarithmic)
        change(std::max(pressValue_, std::max(range_.low, 1e-4)) * std::pow(1.0 + range_.step, dx * pace));
    else
        change(pressValue_ + dx * range_.step * pace);
}

void ScrubField::mouseReleaseEvent(QMouseEvent*) {
    if (moved_) emit scrubbing(false);
    down_ = moved_ = false;
}

void ScrubField::mouseDoubleClickEvent(QMouseEvent*) {
    type();
}

void ScrubField::keyPressEvent(QKeyEvent* e) {
    const double steps = e->modifiers() & Qt::ShiftModifier ? 1 : 10;
    auto by = [&](double n) {
        change(range_.decimals == 0 ? value_ + (n > 0 ? 1 : -1)
               : range_.logarithmic ? value_ * std::pow(1 + range_.step, n)
                                    : value_ + n * range_.step);
    };
    if (e->key() == Qt::Key_Up || e->key() == Qt::Key_Right)
        by(steps);
    else if (e->key() == Qt::Key_Down || e->key() == Qt::Key_Left)
        by(-steps);
    else if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter)
        type();
    else
        QWidget::keyPressEvent(e);
}

void ScrubField::type() {
    if (!line_) {
        line_ = new QLineEdit(this);
        line_->setAlignment(Qt::AlignCenter);
        connect(line_, &QLineEdit::editingFinished, this, &ScrubField::take_typed);
    }
    line_->setText(QString::fromStdString(number_text(value_, 6)));
    line_->setGeometry(rect());
    line_->show();
    line_->selectAll();
    line_->setFocus();
}

void ScrubField::take_typed() {
    if (!line_ || !line_->isVisible()) return;
    bool ok = false;
    const double v = line_->text().section(' ', 0, 0).toDouble(&ok);
    line_->hide();
    if (ok && std::isfinite(v)) change(v);
    setFocus();
}

void ScrubField::resizeEvent(QResizeEvent*) {
    if (line_) line_->setGeometry(rect());
}

} // namespace mirolux::app
