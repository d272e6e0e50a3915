#include "app/marks.h"
#include "app/viewport.h"
#include "core/blocks/levels.h"

// Cells that are put, taken away and painted in the picture of a Blocks stage.
namespace mirolux::app {

void Viewport::set_brush(std::optional<blocks::Brush> brush) {
    brush_ = brush;
    brushed_.reset();
    update();
}

/// What the brush would meet: in the world as it was when a drag began, so that what is put does not grow toward the
/// eye.
std::optional<blocks::PickedCell> Viewport::brush_at(const QPointF& at) const {
    if (!brush_ || !document_.is_blocks() || !picture_rect().contains(at)) return std::nullopt;
    return blocks::pick_cell(brushing_ ? *brushing_ : *document_.project().blocks, ray_at(at));
}

bool Viewport::begin_brush(const QPointF& at) {
    if (!brush_at(at)) return false;
    brushing_ = document_.project().blocks;
    ++brushStroke_;
    document_.set_interactive(true);
    drag_brush(at);
    return true;
}

void Viewport::drag_brush(const QPointF& to) {
    const auto picked = brush_at(to);
    if (!picked || (brushed_ && brushed_->cell == picked->cell && brushed_->face == picked->face)) return;
    brushed_ = picked;
    const blocks::Brush brush = *brush_;
    const QString label = brush.tool == blocks::Brush::Tool::add      ? tr("cells added")
                          : brush.tool == blocks::Brush::Tool::remove ? tr("cells removed")
                                                                      : tr("cells painted");
    document_.edit_blocks(
        label, [&](blocks::World& w) { blocks::apply(w, *picked, brush); }, QString("brush %1").arg(brushStroke_));
}

void Viewport::end_brush() {
    brushing_.reset();
    brushed_.reset();
    document_.set_interactive(false);
}

/// The light's way from the cell before a face back to its lamp, from turn to turn.
void Viewport::paint_way(QPainter& p, const std::vector<glm::ivec3>& way) {
    if (!document_.is_blocks() || way.size() < 2) return;
    const float edge = document_.project().blocks->edge;
    const auto at = [&](std::size_t i) { return place_of((glm::vec3(way[i]) + 0.5f) * edge); };
    two_tone(p, ivory, 1.6, Qt::SolidLine, [&] {
        for (std::size_t i = 1; i < way.size(); ++i)
            if (const auto a = at(i - 1), b = at(i); a && b) p.drawLine(*a, *b);
    });
    for (std::size_t i = 1; i < way.size(); ++i)
        if (const auto turn = at(i)) {
            const double radius = i + 1 == way.size() ? 6 : 3; // the lamp, or a turn
            two_tone(p, ivory, 1.4, Qt::SolidLine, [&] { p.drawEllipse(*turn, radius, radius); });
        }
}

/// The cell that the brush would put, or meets, with its reach as a box around it.
void Viewport::paint_brush(QPainter& p) {
    if (!brush_ || !underMouse()) return;
    const auto picked = brush_at(pointer_);
    if (!picked) return;
    const blocks::World& w = *document_.project().blocks;
    glm::vec3 low(picked->cell);
    if (brush_->tool == blocks::Brush::Tool::add) low += glm::vec3(blocks::Neighbours::directions[picked->face]);
    const auto radius = static_cast<float>(brush_->radius);
    const auto corner = [&](int i) {
        const glm::vec3 c = low - radius + (2 * radius + 1) * glm::vec3(i & 1, i >> 1 & 1, i >> 2 & 1);
        return place_of(c * w.edge);
    };
    two_tone(p, ivory, 1.3, Qt::SolidLine, [&] {
        for (int i = 0; i < 8; ++i)
            for (const int bit : {1, 2, 4})
                if (!(i & bit)) {
                    const auto a = corner(i), b = corner(i | bit);
                    if (a && b) p.drawLine(*a, *b);
                }
    });
}

} // namespace mirolux::app
