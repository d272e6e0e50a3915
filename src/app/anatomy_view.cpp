#include "app/anatomy_view.h"
#include "app/deck_page.h"
#include "app/told_canvas.h"
#include "core/base/text.h"
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QToolButton>
#include <QVBoxLayout>

namespace mirolux::app {

static constexpr double leastColumn = 66;

AnatomyCanvas::AnatomyCanvas(QWidget* parent) : QWidget(parent) {
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Anatomy of the frame"));
}

void AnatomyCanvas::set_plans(FramePlan a, std::optional<FramePlan> b) {
    // Thumbnails stay until the new ones are in, where pass and target still are.
    std::vector<Block> before = std::move(blocks_);
    blocks_.clear();
    for (FramePlan* plan : {&a, b ? &*b : nullptr}) {
        if (!plan) continue;
        Block block;
        block.plan = std::move(*plan);
        for (const PlannedResource& r : block.plan.resources)
            block.uses.push_back(uses_of(block.plan, r));
        if (blocks_.size() < before.size()) {
            block.thumbnails = std::move(before[blocks_.size()].thumbnails);
            block.times = std::move(before[blocks_.size()].times);
        }
        blocks_.push_back(std::move(block));
    }
    spot_ = {};
    fit();
    updateGeometry();
    update();
}

void AnatomyCanvas::set_writes(const std::vector<WrittenTarget>& writes, bool ofB) {
    const std::size_t block = ofB ? 1 : 0;
    if (block >= blocks_.size()) return;
    blocks_[block].thumbnails.clear();
    for (const WrittenTarget& w : writes)
        blocks_[block].thumbnails[{w.pass, w.target}] =
            QImage(w.image.rgba.data(), w.image.width, w.image.height, w.image.width * 4, QImage::Format_RGBX8888)
                .copy();
    update();
}

void AnatomyCanvas::set_times(const FrameHistory& a, const FrameHistory* b) {
    if (!blocks_.empty()) blocks_[0].times = a;
    if (blocks_.size() > 1 && b) blocks_[1].times = *b;
    update();
}

void AnatomyCanvas::set_held(const std::optional<TargetRead>& held) {
    held_ = held;
    update();
}

std::size_t AnatomyCanvas::thumbnails() const {
    std::size_t n = 0;
    for (const Block& b : blocks_)
        n += b.thumbnails.size();
    return n;
}

int AnatomyCanvas::height_of(const Block& block) const {
    return headHeight + row_height() * static_cast<int>(block.plan.resources.size()) + memoryHeight;
}

int AnatomyCanvas::top_of(std::size_t block) const {
    return block == 0 ? 0 : height_of(blocks_.front()) + blockGap;
}

QSize AnatomyCanvas::sizeHint() const {
    int height = 8;
    std::size_t passes = 1;
    for (std::size_t i = 0; i < blocks_.size(); ++i) {
        height = top_of(i) + height_of(blocks_[i]) + 8;
        passes = std::max(passes, blocks_[i].plan.passes.size());
    }
    return {gutter + static_cast<int>(leastColumn * static_cast<double>(passes)) + 8, height};
}

/// One plan fits where it can be read at all; two scroll.
int AnatomyCanvas::row_height() const {
    if (blocks_.size() != 1 || !parentWidget()) return 50;
    const int rows = std::max(1, static_cast<int>(blocks_.front().plan.resources.size()));
    return std::clamp((parentWidget()->height() - headHeight - memoryHeight - 8) / rows, 42, 60);
}

/// As wide as there is room for, and no narrower than can be read; then the view scrolls.
void AnatomyCanvas::fit() {
    setMinimumSize(sizeHint());
}

double AnatomyCanvas::column() const {
    std::size_t passes = 1;
    for (const Block& b : blocks_)
        passes = std::max(passes, b.plan.passes.size());
    return std::clamp((width() - gutter - 8.0) / static_cast<double>(passes), leastColumn, 120.0);
}

QRectF AnatomyCanvas::head_of(std::size_t block, int pass) const {
    return {gutter + pass * column(), double(top_of(block)), column(), double(headHeight)};
}

QRectF AnatomyCanvas::cell_of(std::size_t block, int pass, int resource) const {
    return {gutter + pass * column(), double(top_of(block) + headHeight + resource * row_height()), column(),
            double(row_height())};
}

static int index_of(const std::vector<PlannedPass>& passes, const std::string& name) {
    for (std::size_t i = 0; i < passes.size(); ++i)
        if (passes[i].name == name) return static_cast<int>(i);
    return -1;
}

QRect AnatomyCanvas::cell(const std::string& pass, const std::string& target, bool ofB) const {
    const std::size_t block = ofB ? 1 : 0;
    if (block >= blocks_.size()) return {};
    const FramePlan& plan = blocks_[block].plan;
    const int p = index_of(plan.passes, pass);
    for (std::size_t r = 0; r < plan.resources.size(); ++r)
        if (p >= 0 && plan.resources[r].spec.name == target) return cell_of(block, p, static_cast<int>(r)).toRect();
    return {};
}

QRect AnatomyCanvas::head(const std::string& pass, bool ofB) const {
    const std::size_t block = ofB ? 1 : 0;
    const int p = block < blocks_.size() ? index_of(blocks_[block].plan.passes, pass) : -1;
    return p < 0 ? QRect() : head_of(block, p).toRect();
}

AnatomyCanvas::Spot AnatomyCanvas::spot_at(const QPointF& at) const {
    for (std::size_t b = 0; b < blocks_.size(); ++b) {
        const double y = at.y() - top_of(b);
        if (y < 0 || y >= height_of(blocks_[b]) - memoryHeight) continue;
        const int passes = static_cast<int>(blocks_[b].plan.passes.size());
        const int pass = at.x() < gutter ? -1 : static_cast<int>((at.x() - gutter) / column());
        const int resource = y < headHeight ? -1 : static_cast<int>((y - headHeight) / row_height());
        if (pass < passes && (pass >= 0 || resource >= 0)) return {static_cast<int>(b), pass, resource};
    }
    return {};
}

QString AnatomyCanvas::difference_words(std::size_t block, int pass, int resource) const {
    if (blocks_.size() < 2) return {};
    const FramePlan &own = blocks_[block].plan, &other = blocks_[1 - block].plan;
    const std::string name = block == 0 ? "B" : "A";
    return text_of(resource >= 0 ? difference_from(other, own.resources[static_cast<std::size_t>(resource)], name)
                                 : difference_from(other, own.passes[static_cast<std::size_t>(pass)], name));
}

static QString names_of(const FramePlan& plan, const std::vector<int>& passes) {
    QStringList names;
    for (const int i : passes)
        names << text_of(plan.passes[static_cast<std::size_t>(i)].name);
    return names.isEmpty() ? QObject::tr("none") : names.join(", ");
}

QString AnatomyCanvas::words(const Spot& spot) const {
    if (spot.block < 0) return {};
    const Block& block = blocks_[static_cast<std::size_t>(spot.block)];
    const QString differs = difference_words(static_cast<std::size_t>(spot.block), spot.pass, spot.resource);
    const QString tail = differs.isEmpty() ? QString() : "  (" + differs + ")";
    if (spot.resource < 0) {
        const PlannedPass& pass = block.plan.passes[static_cast<std::size_t>(spot.pass)];
        QStringList parts{text_of(pass.name) + ": " + text_of(pass.what)};
        if (!pass.reads.empty()) parts << tr("Reads %1.").arg(text_of(joined(pass.reads)));
        parts << tr("Writes %1.").arg(text_of(joined(pass.writes)));
        return parts.join(" ") + tail;
    }
    const PlannedResource& r = block.plan.resources[static_cast<std::size_t>(spot.resource)];
    const Uses& uses = block.uses[static_cast<std::size_t>(spot.resource)];
    QStringList parts{text_of(r.spec.name) + ": " + text_of(info_of(r.spec.format).word) +
                      (r.spec.formatNote.empty() ? QString() : " " + text_of(r.spec.formatNote))};
    parts << (r.spec.entries > 0 ? tr("%L1 words").arg(r.spec.entries) : tr("%1 x %2").arg(r.width).arg(r.height));
    if (r.layers > 1) parts << tr("%1 layers").arg(r.layers);
    if (r.spec.mips > 1) parts << tr("%1 mips").arg(r.spec.mips);
    parts << megabytes(r.bytes);
    QString text =
        parts.join(", ") + ". " +
        tr("Written by %1, read by %2.").arg(names_of(block.plan, uses.writers), names_of(block.plan, uses.readers));
    if (const auto shared = shares_memory_with(block.plan, r); !shared.empty())
        text += tr(" Its memory is also that of %1.").arg(text_of(joined(shared)));
    else if (r.spec.life != Life::frame)
        text += tr(" Kept for the next frame.");
    return text + tail;
}

QString AnatomyCanvas::told() const {
    return words(spot_);
}

void AnatomyCanvas::go_to(const Spot& spot) {
    if (spot == spot_) return;
    spot_ = spot;
    emit tells(told());
    update();
}

/// A pass's head opens its bench; a row's name or a cell holds the target, as the pass leaves it.
void AnatomyCanvas::take(const Spot& spot) {
    if (spot.block < 0) return;
    const Block& block = blocks_[static_cast<std::size_t>(spot.block)];
    if (spot.resource < 0) {
        if (blocks_.front().plan.pass(block.plan.passes[static_cast<std::size_t>(spot.pass)].name))
            emit pass_wanted(text_of(block.plan.passes[static_cast<std::size_t>(spot.pass)].name));
        return;
    }
    const PlannedResource& r = block.plan.resources[static_cast<std::size_t>(spot.resource)];
    TargetRead read{r.spec.name};
    if (spot.pass >= 0 && r.first <= spot.pass && spot.pass <= r.last)
        read.after = block.plan.passes[static_cast<std::size_t>(spot.pass)].name;
    const PlannedResource* own = blocks_.front().plan.resource(read.target);
    const int pass = read.after.empty() ? -1 : index_of(blocks_.front().plan.passes, read.after);
    if (spot.block == 1 && (!own || (!read.after.empty() && (pass < own->first || pass > own->last)))) {
        emit tells(tr("Only B has it: swap A and B to look at it."));
        return;
    }
    emit target_wanted(read);
}

void AnatomyCanvas::mouseMoveEvent(QMouseEvent* e) {
    go_to(spot_at(e->position()));
    setCursor(spot_.block >= 0 ? Qt::PointingHandCursor : Qt::ArrowCursor);
}

void AnatomyCanvas::mousePressEvent(QMouseEvent* e) {
    setFocus();
    go_to(spot_at(e->position()));
    take(spot_);
}

void AnatomyCanvas::leaveEvent(QEvent*) {
    if (!hasFocus()) go_to({});
}

void AnatomyCanvas::keyPressEvent(QKeyEvent* e) {
    if (blocks_.empty()) return QWidget::keyPressEvent(e);
    if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) return take(spot_);
    const QPoint step = e->key() == Qt::Key_Left    ? QPoint(-1, 0)
                        : e->key() == Qt::Key_Right ? QPoint(1, 0)
                        : e->key() == Qt::Key_Up    ? QPoint(0, -1)
                        : e->key() == Qt::Key_Down  ? QPoint(0, 1)
                                                    : QPoint();
    if (step.isNull()) return QWidget::keyPressEvent(e);
    Spot next = spot_.block < 0 ? Spot{0, 0, -1} : spot_;
    if (spot_.block >= 0) {
        const FramePlan& plan = blocks_[static_cast<std::size_t>(next.block)].plan;
        next.pass = std::clamp(next.pass + step.x(), 0, static_cast<int>(plan.passes.size()) - 1);
        next.resource += step.y();
        if (next.resource >= static_cast<int>(plan.resources.size()) &&
            next.block + 1 < static_cast<int>(blocks_.size()))
            next = {next.block + 1, 0, -1};
        else if (next.resource < -1 && next.block > 0)
            next = {0, 0, static_cast<int>(blocks_.front().plan.resources.size()) - 1};
        next.resource =
            std::clamp(next.resource, -1,
                       static_cast<int>(blocks_[static_cast<std::size_t>(next.block)].plan.resources.size()) - 1);
    }
    go_to(next);
}

