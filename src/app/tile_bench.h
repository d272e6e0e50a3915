#pragma once
#include "app/tile_map.h"
#include <QLabel>
#include <QWidget>

class QListWidget;
class QComboBox;

namespace mirolux::app {

/// A tile's frustum and the bounds of its lights, seen from outside and above; drag to turn, wheel to come nearer.
class FrustumView : public QWidget {
    Q_OBJECT
public:
    explicit FrustumView(QWidget* parent = nullptr);
    void show_cell(const std::shared_ptr<const cull::Inspection>& inspection, std::optional<TileCell> cell,
                   int highlighted);

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void wheelEvent(QWheelEvent*) override;

private:
    std::array<glm::vec3, 8> corners() const;
    std::shared_ptr<const cull::Inspection> inspection_;
    std::optional<TileCell> cell_;
    int highlighted_ = -1; // index into the inspection's lights
    double turn_ = -0.9, rise_ = 0.62, zoom_ = 1;
    QPointF last_;
};

/// The 32 depth steps between a cell's nearest and farthest sample; the ones that hold samples are filled.
class MaskStrip : public QWidget {
    Q_OBJECT
public:
    explicit MaskStrip(QWidget* parent = nullptr);
    void show_mask(std::uint32_t mask, bool used);

protected:
    void paintEvent(QPaintEvent*) override;

private:
    std::uint32_t mask_ = 0;
    bool used_ = true;
};

/// One tile or cluster: its depth, its list with what is needless and what is missed, its frustum.
class TileBench : public QWidget {
    Q_OBJECT
public:
    explicit TileBench(QWidget* parent = nullptr);
    void show_cell(const std::shared_ptr<const cull::Inspection>& inspection, TileCell cell);
    std::optional<TileCell> cell() const { return cell_; }

signals:
    void light_picked(int id);
    void slice_picked(int slice);
    void next_worst_wanted();
    void back_wanted();

private:
    std::shared_ptr<const cull::Inspection> inspection_;
    std::optional<TileCell> cell_;
    QLabel *title_, *facts_, *counts_, *maskLabel_;
    MaskStrip* mask_;
    QComboBox* slices_;
    QListWidget* list_;
    FrustumView* frustum_;
};

} // namespace mirolux::app
