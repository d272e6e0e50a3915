#pragma once
#include <string>
#include <vector>

// Where each light's shadow maps lie in the one atlas, and who gets none.
namespace mirolux {

/// What a light asks for. Order and light numbers are the caller's own.
struct MapWish {
    int light = -1;
    double importance = 0; // projected size times intensity, any unit: texels are given by it
    int faces = 1;         // maps of one size: 1 for a spot, 6 for a point
    int size = 0;          // texels along a side, its own; 0: by importance
};

/// One map: a square of the atlas, its side a power of two, its place a multiple of its side.
struct MapPlace {
    int light = -1, face = 0;
    int x = 0, y = 0, size = 0; // texels
};

enum class NoMap { none, casters, budget }; // why a light has no map: it has one; too many lights; no room

struct MapRefused {
    int light = -1;
    NoMap why = NoMap::none;
};

struct AtlasChoices {
    int size = 4096; // texels along a side, a power of two
    int casters = 8; // lights that get maps at most, the most important ones
    int most = 1024; // texels along a side of one map, by importance; powers of two
    int least = 64;
    bool half = false; // it is half as high as it is wide
};

struct ShadowAtlas {
    int size = 0;                 // its width
    std::vector<MapPlace> places; // by light in order of importance, then by face
    std::vector<MapRefused> refused;
};

/// Gives each light a size by the root of its importance (texels follow area), halves the least important ones until
/// all fit, and refuses those that do not at the least size. Squares of falling sizes laid along a Morton curve leave
/// no holes (G. Morton, A Computer Oriented Geodetic Data Base, 1966). The same wishes give the same atlas.
ShadowAtlas shadow_atlas(std::vector<MapWish> wishes, const AtlasChoices& choices);

} // namespace mirolux
