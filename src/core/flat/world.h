#pragma once
#include "core/flat/time_grade.h"
#include "core/flat/visibility.h"
#include <cstdint>
#include <memory>
#include <string>

namespace mirolux {
struct SceneAsset;
}

// What a flat scene is made of. Units are the pixels of its sheets; y goes up; the eye looks along -z.
namespace mirolux::flat {

/// The stage is seen from the side (up is up) or from above (up is north).
enum class Seen { side, above };
const char* word(Seen);

/// A picture that sprites and tiles take cells from, counted along rows from the top left.
struct Sheet {
    std::string name;
    std::string file, normalFile, emissionFile;  // beside the scene file; empty: none
    int image = -1, normals = -1, emission = -1; // into SceneAsset::images
    int cellWidth = 0, cellHeight = 0;           // pixels
    int columns = 1, rows = 1;                   // of cells; from the picture's size
    float normalScale = 1.0f;

    bool operator==(const Sheet&) const = default;
};

/// Sprites that move together as the camera moves; farthest first.
struct Layer {
    std::string name;
    float parallax = 1.0f; // share of the camera's way that it goes against it; 0: it stays in the picture
    bool lit = true;       // false: shown as its sheets have it
    glm::vec4 tint{1.0f};  // linear; multiplies

    bool operator==(const Layer&) const = default;
};

struct Sprite {
    int id = -1; // unique among sprites
    std::string name;
    int layer = 0, sheet = 0;
    int cell = 0;          // the first that it shows
    int cells = 1;         // shown one after the other
    float rate = 8.0f;     // cells a second
    glm::vec2 place{0.0f}; // of its middle
    float turn = 0.0f;     // radians, counter-clockwise
    glm::vec2 scale{1.0f}; // negative: mirrored
    glm::vec4 tint{1.0f};  // linear; multiplies
    float glow = 1.0f;     // multiplies its emission
    bool hidden = false;
    bool receives = true; // false: shadows do not fall on it

    bool operator==(const Sprite&) const = default;
};

/// A grid of cells of one sheet.
struct Tiles {
    std::string name;
    int layer = 0, sheet = 0;
    glm::vec2 place{0.0f}; // of its lower left corner
    int columns = 0, rows = 0;
    std::vector<int> cells; // rows from the top; -1: nothing

    bool operator==(const Tiles&) const = default;
};

/// What stops light: an outline of its own, or of a sprite, with which it goes.
struct Wall {
    int id = -1; // unique among walls
    std::string name;
    Occluder outline; // where `sprite` is set: about the sprite's middle, unturned and unscaled
    int sprite = -1;  // Sprite::id, or none
    bool casts = true;
    float height = 0; // units, of a stage seen from above: light from higher up passes over it; 0: without end
    // For ways in which light travels: what its border sends by itself, and the share that it throws back.
    glm::vec3 emits{0.0f};    // in parts of what shows a sheet as it is
    glm::vec3 reflects{0.5f}; // 0 to 1, the same in all directions

    bool operator==(const Wall&) const = default;
};

/// All of a flat scene but its lights. Immutable where it is shared.
struct World {
    Seen seen = Seen::side;
    glm::vec2 low{0.0f}, high{0.0f}; // what the camera is meant to see
    std::vector<Sheet> sheets;
    std::vector<Layer> layers; // farthest first
    std::vector<Sprite> sprites;
    std::vector<Tiles> tiles;
    std::vector<Wall> walls;
    std::vector<TimeKey> times; // by hour; empty: the standard ones

    bool operator==(const World&) const = default;
    const Sprite* sprite(int id) const;
    const Wall* wall(int id) const;
    int layer(const std::string& name) const; // -1: none
};
using WorldPtr = std::shared_ptr<const World>;

/// A sprite's local point in the world.
glm::dvec2 placed(const Sprite& sprite, const glm::dvec2& local);
/// And back.
glm::dvec2 local_to(const Sprite& sprite, const glm::dvec2& point);

/// A wall's outline as it stands in the world.
Occluder outline_of(const World& world, const Wall& wall);
/// False for one that does not cast, or whose sprite is hidden.
bool stops_light(const World& world, const Wall& wall);
/// Of all walls that stop light.
std::vector<Occluder> outlines_of(const World& world);

/// An edge of a wall that stops light.
struct TallEdge {
    Edge edge;
    float height = 0; // units; 0: without end
};
/// Of all walls that stop light; heights count on a stage that is seen from above.
std::vector<TallEdge> tall_edges_of(const World& world);
/// True if some of them end.
bool has_heights(const World& world);

/// True if pieces of the outline cross each other anywhere but at the points that they share.
bool crosses_itself(const Occluder& outline);

} // namespace mirolux::flat
