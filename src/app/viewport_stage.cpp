#include "app/marks.h"
#include "app/setting_editor.h"
#include "app/theme.h"
#include "app/viewport.h"
#include "core/base/text.h"
#include "core/flat/flat_light.h"
#include <QPainterPath>
#include <cmath>

// A flat stage in the picture: its walls, the sprite or wall that is edited, and what a light of it reaches.
namespace mirolux::app {

glm::dvec2 Viewport::unit_at(const QPointF& at) const {
    const QRectF r = picture_rect();
    return flat::window_of(shown_view()).at({at.x() - r.left(), at.y() - r.top()});
}

static double unit_of_pixel(const View& view) {
    return flat::window_of(view).units();
}

std::vector<flat::PieceGrip> Viewport::grips() const {
    if (!document_.is_flat()) return {};
    const View view = shown_view();
    return flat::grips_of(*document_.project().flat, selection_.piece(), view.camera, unit_of_pixel(view));
}

int Viewport::grip_near(const QPointF& at) const {
    const auto all = grips();
    int best = -1;
    double nearest = 9;
    for (std::size_t i = 0; i < all.size(); ++i)
        if (const auto p = place_of(glm::vec3(glm::vec2(all[i].place), 0))) {
            const double d = std::hypot(p->x() - at.x(), p->y() - at.y());
            if (d < nearest) nearest = d, best = static_cast<int>(i);
        }
    return best;
}

void Viewport::pick_piece(const QPointF& at, bool again) {
    if (takes_ != Takes::objects && takes_ != Takes::proxies) return selection_.clear();
    const View view = shown_view();
    const flat::World& world = *document_.project().flat;
    const auto find = [&] {
        return flat::piece_at(world, *document_.asset(), view, unit_at(at), 6 * unit_of_pixel(view), true,
                              passedPieces_);
    };
    // A second click at one place takes what lies behind.
    if (!again || passedPieces_.empty() || selection_.piece() != passedPieces_.back()) passedPieces_.clear();
    flat::Piece piece = find();
    if (piece.none() && !passedPieces_.empty()) {
        passedPieces_.clear();
        piece = find();
    }
    if (!piece.none()) passedPieces_.push_back(piece);
    if (piece.none()) selection_.clear();
    selection_.set_piece(piece);
    update();
}

/// A grip, or the body of what is selected.
bool Viewport::begin_piece(const QPointF& at) {
    if (!document_.is_flat() || selection_.piece().none()) return false;
    const flat::WorldPtr& world = document_.project().flat;
    if (const int i = grip_near(at); i >= 0) {
        taking_ = Taking{world, selection_.piece(), grips()[static_cast<std::size_t>(i)]};
        return true;
    }
    const View view = shown_view();
    const flat::Piece under = flat::piece_at(*world, *document_.asset(), view, unit_at(at), 6 * unit_of_pixel(view),
                                             selection_.piece().kind == flat::PieceKind::wall);
    if (under != selection_.piece()) return false;
    taking_ = Taking{world, selection_.piece(), {flat::Grip::body, 0, unit_at(at)}};
    return true;
}

void Viewport::drag_piece(const QPointF& to, bool stepped) {
    if (!taking_->moved) document_.set_interactive(true);
    taking_->moved = true;
    const View view = shown_view();
    const glm::dvec2 from = taking_->grip.kind == flat::Grip::body ? unit_at(press_) : taking_->grip.place;
    document_.edit_stage(
        tr("%1: %2").arg(QString::fromStdString(flat::name_of(*taking_->world, taking_->piece)),
                         flat::word(taking_->grip.kind)),
        [&](flat::World& w) {
            w = flat::dragged(*taking_->world, taking_->piece, taking_->grip, view.camera, from,
                              from + unit_at(to) - unit_at(press_), stepped);
        },
        "piece");
}

void Viewport::end_piece() {
    if (taking_->grip.kind == flat::Grip::point)
        document_.edit_stage(
            tr("%1: a point less").arg(QString::fromStdString(flat::name_of(*taking_->world, taking_->piece))),
            [&](flat::World& w) {
                (void)flat::merge_point(w, taking_->piece, taking_->grip.index, 5 * unit_of_pixel(shown_view()));
            },
            "piece");
    taking_.reset();
    document_.set_interactive(false);
}

void Viewport::paint_stage(QPainter& p) {
    if (!document_.is_flat() || (takes_ != Takes::objects && takes_ != Takes::proxies)) return;
    const flat::World& world = *document_.project().flat;
    const View view = shown_view();
    const auto path_of = [&](const flat::Occluder& o) {
        QPainterPath path;
        for (std::size_t i = 0; i < o.points.size(); ++i)
            if (const auto at = place_of(glm::vec3(glm::vec2(o.points[i]), 0)))
                i == 0 ? path.moveTo(*at) : path.lineTo(*at);
        if (o.closed) path.closeSubpath();
        return path;
    };
    p.setBrush(Qt::NoBrush);
    // Walls are seen where shadows are the subject; the one that is edited always.
    for (const flat::Wall& wall : world.walls) {
        if (takes_ != Takes::proxies && selection_.piece().kind != flat::PieceKind::wall) break;
        if (selection_.piece() == flat::Piece{flat::PieceKind::wall, wall.id}) continue;
        const QPainterPath path = path_of(flat::outline_of(world, wall));
        p.setPen(QPen(QColor(0, 0, 0, 120), 2.4));
        p.drawPath(path);
        p.setPen(QPen(QColor(246, 242, 232, wall.casts ? 170 : 80), 1, wall.casts ? Qt::SolidLine : Qt::DotLine));
        p.drawPath(path);
    }
    if (selection_.piece().none()) return;
    const QPainterPath shape = path_of(flat::shape_of(world, selection_.piece(), view.camera));
    const bool sprite = selection_.piece().kind == flat::PieceKind::sprite;
    two_tone(p, ivory, sprite ? 1.2 : 1.6, sprite ? Qt::DashLine : Qt::SolidLine, [&] { p.drawPath(shape); });
    const auto all = grips();
    p.setFont(sized(font(), 11));
    for (std::size_t i = 0; i < all.size(); ++i) {
        const auto at = place_of(glm::vec3(glm::vec2(all[i].place), 0));
        if (!at) continue;
        const bool hot = static_cast<int>(i) == hoveredGrip_;
        const double r = hot ? 6 : all[i].kind == flat::Grip::between ? 2.5 : 4;
        p.setPen(QPen(QColor(0, 0, 0, 200), 1.4));
        p.setBrush(hot ? ivory : QColor(210, 209, 206));
        if (all[i].kind == flat::Grip::turn)
            p.drawEllipse(*at, r, r);
        else if (all[i].kind == flat::Grip::between)
            p.drawEllipse(*at, r, r);
        else
            p.drawRect(QRectF(at->x() - r, at->y() - r, 2 * r, 2 * r));
        if (hot) paint_plate(p, *at + QPointF(10, -10), QString(flat::word(all[i].kind)));
    }
    const QRectF box = shape.boundingRect();
    if (hoveredGrip_ < 0)
        paint_plate(p,
                    QPointF(std::max(box.left(), picture_rect().left() + 4),
                            std::max(box.top() - 22, picture_rect().top() + 4)),
                    QString::fromStdString(flat::name_of(world, selection_.piece())));
    p.setFont(font());
}

/// What the selected light reaches: a ring, a wedge, a tube's rim, or the frame of its picture or text; and with
/// shadows the outline of what its place sees.
void Viewport::paint_flat_reach(QPainter& p, const Light& l) {
    const QColor color = display_color(effective_color(l));
    const auto at = [&](const glm::dvec2& unit) { return place_of(glm::vec3(glm::vec2(unit), 0)).value_or(QPointF()); };
    const auto draw = [&](const QPainterPath& path, Qt::PenStyle style) {
        p.setBrush(Qt::NoBrush);
        two_tone(p, color, 1.2, style, [&] { p.drawPath(path); });
    };
    const glm::dvec2 o(l.position);
    const double reach = l.range;
    if (l.type == LightType::directional) return;
    QPainterPath path;
    if (l.type == LightType::spot) {
        const double middle = std::atan2(l.direction.y, l.direction.x);
        for (const double half : {double(l.outerConeAngle), double(l.innerConeAngle)}) {
            path = QPainterPath(at(o));
            for (int i = 0; i <= 32; ++i) {
                const double a = middle + half * (i / 16.0 - 1);
                path.lineTo(at(o + reach * glm::dvec2(std::cos(a), std::sin(a))));
            }
            path.closeSubpath();
            draw(path, half == double(l.outerConeAngle) ? Qt::SolidLine : Qt::DotLine);
        }
        return;
    }
    const glm::dvec2 right(std::cos(l.flat.turn), std::sin(l.flat.turn)), up(-right.y, right.x);
    const auto ring = [&](const glm::dvec2& half) { // rounded by the reach about a box
        for (int i = 0; i <= 96; ++i) {
            const double a = i * 6.283185307 / 96, c = std::cos(a), s = std::sin(a);
            const glm::dvec2 corner = right * (c < 0 ? -half.x : half.x) + up * (s < 0 ? -half.y : half.y);
            const QPointF q = at(o + corner + reach * (right * c + up * s));
            i == 0 ? path.moveTo(q) : path.lineTo(q);
        }
        draw(path, Qt::SolidLine);
    };
    if (l.flat.shape == FlatShape::round) return ring(glm::dvec2(0.0));
    if (l.flat.shape == FlatShape::line) {
        ring({0.5 * l.flat.length, 0});
        path = QPainterPath(at(o - right * (0.5 * l.flat.length)));
        path.lineTo(at(o + right * (0.5 * l.flat.length)));
        return draw(path, Qt::DotLine);
    }
    glm::dvec2 half = flat::profile_half(l, *document_.project().flat);
    if (l.flat.shape == FlatShape::text) half -= reach;
    path = QPainterPath(at(o - right * half.x - up * half.y));
    for (const glm::dvec2& c : {glm::dvec2(1, -1), {1, 1}, {-1, 1}})
        path.lineTo(at(o + right * (half.x * c.x) + up * (half.y * c.y)));
    path.closeSubpath();
    draw(path, Qt::SolidLine);
}

} // namespace mirolux::app
