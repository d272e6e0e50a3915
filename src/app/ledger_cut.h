#pragma once
#include "app/document.h"
#include "core/account/ledger.h"
#include <QAbstractScrollArea>

class QComboBox;
class QLabel;

namespace mirolux::app {

/// The by-light cut: each light's cost and contribution as two bars back to back; a row selects its light, its box
/// switches it.
class LedgerCut : public QAbstractScrollArea {
    Q_OBJECT
public:
    LedgerCut(Document& document, QWidget* parent = nullptr);
    void show_ledger(const Ledger& ledger);
    void set_stale(); // the state has changed since
    void select_lights(const std::vector<int>& ids);
    void set_order(LedgerOrder order);
    /// The order's choice and the sums, for the deck's head.
    QWidget* controls() { return controls_; }
    /// Row of a light in the viewport; empty if it has none.
    QRect row_of(int light) const;
    QRect box_of(int light) const;
    const std::vector<int>& lights() const { return shown_; } // ids, top down

signals:
    void light_picked(int id);
    void lights_picked(const std::vector<int>& ids); // with Ctrl: one more or less; with Shift: up to here

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

private:
    static constexpr int rowHeight = 19;
    void arrange();
    int row_at(const QPoint& at) const;
    QString words_of(int row) const;
    void switch_light(int id);
    Document& document_;
    Ledger ledger_;
    LedgerOrder order_ = LedgerOrder::cost;
    std::vector<int> shown_;
    std::vector<std::size_t> rows_; // into ledger_.rows, parallel to shown_
    double longest_ = 0;            // largest share of either side
    std::vector<int> selected_;
    int anchor_ = -1, hovered_ = -1; // anchor_: row of the last plain click
    bool stale_ = true;
    QWidget* controls_;
    QComboBox* orderBox_;
    QLabel* sums_;
};

} // namespace mirolux::app
