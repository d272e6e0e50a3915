#pragma once
#include <cstdint>
#include <vector>

// Which casters of a shadow map stand still, from drawing to drawing: their depths are kept, and a map in which
// something moves is those copied, with only the moving ones drawn over them.
namespace mirolux {

/// One caster as a map sees it.
struct CasterState {
    int object = -1;             // into Scene::objects()
    std::uint64_t state = 0;     // digest of its place and of how it casts
    std::uint64_t triangles = 0; // that it is drawn with
    bool operator==(const CasterState&) const = default;
};

/// What is known of a map from when it was last drawn.
struct CasterHistory {
    std::uint64_t map = 0;            // digest of its matrix and place
    std::vector<CasterState> casters; // by object
    std::vector<int> moving;          // objects that have moved since the map has stood as it does, by number
    std::uint64_t still = 0;          // digest of the casters whose depths are kept; 0: none are
};

/// How a map is drawn now.
struct CasterSplit {
    bool apart = false;      // by copying what stands still; else all of it is drawn
    bool keepsStill = false; // depths of the still ones are there already
    std::vector<int> moving; // objects, by number
    CasterHistory after;     // to be known next time
};

/// What differs from the last drawing moves, and is taken to move on; a map whose own matrix or place has changed
/// starts anew. Where more than half of the triangles move, nothing is kept apart. `now`: by object.
CasterSplit split_casters(const CasterHistory& before, std::uint64_t map, std::vector<CasterState> now);

} // namespace mirolux
