#include "app/anatomy_view.h"
#include "app/deck_page.h"
#include "core/base/text.h"

// What is painted of the anatomy: heads of passes, rows of targets, thumbnails, memory.
namespace mirolux::app {

void AnatomyCanvas::paint_heads(QPainter& p, std::size_t b) const {
    const Theme& t = theme();
    const Block& block = blocks_[b];
    if (blocks_.size() > 1) {
        p.setFont(sized(font(), 16, QFont::DemiBold));
        p.setPen(b == 0 ? t.a : t.b);
        p.drawText(QRectF(8, top_of(b), 40, headHeight), Qt::AlignVCenter, b == 0 ? "A" : "B");
    }
    for (std::size_t i = 0; i < block.plan.passes.size(); ++i) {
        const PlannedPass& pass = block.plan.passes[i];
        const QRectF r = head_of(b, static_cast<int>(i)).adjusted(2, 0, -2, 0);
        const bool under = spot_ == Spot{static_cast<int>(b), static_cast<int>(i), -1};
        if (under) p.fillRect(r, t.field);
        p.fillRect(QRectF(r.left(), r.top(), r.width(), 4), family_color(pass.family));
        const bool differs = !difference_words(b, static_cast<int>(i), -1).isEmpty();
        p.setFont(sized(font(), 12, QFont::DemiBold));
        p.setPen(differs ? (b == 0 ? t.a : t.b) : t.text);
        p.drawText(r.adjusted(2, 6, -2, -18), Qt::AlignVCenter,
                   p.fontMetrics().elidedText((differs ? "\u2260 " : "") + text_of(pass.name), Qt::ElideRight,
                                              static_cast<int>(r.width()) - 4));
        p.setFont(sized(font(), 11));
        p.setPen(t.quiet);
        for (const auto& cost : block.times.passes())
            if (cost.name == pass.name && block.times.frames() > 0)
                p.drawText(r.adjusted(2, 22, -2, -2), Qt::AlignVCenter, ms_text(cost.median));
    }
}

/// A target where a pass writes it (its picture) or reads it (a ring).
void AnatomyCanvas::paint_cell(QPainter& p, std::size_t b, int pass, int resource) const {
    const Theme& t = theme();
    const Block& block = blocks_[b];
    const PlannedResource& r = block.plan.resources[static_cast<std::size_t>(resource)];
    const PlannedPass& of = block.plan.passes[static_cast<std::size_t>(pass)];
    const auto among = [pass](const std::vector<int>& v) { return std::find(v.begin(), v.end(), pass) != v.end(); };
    const Uses& uses = block.uses[static_cast<std::size_t>(resource)];
    const QRectF c = cell_of(b, pass, resource);
    if (among(uses.writers)) {
        const double height = std::min<double>(row_height() - 8, (c.width() - 12) * 9 / 16), width = height * 16 / 9;
        const QRectF picture(c.center().x() - width / 2, c.center().y() - height / 2, width, height);
        const bool held = b == 0 && held_ && held_->target == r.spec.name &&
                          (held_->after == of.name || (held_->after.empty() && pass == r.last));
        const bool under = spot_ == Spot{static_cast<int>(b), pass, resource};
        p.setPen(Qt::NoPen);
        p.setBrush(held || under ? t.lit : family_color(of.family));
        p.drawRect(picture.adjusted(held ? -4 : -2, held ? -4 : -2, held ? 4 : 2, held ? 4 : 2));
        p.fillRect(picture, t.window);
        const auto it = block.thumbnails.find({of.name, r.spec.name});
        if (r.spec.entries > 0) {
            p.setFont(sized(font(), 11));
            p.setPen(t.quiet);
            p.drawText(picture, Qt::AlignCenter, tr("words"));
        } else if (it != block.thumbnails.end())
            p.drawImage(picture, it->second);
    }
    if (among(uses.readers)) {
        p.setPen(QPen(t.text, 1.6));
        p.setBrush(t.panel);
        p.drawEllipse(among(uses.writers) ? QPointF(c.left() + 5, c.center().y()) : c.center(), 4.5, 4.5);
    }
}

void AnatomyCanvas::paint_row(QPainter& p, std::size_t b, int resource) const {
    const Theme& t = theme();
    const Block& block = blocks_[b];
    const PlannedResource& r = block.plan.resources[static_cast<std::size_t>(resource)];
    const int last = static_cast<int>(block.plan.passes.size()) - 1;
    const QRectF begin = cell_of(b, r.first, resource), end = cell_of(b, r.last, resource);
    const QRectF name(8, begin.top(), gutter - 14, row_height());
    if (spot_.block == static_cast<int>(b) && spot_.resource == resource)
        p.fillRect(QRectF(4, name.top() + 2, gutter - 8, row_height() - 4), t.field);
    const QString differs = difference_words(b, -1, resource);
    p.setFont(sized(font(), 12));
    p.setPen(differs.isEmpty() ? t.text : b == 0 ? t.a : t.b);
    p.drawText(QRectF(name.left() + 4, name.center().y() - 18, name.width(), 18), Qt::AlignVCenter,
               p.fontMetrics().elidedText((differs.isEmpty() ? "" : "\u2260 ") + text_of(r.spec.name), Qt::ElideRight,
                                          gutter - 20));
    p.setFont(sized(font(), 11));
    p.setPen(t.quiet);
    QString facts = text_of(info_of(r.spec.format).word) + "  " + megabytes(r.bytes);
    if (r.spec.entries == 0 && (r.width != block.plan.view.width || r.height != block.plan.view.height))
        facts = tr("%1x%2  ").arg(r.width).arg(r.height) + facts;
    if (!differs.isEmpty()) facts = differs;
    p.drawText(QRectF(name.left() + 4, name.center().y(), name.width(), 18), Qt::AlignVCenter,
               p.fontMetrics().elidedText(facts, Qt::ElideRight, gutter - 20));
    // Its life: solid while passes use it, then thin for as long as its memory is nobody else's.
    p.setPen(QPen(t.quiet, 3));
    p.drawLine(QPointF(begin.center().x(), begin.center().y()), QPointF(end.center().x(), end.center().y()));
    if (lives_at(r, last) && r.last < last) {
        p.setPen(QPen(t.line, 1.5, Qt::DashLine));
        p.drawLine(end.center(), QPointF(cell_of(b, last, resource).right() - 4, end.center().y()));
    }
    for (int pass = r.first; pass <= r.last; ++pass)
        paint_cell(p, b, pass, resource);
}

/// Bytes that live at each pass, to scale with all that is held.
void AnatomyCanvas::paint_memory(QPainter& p, std::size_t b) const {
    const Theme& t = theme();
    const FramePlan& plan = blocks_[b].plan;
    const int top = top_of(b) + headHeight + row_height() * static_cast<int>(plan.resources.size());
    const auto alive = bytes_alive(plan);
    p.setFont(sized(font(), 11));
    p.setPen(t.quiet);
    p.drawText(QRectF(12, top + 8, gutter - 18, 18), Qt::AlignVCenter, tr("memory in use"));
    p.drawText(QRectF(12, top + 25, gutter - 18, 18), Qt::AlignVCenter, tr("held: %1").arg(megabytes(plan.bytesHeld)));
    const double base = top + memoryHeight - 4, full = memoryHeight - 12;
    for (std::size_t i = 0; i < alive.size(); ++i) {
        const QRectF c = head_of(b, static_cast<int>(i));
        const double height =
            full * static_cast<double>(alive[i]) / static_cast<double>(std::max<std::size_t>(1, plan.bytesHeld));
        const bool fullest = alive[i] == plan.bytesPeak;
        const QRectF bar(c.left() + 2, base - height, c.width() - 4, height);
        p.fillRect(bar, fullest ? t.quiet : t.line);
        p.setPen(fullest ? t.window : t.text);
        p.drawText(bar.adjusted(0, 0, 0, -2), Qt::AlignHCenter | Qt::AlignBottom, megabytes(alive[i]));
    }
    p.setPen(QPen(t.quiet, 1, Qt::DotLine));
    p.drawLine(QPointF(gutter, base - full),
               QPointF(head_of(b, static_cast<int>(alive.size()) - 1).right(), base - full));
}

void AnatomyCanvas::paint_block(QPainter& p, std::size_t b) const {
    const Block& block = blocks_[b];
    // From each pass down to what it touches.
    for (std::size_t i = 0; i < block.plan.passes.size(); ++i) {
        int lowest = -1;
        for (std::size_t r = 0; r < block.uses.size(); ++r)
            for (const auto* v : {&block.uses[r].readers, &block.uses[r].writers})
                if (std::find(v->begin(), v->end(), static_cast<int>(i)) != v->end())
                    lowest = std::max(lowest, static_cast<int>(r));
        if (lowest < 0) continue;
        QColor line = family_color(block.plan.passes[i].family);
        line.setAlpha(110);
        p.setPen(QPen(line, 1.5));
        const double x = head_of(b, static_cast<int>(i)).center().x();
        p.drawLine(QPointF(x, top_of(b) + headHeight - 2),
                   QPointF(x, cell_of(b, static_cast<int>(i), lowest).center().y()));
    }
    for (std::size_t r = 0; r < block.plan.resources.size(); ++r)
        paint_row(p, b, static_cast<int>(r));
    paint_heads(p, b);
    paint_memory(p, b);
}

void AnatomyCanvas::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    p.fillRect(rect(), theme().panel);
    for (std::size_t b = 0; b < blocks_.size(); ++b)
        paint_block(p, b);
}

} // namespace mirolux::app
