#include "app/layer_strip.h"
#include "app/theme.h"
#include "core/plan/frame_plan.h"
#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>

namespace mirolux::app {

LayerStrip::LayerStrip(QWidget* parent) : QWidget(parent), peek_(new QTimer(this)) {
    setMouseTracking(true);
    setFixedHeight(62);
    setAccessibleName(tr("Layers"));
    peek_->setSingleShot(true);
    peek_->setInterval(350); // passing over the strip is not a wish
    connect(peek_, &QTimer::timeout, this, [this] {
        if (hovered_ >= 0) emit wanted(QString::fromStdString(layers_[static_cast<std::size_t>(hovered_)]->name));
    });
}

void LayerStrip::set_layers(std::vector<const LayerInfo*> layers) {
    if (layers == layers_) return;
    layers_ = std::move(layers);
    hovered_ = -1;
    const auto held =
        std::find_if(layers_.begin(), layers_.end(), [&](const LayerInfo* l) { return held_ == l->name.c_str(); });
    if (held == layers_.end() && held_ != "final") set_held("final");
    update();
}

void LayerStrip::set_thumbnails(const QMap<QString, QImage>& thumbnails) {
    thumbnails_ = thumbnails;
    update();
}

void LayerStrip::set_held(const QString& layer) {
    held_ = layer;
    emit wanted(layer);
    update();
}

QRect LayerStrip::cell(int index) const {
    const int n = static_cast<int>(layers_.size());
    const int left = width() * index / n, right = width() * (index + 1) / n;
    return {left + 2, 3, right - left - 4, height() - 6};
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
    p.setFont(sized(font(), 11));
    for (int i = 0; i < static_cast<int>(layers_.size()); ++i) {
        const LayerInfo& info = *layers_[static_cast<std::size_t>(i)];
        const QString name = QString::fromStdString(info.name);
        const QRect r = cell(i);
        const QRect picture = r.adjusted(0, 0, 0, -15);
        const bool held = name == held_;
        if (held) p.fillRect(r.adjusted(-2, -3, 2, 2), t.lit);
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
        set_held(QString::fromStdString(layers_[static_cast<std::size_t>(i)]->name));
}

void LayerStrip::leaveEvent(QEvent*) {
    peek_->stop();
    hovered_ = -1;
    emit wanted(held_);
    update();
}

bool LayerStrip::event(QEvent* e) {
    if (e->type() == QEvent::ToolTip) {
        auto* help = static_cast<QHelpEvent*>(e);
        if (const int i = at(help->pos()); i >= 0)
            QToolTip::showText(help->globalPos(),
                               QString::fromStdString(layers_[static_cast<std::size_t>(i)]->help) +
                                   tr("\nRest on it to peek, click to hold."),
                               this);
        return true;
    }
    return QWidget::event(e);
}

} // namespace mirolux::app
