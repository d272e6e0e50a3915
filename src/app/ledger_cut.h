#pragma once
#include "app/document.h"
#include "core/account/ledger.h"
#include <QAbstractScrollArea>

class QComboBox;
class QLabel;

namespace mirolux::app {

/// The by-light cut: each light's cost and contribution as two bars back to back; a row selects its light, its box
/// switches it. Cheap lights stand below, with what the lamps cost that they stand for.
class LedgerCut : public QAbstractScrollArea {
    Q_OBJECT
public:
    LedgerCut(Document& document, QWidget* parent = nullptr);
    const Ledger& ledger() const { return ledger_; }
    void show_ledger(const Ledger& ledger);
    void set_stale(); // the state has changed since
    void select_lights(const std::vector<int>& ids);
    void select_cheap(int id); // CheapLight::id; -1: none
    void set_order(LedgerOrder order);
    /// The order's choice and the sums, for the deck's head.
    QWidget* controls() { return controls_; }
    /// Row of a light in the viewport; empty if it has none.
    QRect row_of(int light) const;
    QRect box_of(int light) const;
    QRect row_of_cheap(int light) const;                      // CheapLight::id
    const std::vector<int>& lights() const { return shown_; } // ids, top down

signals:
    void light_picked(int id);
    void cheap_picked(int id);
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
    void reveal();
    int row_at(const QPoint& at) const; // lights, then cheap ones
    int row_count() const { return lamp_count() + static_cast<int>(ledger_.ambient.size()); }
    /// Rows of lights; those of ambient light follow.
    int lamp_count() const { return static_cast<int>(rows_.size() + cheap_.size()); }
    QRect rect_of(int row) const;
    bool is_cheap(int row) const { return row >= static_cast<int>(rows_.size()) && row < lamp_count(); }
    bool is_ambient(int row) const { return row >= lamp_count(); }
    const AmbientRow& ambient_at(int row) const {
        return ledger_.ambient[static_cast<std::size_t>(row - lamp_count())];
    }
    QString words_of(const AmbientRow& r) const;
    const CheapRow& cheap_at(int row) const {
        return ledger_.cheap[cheap_[static_cast<std::size_t>(row) - rows_.size()]];
    }
    double share_of(const CheapRow& row) const; // of the time that goes into shading
    QString words_of(int row) const;
    QString words_of(const CheapRow& row) const;
    void paint_box(QPainter& p, const QRectF& row, bool on) const;
    void paint_numbers(QPainter& p, const QRectF& row, double ms, double cost, double gives) const;
    void switch_light(int id);
    Document& document_;
    Ledger ledger_;
    LedgerOrder order_ = LedgerOrder::cost;
    std::vector<int> shown_;
    std::vector<std::size_t> rows_;  // into ledger_.rows, parallel to shown_
    std::vector<std::size_t> cheap_; // into ledger_.cheap, below them
    double longest_ = 0;             // largest share of either side
    std::vector<int> selected_;
    int selectedCheap_ = -1;
    bool reveals_ = false;
    int anchor_ = -1, hovered_ = -1; // anchor_: row of the last plain click
    bool stale_ = true;
    QWidget* controls_;
    QComboBox* orderBox_;
    QLabel* sums_;
};

} // namespace mirolux::app
