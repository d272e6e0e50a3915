#pragma once
#include "core/plan/view.h"
#include "core/scene/scene.h"

namespace mirolux::gpu {

/// A made-up scene whose work is easy to vary, and the camera that looks at it.
struct AbstractScene {
    std::string name;
    Scene scene;
    Camera camera;
};

/// One quad that fills the picture; `textures` of 5 slots carry noise.
AbstractScene wall(int textures);
/// A floor and `blocks` boxes of eight materials, half of them textured, seen from above.
AbstractScene crowd(int blocks);
/// One mesh of about `triangles` triangles over the whole picture.
AbstractScene mesh(int triangles);
/// A wall behind `panes` blended quads.
AbstractScene panes(int panes);
/// A flat stage of one sheet that carries noise, with `walls` square walls.
AbstractScene board(int walls);
/// Seeded lights on it, of this range.
void strew_on_board(Scene& scene, int count, float range, std::uint32_t seed);
/// Seeded lights in a scene's bounds; range in metres. Points and spots in turn.
std::vector<Light> strewn_lights(int count, const Box& where, float range, std::uint32_t seed);

} // namespace mirolux::gpu
