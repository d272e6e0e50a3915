#include "app/sheet_view.h"
#include "app/theme.h"
#include "app/told_canvas.h"
#include <QHBoxLayout>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>

namespace mirolux::app {

static constexpr int margin = 12, caption = 34, heading = 24, joint = 18;

SheetCanvas::SheetCanvas(QWidget* parent) : QWidget(parent) {
    setMouseTracking(true);
}

void SheetCanvas::show_sheet(std::shared_ptr<const LayerSheet> sheet) {
    sheet_ = std::move(sheet);
    place();
}

QSize SheetCanvas::sizeHint() const {
    return {600, std::max(200, bottom_)};
}

/// As many cells side by side as leave each readable; the parts' row breaks where it is full.
void SheetCanvas::place() {
    placed_.clear();
    headings_.clear();
    hovered_ = nullptr;
    bottom_ = 0;
    if (sheet_ && !sheet_->others.empty()) {
        const int wanted = width() >= 1000  ? 5
                           : width() >= 620 ? 4
                                            : 3,
                  columns = std::max(2, wanted), cellWidth = (width() - 2 * margin - (columns - 1) * joint) / columns;
        const ByteImage& any = sheet_->others.front().picture;
        const int cellHeight = cellWidth * any.height / std::max(1, any.width);
        const auto add = [&](const SheetCell& cell, int column, int top, bool sum) {
            const QImage image(cell.picture.rgba.data(), cell.picture.width, cell.picture.height,
                               QImage::Format_RGBA8888);
            placed_.push_back({&cell, image.convertToFormat(QImage::Format_RGB32),
                               QRect(margin + column * (cellWidth + joint), top + caption, cellWidth, cellHeight),
                               sum});
        };
        int y = 0;
        headings_.push_back({tr("What adds up, and the sum so far"), y});
        y += heading;
        for (std::size_t from = 0; from < sheet_->parts.size(); from += static_cast<std::size_t>(columns)) {
            const std::size_t to = std::min(sheet_->parts.size(), from + static_cast<std::size_t>(columns));
            for (std::size_t i = from; i < to; ++i) {
                add(sheet_->parts[i], static_cast<int>(i - from), y, false);
                add(sheet_->sums[i], static_cast<int>(i - from), y + caption + cellHeight, true);
            }
            y += 2 * (caption + cellHeight) + margin;
        }
        headings_.push_back({tr("What is done to them, and the picture"), y});
        y += heading;
        for (std::size_t i = 0; i < sheet_->others.size(); ++i)
            add(sheet_->others[i], static_cast<int>(i) % columns,
                y + static_cast<int>(i) / columns * (caption + cellHeight + 4), false);
        y += (static_cast<int>(sheet_->others.size()) + columns - 1) / columns * (caption + cellHeight + 4);
        bottom_ = y + margin;
    }
    setMinimumHeight(bottom_);
    updateGeometry();
    update();
}

void SheetCanvas::resizeEvent(QResizeEvent* e) {
    if (e->size().width() != e->oldSize().width()) place();
}

QRect SheetCanvas::cell(const std::string& layer) const {
    for (const Placed& p : placed_)
        if (!p.sum && p.cell->name == layer) return p.box;
    return {};
}

void SheetCanvas::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    const Theme& t = theme();
    QFont strong = font();
    strong.setWeight(QFont::DemiBold);
    p.setPen(t.quiet);
    p.setFont(sized(font(), 11, QFont::DemiBold));
    for (const Heading& h : headings_)
        p.drawText(QRect(margin, h.y, width() - 2 * margin, heading), Qt::AlignVCenter, h.text);
    const Placed* before = nullptr;
    for (const Placed& c : placed_) {
        p.drawImage(c.box, c.image);
        const QRect name(c.box.left(), c.box.top() - caption + 2, c.box.width(), 17),
            role(c.box.left(), c.box.top() - 17, c.box.width(), 15);
        p.setFont(c.sum ? font() : strong);
        p.setPen(c.sum ? t.quiet : t.text);
        const QString label = c.sum ? tr("= sum so far") : QString::fromStdString(c.cell->label);
        p.drawText(c.sum ? role : name, Qt::AlignVCenter,
                   p.fontMetrics().elidedText(label, Qt::ElideRight, c.box.width()));
        if (!c.sum) {
            p.setFont(sized(font(), 11));
            p.setPen(t.quiet);
            p.drawText(role, Qt::AlignVCenter,
                       p.fontMetrics().elidedText(QString::fromStdString(c.cell->role), Qt::ElideRight, c.box.width()));
        }
        if (before && !c.sum && c.cell->role.starts_with("adds")) { // from the part before, over its sum
            p.setFont(strong);
            p.setPen(t.text);
            p.drawText(QRect(c.box.left() - joint, c.box.top(), joint, c.box.height()), Qt::AlignCenter, "+");
        }
        before = c.sum ? &c : before;
        if (&c == hovered_) {
            p.setPen(QPen(t.lit, 2));
            p.drawRect(QRectF(c.box).adjusted(1, 1, -1, -1));
        }
    }
}

