#include "app/layer_strip.h"
#include "app/theme.h"
#include "core/plan/frame_plan.h"
#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <QWheelEvent>
#include <cmath>

namespace mirolux::app {

static constexpr int groupHeight = 15;
static constexpr double leastWidth = 62;

LayerStrip::LayerStrip(QWidget* parent) : QWidget(parent), peek_(new QTimer(this)) {
    setMouseTracking(true);
    setFixedHeight(74);
    setAccessibleName(tr("Layers"));
    peek_->setSingleShot(true);
    peek_->setInterval(350); // passing over the strip is not a wish
    connect(peek_, &QTimer::timeout, this, [this] {
        if (hovered_ >= 0) emit wanted(QString::fromStdString(layers_[static_cast<std::size_t>(hovered_)].layer->name));
    });
}

void LayerStrip::set_layers(std::vector<Shown> layers) {
    if (layers == layers_) return;
    layers_ = std::move(layers);
    hovered_ = -1;
    const auto held =
        std::find_if(layers_.begin(), layers_.end(), [&](const Shown& s) { return held_ == s.layer->name.c_str(); });
    if (held == layers_.end() && held_ != "final" && !held_.isEmpty()) set_held("final");
    scroll_to(scrolled_);
    update();
}

void LayerStrip::set_thumbnails(const QMap<QString, QImage>& thumbnails) {
    thumbnails_ = thumbnails;
    update();
}

void LayerStrip::set_held(const QString& layer) {
    held_ = layer;
    for (std::size_t i = 0; i < layers_.size(); ++i)
        if (layer == layers_[i].layer->name.c_str()) { // into view
            const double left = cell_width() * static_cast<double>(i);
            if (left < scrolled_ || left + cell_width() > scrolled_ + width())
                scroll_to(static_cast<int>(left + (cell_width() - width()) / 2));
        }
    emit layer_held(layer);
    emit wanted(layer);
    update();
}

void LayerStrip::release() {
    held_.clear();
    update();
}

double LayerStrip::cell_width() const {
    return std::max(leastWidth, double(width()) / std::max<double>(1.0, static_cast<double>(layers_.size())));
}

void LayerStrip::scroll_to(int offset) {
    const double most = cell_width() * static_cast<double>(layers_.size()) - width();
    scrolled_ = std::clamp(offset, 0, std::max(0, static_cast<int>(std::ceil(most))));
    update();
}

QRect LayerStrip::cell(int index) const {
    const int left = static_cast<int>(cell_width() * index) - scrolled_,
              right = static_cast<int>(cell_width() * (index + 1)) - scrolled_;
    return {left + 2, groupHeight + 2, right - left - 4, height() - groupHeight - 4};
}

/// Over each pass's layers its name, between two ends of its colour.
void LayerStrip::paint_groups(QPainter& p) const {
    const Theme& t = theme();
    p.setFont(sized(font(), 11));
    for (std::size_t first = 0; first < layers_.size();) {
        std::size_t last = first;
        while (last + 1 < layers_.size() && layers_[last + 1].pass == layers_[first].pass)
            ++last;
        const QRect r(cell(static_cast<int>(first)).left(), 1,
                      cell(static_cast<int>(last)).right() - cell(static_cast<int>(first)).left(), groupHeight - 2);
        p.fillRect(r.left(), r.bottom() - 1, r.width(), 2, family_color(layers_[first].family.toStdString()));
        p.setPen(t.quiet);
        const QRect seen = r.intersected(rect()); // the name stays in view while its layers do
        p.drawText(seen.adjusted(1, -2, 0, -2), Qt::AlignLeft | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(layers_[first].pass, Qt::ElideRight, seen.width()));
        first = last + 1;
    }
}

int LayerStrip::at(const QPoint& p) const {
    for (int i = 0; i < static_cast<int>(layers_.size()); ++i)
        if (cell(i).contains(p)) return i;
    return -1;
}

void LayerStrip::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    const Theme& t = theme();
    paint_groups(p);
    for (int i = 0; i < static_cast<int>(layers_.size()); ++i) {
        const LayerInfo& info = *layers_[static_cast<std::size_t>(i)].layer;
        const QString name = QString::fromStdString(info.name);
        const QRect r = cell(i);
        const QRect picture = r.adjusted(0, 0, 0, -15);
        const bool held = name == held_;
        if (held) p.fillRect(r.adjusted(-2, -2, 2, 2), t.lit);
        p.fillRect(picture, t.field);
        if (const auto it = thumbnails_.find(name); it != thumbnails_.end()) {
            const QSize size = it->size().scaled(picture.size(), Qt::KeepAspectRatioByExpanding);
            const QRectF source((size.width() - picture.width()) * 0.5 * it->width() / size.width(),
                                (size.height() - picture.height()) * 0.5 * it->height() / size.height(),
                                double(picture.width()) * it->width() / size.width(),
                                double(picture.height()) * it->height() / size.height());
            p.drawImage(picture, *it, source);
        }
        p.setPen(i == hovered_ ? t.quiet : t.line);
        if (!held) p.drawRect(picture.adjusted(0, 0, -1, -1));
        p.setPen(held ? t.ink : t.quiet);
        p.drawText(QRect(r.left(), r.bottom() - 14, r.width(), 15), Qt::AlignCenter,
                   p.fontMetrics().elidedText(QString::fromStdString(info.label), Qt::ElideRight, r.width()));
    }
}

void LayerStrip::mouseMoveEvent(QMouseEvent* e) {
    const int now = at(e->pos());
    if (now == hovered_) return;
    hovered_ = now;
    if (now >= 0)
        peek_->start();
    else {
        peek_->stop();
        emit wanted(held_);
    }
    update();
}

void LayerStrip::mousePressEvent(QMouseEvent* e) {
    peek_->stop();
    if (const int i = at(e->pos()); i >= 0)
        set_held(QString::fromStdString(layers_[static_cast<std::size_t>(i)].layer->name));
}

void LayerStrip::leaveEvent(QEvent*) {
    peek_->stop();
    hovered_ = -1;
    emit wanted(held_);
    update();
}

void LayerStrip::wheelEvent(QWheelEvent* e) {
    scroll_to(scrolled_ - (e->angleDelta().y() + e->angleDelta().x()) / 2);
    e->accept();
}

bool LayerStrip::event(QEvent* e) {
    if (e->type() == QEvent::ToolTip) {
        auto* help = static_cast<QHelpEvent*>(e);
        if (const int i = at(help->pos()); i >= 0)
            QToolTip::showText(help->globalPos(),
                               QString::fromStdString(layers_[static_cast<std::size_t>(i)].layer->help) +
                                   tr("\nRest on it to peek, click to hold."),
                               this);
        return true;
    }
    return QWidget::event(e);
}

} // namespace mirolux::app
