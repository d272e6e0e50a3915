#include "app/ledger_cut.h"
#include "app/read_out.h"
#include "app/theme.h"
#include "core/base/text.h"
#include <QComboBox>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollBar>

namespace mirolux::app {

namespace {

constexpr int nameWidth = 190, numberWidth = 62, boxLeft = 12;

QString share_text(double share) {
    return QString::number(share * 100, 'f', share < 0.0995 ? 2 : 1) + " %";
}

QString ambient_name(const AmbientRow& r) {
    return r.source == "ambient"        ? LedgerCut::tr("ambient light")
           : r.source == "surroundings" ? LedgerCut::tr("surroundings")
           : r.source == "probes"       ? LedgerCut::tr("probes")
                                        : LedgerCut::tr("the screen");
}

/// What ambient light gives, and where it comes from if that is more than the surroundings.
QString ambient_words(const Ledger& ledger) {
    if (ledger.ambient.empty()) return {};
    QStringList parts;
    for (std::size_t i = 2; i < ledger.ambient.size(); ++i)
        parts << ambient_name(ledger.ambient[i]) + " " + share_text(ledger.ambient[i].contributionShare);
    return LedgerCut::tr(", ambient %1").arg(share_text(ledger.ambient[0].contributionShare)) +
           (parts.isEmpty() ? QString() : " (" + parts.join(", ") + ")");
}

/// Where the parts of a row lie: the two bars meet at `middle`.
struct Columns {
    double left, middle, right;
};
Columns columns_of(int width) {
    const double left = boxLeft + 22 + nameWidth + numberWidth + 60, right = width - numberWidth - 74;
    return {left, 0.5 * (left + right), right};
}

} // namespace

LedgerCut::LedgerCut(Document& document, QWidget* parent) : QAbstractScrollArea(parent), document_(document) {
    setFrameShape(QFrame::NoFrame);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    viewport()->setMouseTracking(true);
    viewport()->setAutoFillBackground(false);
    setAccessibleName(tr("Ledger"));
    setFocusPolicy(Qt::StrongFocus);
    setToolTip(tr("What each light costs and gives. Up and Down walk the rows, Space switches, Return selects."));
    verticalScrollBar()->setSingleStep(rowHeight);
    controls_ = new QWidget(this);
    auto* row = new QHBoxLayout(controls_);
    row->setContentsMargins(0, 0, 0, 0);
    sums_ = new QLabel(controls_);
    sums_->setObjectName("quiet");
    row->addWidget(sums_);
    row->addSpacing(10);
    orderBox_ = new QComboBox(controls_);
    orderBox_->setObjectName("ledger order");
    orderBox_->setAccessibleName(tr("Order of the ledger"));
    orderBox_->addItems(
        {tr("most costly first"), tr("most giving first"), tr("least giving for its cost first"), tr("by name")});
    orderBox_->setToolTip(tr("The order of the ledger's rows."));
    row->addWidget(orderBox_);
    connect(orderBox_, &QComboBox::activated, this, [this](int i) { set_order(static_cast<LedgerOrder>(i)); });
}

void LedgerCut::set_order(LedgerOrder order) {
    order_ = order;
    orderBox_->setCurrentIndex(static_cast<int>(order));
    arrange();
}

void LedgerCut::show_ledger(const Ledger& ledger) {
    ledger_ = ledger;
    stale_ = false;
    arrange();
    reveal();
}

void LedgerCut::set_stale() {
    if (stale_) return;
    stale_ = true;
    arrange();
}

void LedgerCut::select_lights(const std::vector<int>& ids) {
    selected_ = ids;
    const QRect row = ids.empty() ? QRect() : row_of(ids.back());
    if (!row.isNull() && !viewport()->rect().contains(row))
        verticalScrollBar()->setValue(verticalScrollBar()->value() + row.center().y() - viewport()->height() / 2);
    viewport()->update();
}

void LedgerCut::select_cheap(int id) {
    if (std::exchange(selectedCheap_, id) == id) return;
    reveals_ = true;
    reveal();
    viewport()->update();
}

/// Brings the chosen cheap light's row into view, once it has one.
void LedgerCut::reveal() {
    const QRect row = row_of_cheap(selectedCheap_);
    if (!reveals_ || row.isNull()) return;
    reveals_ = false;
    if (!viewport()->rect().adjusted(0, 20, 0, 0).contains(row))
        verticalScrollBar()->setValue(verticalScrollBar()->value() + row.center().y() - viewport()->height() / 2);
}

void LedgerCut::arrange() {
    shown_.clear();
    rows_.clear();
    longest_ = 0;
    for (const std::size_t i : ordered(ledger_, order_)) {
        const LedgerRow& r = ledger_.rows[i];
        if (!r.inView && r.enabled) continue; // outside this view: neither costs nor gives
        shown_.push_back(r.light);
        rows_.push_back(i);
        longest_ = std::max({longest_, r.costShare, r.contributionShare});
    }
    cheap_.clear();
    for (std::size_t i = 0; i < ledger_.cheap.size(); ++i)
        if (const CheapRow& r = ledger_.cheap[i]; r.inView || !r.enabled) {
            cheap_.push_back(i);
            longest_ = std::max({longest_, share_of(r), std::abs(r.contributionShare)});
        }
    for (const AmbientRow& r : ledger_.ambient)
        longest_ = std::max(longest_, r.contributionShare);
    if (ledger_.rows.empty())
        sums_->clear();
    else
        sums_->setText((stale_ ? tr("counting again\u2026  ") : QString()) +
                       tr("%L1 light evaluations in %2 ms of shading; lights give %3 of the picture's light%4")
                           .arg(static_cast<qulonglong>(ledger_.evaluations))
                           .arg(ledger_.shadingMs, 0, 'f', 1)
                           .arg(share_text(ledger_.lightShare), ambient_words(ledger_)));
    verticalScrollBar()->setRange(0, std::max(0, row_count() * rowHeight + 20 - viewport()->height()));
    verticalScrollBar()->setPageStep(viewport()->height());
    viewport()->update();
}

QRect LedgerCut::rect_of(int row) const {
    return {0, 20 + row * rowHeight - verticalScrollBar()->value(), viewport()->width(), rowHeight};
}

QRect LedgerCut::row_of(int light) const {
    for (std::size_t i = 0; i < shown_.size(); ++i)
        if (shown_[i] == light) return rect_of(static_cast<int>(i));
    return {};
}

QRect LedgerCut::row_of_cheap(int light) const {
    for (int i = static_cast<int>(rows_.size()); i < lamp_count(); ++i)
        if (cheap_at(i).light == light) return rect_of(i);
    return {};
}

double LedgerCut::share_of(const CheapRow& r) const {
    return ledger_.shadingMs > 0 ? r.ms / ledger_.shadingMs : 0;
}

QRect LedgerCut::box_of(int light) const {
    const QRect r = row_of(light);
    return r.isNull() ? r : QRect(boxLeft, r.top() + 3, 13, 13);
}

int LedgerCut::row_at(const QPoint& at) const {
    const int i = (at.y() - 20 + verticalScrollBar()->value()) / rowHeight;
    return at.y() >= 20 && i >= 0 && i < row_count() ? i : -1;
}

void LedgerCut::paintEvent(QPaintEvent*) {
    QPainter p(viewport());
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    p.fillRect(viewport()->rect(), t.panel);
    p.setFont(sized(font(), 11));
    if (ledger_.rows.empty()) {
        p.setPen(t.quiet);
        p.drawText(viewport()->rect(), Qt::AlignCenter,
                   document_.is_open() ? tr("Counting what each light costs and gives\u2026")
                                       : tr("Open a scene: its lights' costs stand here"));
        return;
    }
    const Columns c = columns_of(viewport()->width());
    const int first = verticalScrollBar()->value() / rowHeight;
    p.setOpacity(stale_ ? 0.55 : 1.0);
    for (int i = std::max(0, first - 1);
         i < static_cast<int>(rows_.size()) && i <= first + viewport()->height() / rowHeight + 1; ++i) {
        const LedgerRow& r = ledger_.rows[rows_[static_cast<std::size_t>(i)]];
        const QRectF row = row_of(r.light);
        const Light* now = document_.light(r.light);
        const bool selected = std::find(selected_.begin(), selected_.end(), r.light) != selected_.end();
        if (selected || i == hovered_) p.fillRect(row, selected ? t.field : t.window);
        if (selected) p.fillRect(QRectF(0, row.top(), 3, row.height()), t.lit);
        const bool on = now && now->enabled;
        paint_box(p, row, on);
        p.setPen(on ? t.text : t.quiet);
        p.drawText(QRectF(boxLeft + 22, row.top(), nameWidth, row.height()), Qt::AlignVCenter,
                   p.fontMetrics().elidedText(QString::fromStdString(r.name), Qt::ElideRight, nameWidth));
        if (!r.inView) {
            p.setPen(t.quiet);
            p.drawText(QRectF(c.left, row.top(), c.right - c.left, row.height()), Qt::AlignCenter, tr("off"));
            continue;
        }
        paint_numbers(p, row, r.ms, r.costShare, r.contributionShare);
        p.setPen(t.text);
        p.drawText(QRectF(c.right + numberWidth, row.top(), 62, row.height()), Qt::AlignVCenter | Qt::AlignRight,
                   QString::number(r.ratio, 'f', 2));
    }
    for (int i = static_cast<int>(rows_.size()); i < lamp_count(); ++i) {
        const CheapRow& r = cheap_at(i);
        const QRectF row = rect_of(i);
        const CheapLight* now = document_.cheap_light(r.light);
        const bool selected = r.light == selectedCheap_;
        if (selected || i == hovered_) p.fillRect(row, selected ? t.field : t.window);
        if (selected) p.fillRect(QRectF(0, row.top(), 3, row.height()), t.lit);
        if (i == static_cast<int>(rows_.size())) {
            p.setPen(t.line);
            p.drawLine(row.topLeft(), row.topRight());
        }
        const bool on = now && now->enabled;
        paint_box(p, row, on);
        p.setPen(on ? t.text : t.quiet);
        p.drawText(
            QRectF(boxLeft + 22, row.top(), nameWidth, row.height()), Qt::AlignVCenter,
            p.fontMetrics().elidedText(tr("%1, cheap").arg(QString::fromStdString(r.name)), Qt::ElideRight, nameWidth));
        if (r.inView) {
            paint_numbers(p, row, r.ms, share_of(r), r.contributionShare);
            if (r.standsForMs > 0) {
                p.setPen(t.quiet);
                p.drawText(QRectF(c.left + 8, row.top(), c.middle - c.left, row.height()), Qt::AlignVCenter,
                           tr("its lamps %1 ms").arg(r.standsForMs, 0, 'f', 2));
            }
        } else {
            p.setPen(t.quiet);
            p.drawText(QRectF(c.left, row.top(), c.right - c.left, row.height()), Qt::AlignCenter, tr("off"));
        }
    }
    for (int i = lamp_count(); i < row_count(); ++i) {
        const AmbientRow& r = ambient_at(i);
        const QRectF row = rect_of(i);
        if (i == hovered_) p.fillRect(row, t.window);
        if (i == lamp_count()) {
            p.setPen(t.line);
            p.drawLine(row.topLeft(), row.topRight());
        }
        p.setPen(i == lamp_count() ? t.text : t.quiet);
        p.drawText(QRectF(boxLeft + 22 + (i == lamp_count() ? 0 : 12), row.top(), nameWidth, row.height()),
                   Qt::AlignVCenter, ambient_name(r));
        paint_numbers(p, row, r.ms, -1, r.contributionShare); // it has no share of what lights cost
    }
    p.setOpacity(1);
    p.fillRect(QRectF(0, 0, viewport()->width(), 20), t.panel);
    p.setPen(t.quiet);
    p.drawText(QRectF(boxLeft + 22, 0, nameWidth, 18), Qt::AlignVCenter, tr("light"));
    p.drawText(QRectF(boxLeft + 22 + nameWidth, 0, 56, 18), Qt::AlignVCenter | Qt::AlignRight, tr("time"));
    p.drawText(QRectF(c.left, 0, c.middle - c.left - 8, 18), Qt::AlignVCenter | Qt::AlignRight,
               tr("\u2190 share of cost"));
    p.drawText(QRectF(c.middle + 8, 0, c.right - c.middle, 18), Qt::AlignVCenter | Qt::AlignLeft,
               tr("share of the picture's light \u2192"));
    p.drawText(QRectF(c.right + numberWidth - 10, 0, 72, 18), Qt::AlignVCenter | Qt::AlignRight, tr("gives / costs"));
    p.setPen(t.line);
    p.drawLine(QPointF(c.middle, 18), QPointF(c.middle, viewport()->height()));
}

void LedgerCut::paint_box(QPainter& p, const QRectF& row, bool on) const {
    const Theme& t = theme();
    const QRectF box(boxLeft, row.top() + 3, 13, 13);
    p.setPen(QPen(on ? t.text : t.quiet, 1));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(box.adjusted(0.5, 0.5, -0.5, -0.5), 2, 2);
    if (!on) return;
    p.setPen(QPen(t.text, 1.6));
    p.drawPolyline(QPolygonF(
        {box.topLeft() + QPointF(3, 6.5), box.topLeft() + QPointF(5.5, 9.5), box.topLeft() + QPointF(10, 3.5)}));
}

/// The time, both shares and their bars. What darkens has an empty bar.
void LedgerCut::paint_numbers(QPainter& p, const QRectF& row, double ms, double cost, double gives) const {
    const Theme& t = theme();
    const Columns c = columns_of(viewport()->width());
    const double half = c.middle - c.left - 4, scale = longest_ > 0 ? half / longest_ : 0;
    p.drawText(QRectF(boxLeft + 22 + nameWidth, row.top(), 56, row.height()), Qt::AlignVCenter | Qt::AlignRight,
               QString::number(ms, 'f', 2) + " ms");
    if (cost >= 0)
        p.drawText(QRectF(c.left - numberWidth, row.top(), numberWidth - 6, row.height()),
                   Qt::AlignVCenter | Qt::AlignRight, share_text(cost));
    p.drawText(QRectF(c.right + 6, row.top(), numberWidth - 10, row.height()), Qt::AlignVCenter | Qt::AlignRight,
               share_text(gives));
    p.setPen(Qt::NoPen);
    p.setBrush(family_color("lights"));
    if (cost > 0) p.drawRect(QRectF(c.middle - 1 - cost * scale, row.top() + 4, cost * scale, row.height() - 8));
    if (gives < 0) {
        p.setPen(t.quiet);
        p.setBrush(Qt::NoBrush);
    } else
        p.setBrush(QColor(232, 206, 128));
    p.drawRect(QRectF(c.middle + 1, row.top() + 4, std::abs(gives) * scale, row.height() - 8));
}

void LedgerCut::mousePressEvent(QMouseEvent* e) {
    const int i = row_at(e->position().toPoint());
    if (i < 0 || is_ambient(i)) return;
    if (is_cheap(i)) {
        const int id = cheap_at(i).light;
        if (e->position().x() > boxLeft + 18) return emit cheap_picked(id);
        return document_.edit_cheap_light(tr("switch"), id, [](CheapLight& l) { l.enabled = !l.enabled; });
    }
    const int id = shown_[static_cast<std::size_t>(i)];
    if (box_of(id).adjusted(-4, -3, 4, 3).contains(e->position().toPoint())) {
        return switch_light(id);
    }
    if (e->modifiers() & Qt::ShiftModifier && anchor_ >= 0) {
        std::vector<int> ids;
        for (int k = std::min(anchor_, i); k <= std::max(anchor_, i) && k < static_cast<int>(shown_.size()); ++k)
            ids.push_back(shown_[static_cast<std::size_t>(k)]);
        return emit lights_picked(ids);
    }
    anchor_ = i;
    if (e->modifiers() & Qt::ControlModifier) {
        std::vector<int> ids = selected_;
        if (std::erase(ids, id) == 0) ids.push_back(id);
        return emit lights_picked(ids);
    }
    emit light_picked(id);
}

void LedgerCut::mouseMoveEvent(QMouseEvent* e) {
    hovered_ = row_at(e->position().toPoint());
    if (hovered_ >= 0) {
        viewport()->setToolTip(words_of(hovered_));
    }
    viewport()->update();
}

QString LedgerCut::words_of(const CheapRow& r) const {
    const QString name = QString::fromStdString(r.name);
    if (!r.inView) return tr("%1, a cheap light, is not drawn. Its box switches it.").arg(name);
    return tr("%1, a cheap light: %2 ms alone on %L3 pixels, %4 of the picture's luminance. ")
               .arg(name)
               .arg(r.ms, 0, 'f', 2)
               .arg(static_cast<qulonglong>(r.fragments))
               .arg(share_text(r.contributionShare)) +
           (r.standsFor.empty() ? QString()
                                : tr("It stands for %1: %2 ms, %3 of the luminance. ")
                                      .arg(QString::fromStdString(joined(r.standsFor)))
                                      .arg(r.standsForMs, 0, 'f', 2)
                                      .arg(share_text(r.standsForShare))) +
           tr("Click or Return to edit it; the box switches it.");
}

QString LedgerCut::words_of(const AmbientRow& r) const {
    return (r.source == "ambient" ? tr("All ambient light: %1 of the picture's luminance; its passes take %2 ms.")
            : r.source == "surroundings" ? tr("Ambient light of the surroundings: %1; gathering them takes %2 ms.")
            : r.source == "probes"       ? tr("Ambient light of probes: %1; gathering them takes %2 ms.")
                                         : tr("Mirrored from the screen: %1; its passes take %2 ms."))
        .arg(share_text(r.contributionShare))
        .arg(r.ms, 0, 'f', 2);
}

QString LedgerCut::words_of(int row) const {
    if (is_ambient(row)) return words_of(ambient_at(row));
    if (is_cheap(row)) return words_of(cheap_at(row));
    const LedgerRow& r = ledger_.rows[rows_[static_cast<std::size_t>(row)]];
    const QString name = QString::fromStdString(r.name);
    const QString maps = r.shadowMs > 0 ? tr("Its shadow maps take %1 ms to draw, and are asked %L2 times. ")
                                              .arg(r.shadowMs, 0, 'f', r.shadowMs < 10 ? 2 : 0)
                                              .arg(static_cast<qulonglong>(r.shadowTaps))
                                        : QString();
    const QString air = r.airCells > 0 ? tr("In the air: %1 of its cost, %2 of the picture's luminance. ")
                                             .arg(share_text(r.airCostShare), share_text(r.airContribution))
                                       : QString();
    return r.inView ? tr("%1: %L2 evaluations, %3 of the cost, %4 of the picture's luminance. %5"
                         "Click or Return to select; the box or Space switches it.")
                          .arg(name)
                          .arg(static_cast<qulonglong>(r.evaluations))
                          .arg(share_text(r.costShare), share_text(r.contributionShare), maps + air)
                    : tr("%1 is off. The box or Space switches it on.").arg(name);
}

void LedgerCut::switch_light(int id) {
    const Light* l = document_.light(id);
    if (!l) return;
    const bool on = !l->enabled;
    document_.edit_light(on ? tr("switch on") : tr("switch off"), id, [on](Light& light) { light.enabled = on; });
}

/// Up and Down walk the rows, Space switches a light, Return selects it; with Shift the run from the last one.
void LedgerCut::keyPressEvent(QKeyEvent* e) {
    const int count = row_count();
    if (hovered_ >= 0 && hovered_ < lamp_count() && is_cheap(hovered_)) {
        const int id = cheap_at(hovered_).light;
        if (e->key() == Qt::Key_Space)
            return document_.edit_cheap_light(tr("switch"), id, [](CheapLight& l) { l.enabled = !l.enabled; });
        if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) return emit cheap_picked(id);
    } else if (hovered_ >= 0 && hovered_ < lamp_count()) {
        const int id = shown_[static_cast<std::size_t>(hovered_)];
        if (e->key() == Qt::Key_Space) return switch_light(id);
        if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) return emit light_picked(id);
    }
    const int to = walked_to(*e, hovered_, count, true);
    if (to < 0) return QAbstractScrollArea::keyPressEvent(e);
    hovered_ = to;
    const QRect row = rect_of(to);
    if (row.top() < 20 || row.bottom() > viewport()->height())
        verticalScrollBar()->setValue(verticalScrollBar()->value() + row.center().y() - viewport()->height() / 2);
    if (is_cheap(to) || is_ambient(to))
        anchor_ = -1;
    else if (e->modifiers() & Qt::ShiftModifier) {
        if (anchor_ < 0) anchor_ = to;
        std::vector<int> ids;
        for (int k = std::min(anchor_, to); k <= std::max(anchor_, to); ++k)
            ids.push_back(shown_[static_cast<std::size_t>(k)]);
        emit lights_picked(ids);
    } else
        anchor_ = to;
    read_out(this, words_of(to));
    viewport()->update();
}

void LedgerCut::leaveEvent(QEvent*) {
    hovered_ = -1;
    viewport()->update();
}

void LedgerCut::resizeEvent(QResizeEvent*) {
    arrange();
}

} // namespace mirolux::app
