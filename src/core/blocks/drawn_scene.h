#pragma once
#include "core/plan/settings.h"
#include "core/plan/view.h"
#include "core/scene/scene.h"

// A Blocks scene as meshes, for rays and the path tracer.
namespace mirolux::blocks {

struct Material;

/// Radiance of a lamp's faces, cd/m2: such that a face of one cell's edge that looks at one of the lamp's from one cell
/// away gets as much light as the flood gives there (the form factor of two such squares is 0.1998: J. Howell, A
/// Catalog of Radiation Configuration Factors, C-11). Zero of what is no lamp.
glm::dvec3 lamp_radiance(const Material& material, const Setup& setup);

/// What a view of a Blocks scene draws, as a Solid one: the rectangles of its faces by material, lamps that shine by
/// themselves, the sun or the moon, and `blocks.top` as an even sky. setup: metals and all as they truly are.
struct DrawnScene {
    Scene scene;
    Setup setup;
};
DrawnScene drawn_scene(const Scene& scene, const Setup& setup, const View& view);

} // namespace mirolux::blocks
