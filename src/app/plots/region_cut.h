#pragma once
#include "app/plots/plot.h"
#include "core/cull/inspection.h"
#include <memory>

class QPushButton;

namespace mirolux::app {

/// The by-region cut: how many tiles have lists of which length, and the audit of the lists. A bar selects its tiles.
class RegionCut : public Plot {
    Q_OBJECT
public:
    explicit RegionCut(QWidget* parent = nullptr);
    /// Null: the path makes no lists.
    void show_inspection(const std::shared_ptr<const cull::Inspection>& inspection);
    void set_stale();
    QWidget* controls() { return controls_; }
    int selected_length() const { return selectedLow_; }
    /// The bar of list length n in widget coordinates.
    QRectF bar(int n) const;

signals:
    void lengths_picked(int low, int high); // tiles with lists of low..high lights; -1: none
    void show_worst_wanted();
    void next_worst_wanted();

protected:
    void before_drawing() override;
    void paint_over(QPainter& p) override;
    QString empty_words() const override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

private:
    class Bars;
    void draw_bars();
    void paint_audit(QPainter& p) const;
    int bar_at(const QPointF& at) const;
    QString words_of(int bar) const;
    static QString resting_tip();
    void mark(int bar);
    std::shared_ptr<const cull::Inspection> inspection_;
    std::vector<int> tiles_;             // by bar
    int binWidth_ = 1;                   // list lengths in a bar
    int selectedLow_ = -1, walked_ = -1; // walked_: the bar that keys have come to
    bool stale_ = true;
    Bars* bars_ = nullptr;
    QWidget* controls_;
    QPushButton *worst_, *next_;
};

} // namespace mirolux::app
