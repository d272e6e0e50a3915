#pragma once
#include "app/plots/plot.h"
#include "core/bake/light_map_table.h"

namespace mirolux::app {

/// What each way of keeping light maps takes against what its picture loses, both on scales of ratios: a dot for each,
/// in a colour by what it tells of directions, filled as far as highlights are kept; a ring around the present one. A
/// click chooses.
class MapPlot : public Plot {
    Q_OBJECT
public:
    explicit MapPlot(QWidget* parent = nullptr);
    void show_table(std::shared_ptr<const LightMapTable> table);
    const LightMapTable* table() const { return table_.get(); }
    /// Where a row lies in the widget.
    QPointF place_of(const LightMapRow& row) const;
    QSize sizeHint() const override { return {260, 210}; }
    QSize minimumSizeHint() const override { return {160, 210}; }

signals:
    void chosen(const mirolux::LightMapRow& row);

protected:
    void paint_over(QPainter& p) override;
    QString empty_words() const override;
    bool event(QEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;

private:
    const LightMapRow* near(const QPointF& at) const;
    std::shared_ptr<const LightMapTable> table_;
};

/// "8 a metre, dominant, bc6h: 4.1 MiB, picture off by 1.2 %, highlights 83 %".
QString words_of(const LightMapRow& row);

} // namespace mirolux::app
