#pragma once
#include "core/bake/patch_bake.h"

namespace mirolux::app {

/// A patch as the picture shows it: a parallelogram.
struct ShownPatch {
    glm::vec3 middle{0.0f}, across{0.0f}, down{0.0f}, side{0.0f};
    float share = 0; // of a shot's rays that met it
};
/// What the last shot was: the patch that shot, and what it lit.
struct ShownShot {
    std::size_t number = 0;
    double unshot = 1;
    ShownPatch from;
    std::vector<ShownPatch> lit;
};

} // namespace mirolux::app
