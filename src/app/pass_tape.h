#pragma once
#include "app/document.h"
#include "core/cost/foresight.h"
#include "core/cost/frame_history.h"
#include <QWidget>

namespace mirolux::app {

/// The by-pass cut: one frame's passes as a tape to scale, the budget a fixed line, what runs over it hatched.
class PassTape : public QWidget {
    Q_OBJECT
public:
    PassTape(Document& document, const FrameHistory& history, QWidget* parent = nullptr);
    void refresh(const QString& clock, const QString& notice);
    const QString& notice() const { return notice_; }
    /// For a target of another device: its prediction stands in the tape's place, and no measured time beside it.
    void set_prediction(const std::optional<Prediction>& prediction);
    const std::optional<Prediction>& prediction() const { return prediction_; }
    /// A second tape under the first; null: none.
    void set_b(const FrameHistory* history);
    /// The medians of a comparison stand on both tapes until they are forgotten: what follows is of another state.
    void set_compared(FrameHistory a, FrameHistory b);
    void forget_compared();
    /// One line about A and B, shown instead of how the tape was made.
    void set_pair_line(const QString& text);
    /// A choice that the pointer rests on: its foreseen tape under the present one, and what it would do in words;
    /// without a tape yet: the words alone. link: the words can be clicked.
    void set_ghost(const QString& words, const std::optional<Foresight>& ghost = {}, bool link = false);
    void forget_ghost() { set_ghost({}); }
    const std::optional<Foresight>& ghost() const { return ghost_; }
    const QString& ghost_words() const { return ghostWords_; }
    /// Where the ghost's tape and its words lie.
    QRectF ghost_tape() const;
    QRectF ghost_line() const;
    void select(const QString& pass);
    /// Only the tape itself and the frame's time, in one line.
    static constexpr int bandHeight = 28;
    void set_band(bool on);
    /// Where a pass's segment lies; empty if it is not on the tape.
    QRectF segment(const std::string& pass) const;
    QSize sizeHint() const override { return {900, 150}; }

signals:
    void pass_picked(const QString& pass); // empty: none
    void ghost_clicked();

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override;

private:
    QString words_of(const std::string& pass) const;
    static QString resting_tip();
    double scale_ms() const; // what the tape's whole width stands for
    QRectF tape() const;
    double budget_x() const;
    struct LegendEntry {
        std::string pass, family;
        QString label;
        QRectF place;
    };
    std::vector<LegendEntry> legend() const;
    void paint_head(QPainter& p) const;
    void paint_scale(QPainter& p) const;
    void paint_segment(QPainter& p, const FrameHistory::PassCost& pass) const;
    void paint_words(QPainter& p, const FrameHistory::PassCost& pass, const QRectF& segment, bool lit,
                     bool hatched) const;
    void paint_spread(QPainter& p) const;
    void paint_budget(QPainter& p) const;
    void paint_legend(QPainter& p) const;
    void paint_b(QPainter& p);
    void paint_ghost(QPainter& p) const;
    void paint_band(QPainter& p) const;
    void paint_changes(QPainter& p, const QRectF& tape) const;
    std::string at(const QPointF& p) const;

    Document& document_;
    const FrameHistory& shown() const {
        return prediction_ ? predicted_ : compared_ && b_ ? compared_->first : history_;
    }
    const FrameHistory& shown_b() const { return compared_ ? compared_->second : *b_; }
    std::optional<std::pair<FrameHistory, FrameHistory>> compared_;
    const FrameHistory& history_;
    std::optional<Prediction> prediction_;
    FrameHistory predicted_;
    const FrameHistory* b_ = nullptr;
    QString pairLine_;
    QString clock_, notice_, selected_, ghostWords_;
    std::optional<Foresight> ghost_;
    bool ghostLink_ = false, band_ = false;
    std::string hovered_;
};

} // namespace mirolux::app
