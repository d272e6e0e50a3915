#pragma once
#include "core/flat/flat_view.h"
#include "core/scene/scene.h"

// Pieces of a flat stage as a person takes hold of them in the picture.
namespace mirolux::flat {

enum class PieceKind { none, sprite, wall };
struct Piece {
    PieceKind kind = PieceKind::none;
    int id = -1; // Sprite::id or Wall::id

    bool operator==(const Piece&) const = default;
    bool none() const { return kind == PieceKind::none; }
};
/// False for a piece that the stage does not have.
bool holds(const World& world, const Piece& piece);
/// The sprite's or the wall's name.
std::string name_of(const World& world, const Piece& piece);

/// What is taken hold of: all of it, a sprite's size or turn, a point of a wall, or the middle of one of its edges,
/// which becomes a point.
enum class Grip { body, size, turn, point, between };
const char* word(Grip grip);
struct PieceGrip {
    Grip kind;
    int index;        // of a point, or of the edge's first point
    glm::dvec2 place; // units
};
/// Without the body. `pixel`: units of a pixel on screen; the turn's arm keeps its length there.
std::vector<PieceGrip> grips_of(const World& world, const Piece& piece, const Camera& camera, double pixel);
/// The corners of a sprite's box, or a wall's outline, as they stand in the picture.
Occluder shape_of(const World& world, const Piece& piece, const Camera& camera);

/// The topmost piece at a point: walls by their outlines within `near` units, then sprites whose pixels are solid
/// there (`asset` holds them) or, without pixels, by their boxes. `behind`: what to look past.
Piece piece_at(const World& world, const SceneAsset& asset, const View& view, const glm::dvec2& point, double near,
               bool walls, const std::vector<Piece>& behind = {});

/// The stage after a grip was dragged from one point to another; `start` is the stage when the drag began. `step`:
/// places stop at whole units, turns at 15 degrees, scales at quarters.
World dragged(const World& start, const Piece& piece, const PieceGrip& grip, const Camera& camera,
              const glm::dvec2& from, const glm::dvec2& to, bool step);
/// Takes a wall's point away that has been dragged onto its neighbour; true if it did. Two points are always left.
bool merge_point(World& world, const Piece& piece, int index, double near);

/// A copy beside it, with an id of its own; the new piece.
Piece duplicate(World& world, const Piece& piece, const glm::vec2& by);
void erase(World& world, const Piece& piece);
/// A new wall: a square of this side around a point.
Piece add_wall(World& world, const glm::dvec2& middle, double side);

} // namespace mirolux::flat