AnatomyView::AnatomyView(QWidget* parent) : QWidget(parent), canvas_(new AnatomyCanvas), sums_(new QLabel) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(10, 4, 6, 6);
    column->setSpacing(4);
    auto* line = new QHBoxLayout;
    line->addWidget(sums_, 1);
    auto* back = new QToolButton;
    back->setObjectName("framed");
    back->setText(tr("Back to the picture"));
    back->setToolTip(tr("The picture again (Y)"));
    line->addWidget(back);
    column->addLayout(line);
    const auto tell = add_told_canvas(
        column, canvas_,
        tr("Rest on a pass or a target for what it is. A click on a thumbnail, or Enter, holds the target as that pass "
           "leaves it; a click on a pass opens its bench."));
    connect(back, &QToolButton::clicked, this, &AnatomyView::back_wanted);
    connect(canvas_, &AnatomyCanvas::tells, this, tell);
}

void AnatomyView::show_plans(FramePlan a, std::optional<FramePlan> b) {
    sums_->setText(tr("<b>Anatomy</b> of the frame: %1 passes, %2 targets; %3 held, %4 one by one")
                       .arg(a.passes.size())
                       .arg(a.resources.size())
                       .arg(megabytes(a.bytesHeld), megabytes(a.bytesSum)));
    canvas_->set_plans(std::move(a), std::move(b));
}

} // namespace mirolux::app
