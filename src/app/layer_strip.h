#pragma once
#include "core/technique/layer.h"
#include <QImage>
#include <QMap>
#include <QTimer>
#include <QWidget>

namespace mirolux::app {

/// Live thumbnails of the frame's layers: hover to peek, click to hold.
class LayerStrip : public QWidget {
    Q_OBJECT
public:
    explicit LayerStrip(QWidget* parent = nullptr);
    /// The layers to show, in order; a held one that is not among them makes room for the picture.
    void set_layers(std::vector<const LayerInfo*> layers);
    void set_thumbnails(const QMap<QString, QImage>& thumbnails);
    void set_held(const QString& layer);
    const QString& held() const { return held_; }
    const std::vector<const LayerInfo*>& layers() const { return layers_; }
    QRect cell(int index) const;
    QSize sizeHint() const override { return {700, 62}; }

signals:
    void wanted(const QString& layer); // the layer to show now: peeked or held

protected:
    void paintEvent(QPaintEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    bool event(QEvent*) override;

private:
    int at(const QPoint& p) const;
    std::vector<const LayerInfo*> layers_;
    QMap<QString, QImage> thumbnails_;
    QString held_ = "final";
    int hovered_ = -1;
    QTimer* peek_;
};

} // namespace mirolux::app
