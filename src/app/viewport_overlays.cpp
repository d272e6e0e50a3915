#include "app/theme.h"
#include "app/viewport.h"
#include "core/base/text.h"
#include "core/image/target_picture.h"
#include <QPainter>
#include <QPainterPath>
#include <cmath>

// What is painted over the picture: B's share of it, the tile map, labels, the loupe.
namespace mirolux::app {

/// Where A's own picture is shown.
QRectF Viewport::a_part(const QRectF& r) const {
    if (pictureB_.isNull()) return r;
    switch (pairView_) {
    case PairView::wipe:
        return wipeAcross_ ? QRectF(r.left(), r.top(), wipe_ * r.width(), r.height())
                           : QRectF(r.left(), r.top(), r.width(), wipe_ * r.height());
    case PairView::blink:
        return blinkB_ ? QRectF() : r;
    default:
        return {};
    }
}

void Viewport::paint_pair(QPainter& p, const QRectF& r) {
    const Theme& t = theme();
    const auto tag = [&](const QString& text, const QPointF& at, const QColor& color) {
        const QRectF box(at, QSizeF(p.fontMetrics().horizontalAdvance(text) + 14, 20));
        p.setPen(Qt::NoPen);
        p.setBrush(QColor(18, 18, 19, 215));
        p.drawRoundedRect(box, 3, 3);
        p.setPen(color);
        p.drawText(box, Qt::AlignCenter, text);
    };
    switch (pairView_) {
    case PairView::wipe: {
        const double x = r.left() + wipe_ * r.width(), y = r.top() + wipe_ * r.height();
        p.save();
        p.setClipRect(wipeAcross_ ? QRectF(x, r.top(), r.right() - x, r.height())
                                  : QRectF(r.left(), y, r.width(), r.bottom() - y));
        p.drawImage(r, pictureB_);
        p.restore();
        p.setPen(QPen(QColor(0, 0, 0, 160), 3.5));
        for (int pass = 0; pass < 2; ++pass) {
            if (wipeAcross_)
                p.drawLine(QPointF(x, r.top()), QPointF(x, r.bottom()));
            else
                p.drawLine(QPointF(r.left(), y), QPointF(r.right(), y));
            p.setPen(QPen(QColor(240, 238, 232), 1.4));
        }
        if (wipeAcross_) {
            tag(sideA_, QPointF(x - 24 - p.fontMetrics().horizontalAdvance(sideA_), r.top() + 10), t.a.lighter(130));
            tag(sideB_, QPointF(x + 10, r.top() + 10), t.b.lighter(130));
        } else {
            tag(sideA_, QPointF(r.left() + 10, y - 28), t.a.lighter(130));
            tag(sideB_, QPointF(r.left() + 10, y + 8), t.b.lighter(130));
        }
        break;
    }
    case PairView::blink:
        if (blinkB_) p.drawImage(r, pictureB_);
        tag(blinkB_ ? sideB_ : sideA_, r.topLeft() + QPointF(10, 10), (blinkB_ ? t.b : t.a).lighter(130));
        break;
    default: {
        const QImage* map = !difference_                      ? nullptr
                            : pairView_ == PairView::absolute ? &difference_->absolute
                            : pairView_ == PairView::relative ? &difference_->relative
                                                              : &difference_->perceptual;
        if (map && !map->isNull())
            p.drawImage(r, *map);
        else
            p.fillRect(r, t.pictureSurround); // never the plain picture in a difference's place
        const QString what = pairView_ == PairView::absolute ? tr("absolute difference; brightest: a quarter of white")
                             : pairView_ == PairView::relative
                                 ? tr("relative difference; brightest: a half or more")
                                 : tr("difference that the eye sees (spatial CIELAB); brightest: 20 or more");
        tag(map ? what : tr("the difference is on its way"), r.topLeft() + QPointF(10, 10), QColor(235, 233, 226));
        break;
    }
    }
}

void Viewport::paint_tile_label(QPainter& p) {
    if (drag_ == Drag::none && underMouse() && !asksForPixel_)
        paint_label(p, pointer_, tileMap_.describe(pointer_, picture_rect()));
}

void Viewport::paint_label(QPainter& p, const QPointF& at, const QStringList& lines) {
    if (lines.isEmpty()) return;
    double width = 0;
    for (const QString& line : lines)
        width = std::max(width, double(p.fontMetrics().horizontalAdvance(line)));
    QRectF box(at + QPointF(16, 12), QSizeF(width + 16, lines.size() * 16 + 8));
    const QRectF r = picture_rect();
    if (box.right() > r.right()) box.moveRight(std::max(r.left() + box.width(), at.x() - 10));
    if (box.bottom() > r.bottom()) box.moveBottom(r.bottom() - 4);
    p.setPen(Qt::NoPen);
    p.setBrush(QColor(18, 18, 19, 230));
    p.drawRoundedRect(box, 3, 3);
    p.setPen(QColor(235, 233, 226));
    for (int i = 0; i < lines.size(); ++i)
        p.drawText(QPointF(box.left() + 8, box.top() + 17 + 16 * i), lines[i]);
}

void Viewport::paint_account(QPainter& p) {
    const QRectF r = picture_rect();
    if (!account_) {
        if (asksForPixel_) paint_label(p, pointer_, {tr("asking why\u2026")});
        return;
    }
    const Target& t = document_.target();
    const QPointF at(r.left() + (account_->pixel.x + 0.5) * r.width() / t.width,
                     r.top() + (account_->pixel.y + 0.5) * r.height() / t.height);
    if (account_->cell) paint_way(p, account_->cell->way);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(QColor(0, 0, 0, 180), 3.5));
    p.drawEllipse(at, 7, 7);
    p.setPen(QPen(QColor(246, 242, 232), 1.6));
    p.drawEllipse(at, 7, 7);
    // The one line, broken where it would run out of the picture.
    QStringList lines{QString()};
    const QStringList words = QString::fromStdString(account_->reason).split(' ');
    for (const QString& w : words) {
        if (p.fontMetrics().horizontalAdvance(lines.back() + " " + w) > std::min(340.0, r.width() - 40))
            lines << QString();
        lines.back() += (lines.back().isEmpty() ? "" : " ") + w;
    }
    paint_label(p, at, lines);
}

