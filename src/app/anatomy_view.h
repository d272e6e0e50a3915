#pragma once
#include "core/cost/frame_history.h"
#include "core/plan/anatomy.h"
#include <QImage>
#include <QWidget>
#include <map>
#include <memory>
#include <optional>

class QLabel;
class QScrollArea;

namespace mirolux::app {

/// The frame as its plan draws it: each pass a column in order, each target a row over its life, a thumbnail where it
/// is written, a ring where it is read; and under them the memory that lives at each pass. With B both plans, what
/// differs said. Hover tells; a click on a thumbnail, or Enter, holds the target as that pass leaves it.
class AnatomyCanvas : public QWidget {
    Q_OBJECT
public:
    explicit AnatomyCanvas(QWidget* parent = nullptr);
    void set_plans(FramePlan a, std::optional<FramePlan> b);
    void set_writes(const std::vector<WrittenTarget>& writes, bool ofB);
    void set_times(const FrameHistory& a, const FrameHistory* b);
    void set_held(const std::optional<TargetRead>& held);
    /// Where a target stands at a pass, and a pass's head; empty: not in the plan.
    QRect cell(const std::string& pass, const std::string& target, bool ofB = false) const;
    QRect head(const std::string& pass, bool ofB = false) const;
    /// What the pointer or the keys are at, in words; empty: nothing.
    QString told() const;
    std::size_t thumbnails() const;
    QSize sizeHint() const override;

signals:
    void tells(const QString& text);
    void target_wanted(const TargetRead& target);
    void pass_wanted(const QString& pass);

protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override { fit(); }
    void mouseMoveEvent(QMouseEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

private:
    struct Block {
        FramePlan plan;
        std::vector<Uses> uses; // parallel to its resources
        std::map<std::pair<std::string, std::string>, QImage> thumbnails;
        FrameHistory times;
    };
    /// A place in a block: pass -1 names a whole row, resource -1 a whole column.
    struct Spot {
        int block = -1, pass = -1, resource = -1;
        bool operator==(const Spot&) const = default;
    };
    static constexpr int gutter = 178, headHeight = 42, memoryHeight = 58, blockGap = 26;
    void fit();
    double column() const;
    int row_height() const;
    int top_of(std::size_t block) const;
    int height_of(const Block& block) const;
    QRectF head_of(std::size_t block, int pass) const;
    QRectF cell_of(std::size_t block, int pass, int resource) const;
    Spot spot_at(const QPointF& at) const;
    void go_to(const Spot& spot);
    void take(const Spot& spot);
    QString words(const Spot& spot) const;
    QString difference_words(std::size_t block, int pass, int resource) const;
    void paint_block(QPainter& p, std::size_t block) const;
    void paint_heads(QPainter& p, std::size_t block) const;
    void paint_row(QPainter& p, std::size_t block, int resource) const;
    void paint_cell(QPainter& p, std::size_t block, int pass, int resource) const;
    void paint_memory(QPainter& p, std::size_t block) const;

    std::vector<Block> blocks_; // A's, and B's if there is one
    std::optional<TargetRead> held_;
    Spot spot_;
};

/// The anatomy in the picture's place, with its sums above and what the pointer is at below.
class AnatomyView : public QWidget {
    Q_OBJECT
public:
    explicit AnatomyView(QWidget* parent = nullptr);
    AnatomyCanvas& canvas() { return *canvas_; }
    void show_plans(FramePlan a, std::optional<FramePlan> b);

signals:
    void back_wanted();

private:
    AnatomyCanvas* canvas_;
    QLabel* sums_;
};

} // namespace mirolux::app
