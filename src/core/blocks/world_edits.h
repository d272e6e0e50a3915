#pragma once
#include "core/blocks/volume.h"
#include "core/io/json_cursor.h"
#include "core/rays/ray_scene.h"
#include <optional>

namespace mirolux::blocks {

/// What is different of one world of a file, as a project keeps it and requests send it: runs of cells along x, and
/// props' places. null: nothing.
Json changes(const World& from, const World& to);
/// A world with these changes. Throws ReadFailure for cells beyond it and materials that it has not.
World changed(const World& from, const JsonCursor& changes);

/// The first cell of the still world along a ray (metres), water and glass too, and the side that is met.
struct PickedCell {
    glm::ivec3 cell{0};
    int face = 0; // of Neighbours::directions
    double metres = 0;
};
std::optional<PickedCell> pick_cell(const World& world, const Ray& ray);

/// What a hand does to cells.
struct Brush {
    enum class Tool { add, remove, paint };
    Tool tool = Tool::add;
    std::uint8_t material = 1;
    int radius = 0; // cells around the middle one
    bool operator==(const Brush&) const = default;
};
/// add: fills air around the cell before the side that was picked; remove, paint: what is there around the cell itself.
void apply(World& world, const PickedCell& at, const Brush& brush);

} // namespace mirolux::blocks