/// The map is of A's lists, so it lies on A's part.
void Viewport::paint_tile_map(QPainter& p) {
    if (!tile_map_visible()) return;
    const QRectF r = picture_rect();
    p.setClipRect(a_part(r));
    tileMap_.paint(p, r);
    p.setClipRect(r);
    if (a_part(r).contains(pointer_)) paint_tile_label(p);
}

void Viewport::set_values(std::shared_ptr<const FloatImage> values, const QImage& picture, bool whole) {
    values_ = std::move(values);
    fullPicture_ = picture;
    wholeValues_ = whole;
    update();
}

void Viewport::set_loupe(bool on) {
    loupe_ = on;
    update();
}

QPoint Viewport::texel_under() const {
    const QRectF r = shown_rect();
    if (!values_ || !r.contains(pointer_)) return {-1, -1};
    return {std::min(static_cast<int>((pointer_.x() - r.left()) / r.width() * values_->width), values_->width - 1),
            std::min(static_cast<int>((pointer_.y() - r.top()) / r.height() * values_->height), values_->height - 1)};
}

QStringList Viewport::loupe_words() const {
    const QPoint texel = texel_under();
    if (texel.x() < 0) return {};
    return {QString("%1, %2").arg(texel.x()).arg(texel.y()),
            QString::fromStdString(texel_text(*values_, texel.x(), texel.y(), wholeValues_))};
}

void Viewport::pin_loupe(QPoint pixel) {
    const QRectF r = shown_rect();
    const Target& t = document_.target();
    pointer_ = {r.left() + (pixel.x() + 0.5) * r.width() / t.width,
                r.top() + (pixel.y() + 0.5) * r.height() / t.height};
    pinned_ = true;
    set_loupe(true);
}

/// Eleven by eleven texels round the pointer, each told apart, B's beside A's, and the numbers of the middle one.
void Viewport::paint_loupe(QPainter& p) {
    const QStringList words = loupe_words();
    if (!loupe_ || !(underMouse() || pinned_) || words.isEmpty() || drag_ != Drag::none) return;
    constexpr int texels = 11, side = 12, edge = texels * side, gap = 6;
    const Theme& t = theme();
    const QPoint middle = texel_under();
    const QRectF r = shown_rect();
    const bool both = !pictureB_.isNull() && fullB_.size() == fullPicture_.size();
    const int names = both ? 16 : 0;
    QRectF box(pointer_.x() + 24, pointer_.y() + 24, both ? 2 * edge + gap : edge, edge + names + 36);
    if (box.right() > r.right()) box.moveRight(std::max(r.left() + box.width(), pointer_.x() - 24));
    if (box.bottom() > r.bottom()) box.moveBottom(pointer_.y() - 24);
    p.fillRect(box.adjusted(-2, -2, 2, 2), t.lit);
    p.fillRect(box, t.panel);
    p.setFont(sized(font(), 11));
    const auto texels_of = [&](const QImage& image, double left, const QString& name, const QColor& color) {
        const double top = box.top() + names;
        if (both) {
            p.setPen(color);
            p.drawText(QRectF(left + 4, box.top(), edge - 8, names), Qt::AlignVCenter, name);
        }
        for (int y = 0; y < texels; ++y)
            for (int x = 0; x < texels; ++x) {
                const QPoint texel = middle + QPoint(x - texels / 2, y - texels / 2);
                if (image.rect().contains(texel))
                    p.fillRect(QRectF(left + x * side, top + y * side, side, side), image.pixelColor(texel));
            }
        const QRectF centre(left + texels / 2 * side, top + texels / 2 * side, side, side);
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(Qt::black, 3));
        p.drawRect(centre);
        p.setPen(QPen(Qt::white, 1));
        p.drawRect(centre);
    };
    texels_of(fullPicture_, box.left(), "A", t.a);
    if (both) texels_of(fullB_, box.left() + edge + gap, "B", t.b);
    p.setPen(t.text);
    const QRectF line(box.left() + 4, box.bottom() - 35, box.width() - 8, 17);
    p.drawText(line, Qt::AlignVCenter, words[0]);
    p.drawText(line.translated(0, 16), Qt::AlignVCenter,
               p.fontMetrics().elidedText(words[1], Qt::ElideRight, static_cast<int>(line.width())));
}

} // namespace mirolux::app