const SheetCanvas::Placed* SheetCanvas::at(const QPoint& point) const {
    for (const Placed& p : placed_)
        if (p.box.contains(point)) return &p;
    return nullptr;
}

void SheetCanvas::mouseMoveEvent(QMouseEvent* e) {
    const Placed* now = at(e->position().toPoint());
    if (now == hovered_) return;
    hovered_ = now;
    setCursor(now && !now->sum && find_layer(now->cell->name) ? Qt::PointingHandCursor : Qt::ArrowCursor);
    const LayerInfo* layer = now ? find_layer(now->cell->name) : nullptr;
    emit tells(!now       ? QString()
               : now->sum ? tr("The sum so far, exposed as the picture is.")
               : layer    ? QString::fromStdString(layer->label + ": " + layer->help + " It " +
                                                   (layer->addsUp ? "adds." : role_of(*layer) + "."))
                          : tr("What no layer shows: beams, shafts, light spread beneath surfaces."));
    update();
}

void SheetCanvas::mousePressEvent(QMouseEvent* e) {
    const Placed* p = at(e->position().toPoint());
    if (p && !p->sum && find_layer(p->cell->name)) emit layer_wanted(QString::fromStdString(p->cell->name));
}

void SheetCanvas::leaveEvent(QEvent*) {
    hovered_ = nullptr;
    emit tells({});
    update();
}

SheetView::SheetView(QWidget* parent)
    : QWidget(parent), canvas_(new SheetCanvas), head_(new QLabel), grey_(new QToolButton) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(10, 4, 6, 6);
    column->setSpacing(4);
    auto* line = new QHBoxLayout;
    line->addWidget(head_, 1);
    const auto button = [&](QToolButton* b, const QString& text, const QString& tip) {
        b->setObjectName("framed");
        b->setText(text);
        b->setToolTip(tip);
        line->addWidget(b);
        return b;
    };
    grey_->setCheckable(true);
    button(grey_, tr("Black and white"), tr("All cells by their luminance"));
    auto* save = button(new QToolButton, tr("Save…"),
                        tr("The sheet as one picture, or an OpenEXR file with a part for each layer"));
    auto* back = button(new QToolButton, tr("Back to the picture"), tr("The picture again (Shift+S)"));
    column->addLayout(line);
    connect(canvas_, &SheetCanvas::tells, this,
            add_told_canvas(column, canvas_,
                            tr("Rest on a layer for what it is; a click holds it in the picture's place.")));
    connect(back, &QToolButton::clicked, this, &SheetView::back_wanted);
    connect(save, &QToolButton::clicked, this, &SheetView::save_wanted);
    connect(grey_, &QToolButton::toggled, this, &SheetView::look_changed);
    say(tr("…"));
}

bool SheetView::grey() const {
    return grey_->isChecked();
}

void SheetView::show_sheet(std::shared_ptr<const LayerSheet> sheet) {
    const std::size_t parts = sheet->parts.size();
    say(tr("%1 layers add up to the picture before bloom.").arg(parts));
    canvas_->show_sheet(std::move(sheet));
}

void SheetView::say(const QString& words) {
    head_->setText(tr("<b>The frame by its layers</b>: %1").arg(words));
}

} // namespace mirolux::app
