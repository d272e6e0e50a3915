#pragma once
#include "core/flat/world.h"
#include "core/io/json_cursor.h"

// Parts of a flat scene as JSON (docs/flat-format.md), for the scene file, projects and the worker. Readers throw
// ReadFailure.
namespace mirolux::flat {

inline constexpr std::size_t most_points = 20000; // of all outlines together

Json to_json(const Sprite& sprite, const World& world); // layer and sheet by name
Sprite sprite_from_json(const JsonCursor& json, const World& world);
Json to_json(const Wall& wall);
Wall wall_from_json(const JsonCursor& json, const World& world);
/// What a wall, drawn or traced, sends and throws back.
void take_matter(Wall& wall, const JsonCursor& json);

/// What turns `from` into `to`: sprites and walls that are others or new, whole, and ids of those that are gone; null
/// if nothing does.
Json changes(const World& from, const World& to);
World changed(const World& from, const JsonCursor& changes);

} // namespace mirolux::flat
