#pragma once
#include "core/technique/layer.h"
#include <QImage>
#include <QMap>
#include <QTimer>
#include <QWidget>

namespace mirolux::app {

/// Live thumbnails of the frame's layers, grouped by the pass that makes them: hover to peek, click to hold; the wheel
/// scrolls where there are more than fit.
class LayerStrip : public QWidget {
    Q_OBJECT
public:
    explicit LayerStrip(QWidget* parent = nullptr);
    struct Shown {
        const LayerInfo* layer;
        QString pass, family; // of the pass
        bool operator==(const Shown&) const = default;
    };
    /// The layers to show, those of one pass side by side; a held one that is not among them makes room for the
    /// picture.
    void set_layers(std::vector<Shown> layers);
    void set_thumbnails(const QMap<QString, QImage>& thumbnails);
    void set_held(const QString& layer);
    /// Something that is no layer stands in the picture's place: none is held.
    void release();
    const QString& held() const { return held_; }
    const std::vector<Shown>& layers() const { return layers_; }
    QRect cell(int index) const;
    int scrolled() const { return scrolled_; }
    QSize sizeHint() const override { return {700, 74}; }

signals:
    void wanted(const QString& layer); // the layer to show now: peeked or held; empty: what stood there
    void layer_held(const QString& layer);

protected:
    void paintEvent(QPaintEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void resizeEvent(QResizeEvent*) override { scroll_to(scrolled_); }
    bool event(QEvent*) override;

private:
    int at(const QPoint& p) const;
    double cell_width() const;
    void scroll_to(int offset);
    void paint_groups(QPainter& p) const;
    std::vector<Shown> layers_;
    int scrolled_ = 0;
    QMap<QString, QImage> thumbnails_;
    QString held_ = "final";
    int hovered_ = -1;
    QTimer* peek_;
};

} // namespace mirolux::app
