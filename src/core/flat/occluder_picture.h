#pragma once
#include "core/flat/plane_source.h"
#include "core/flat/world.h"
#include "core/technique/technique.h"

// Walls (and lights, where they are bodies) as a small picture that light is marched through.
namespace mirolux::flat {

/// The cells of the picture: the view's window with a margin; coarser than asked for where they would be over eight
/// million.
struct OccluderGrid {
    glm::dvec2 low{0.0};       // units, of its lower left corner
    int scale = 1;             // pixels of the view along a cell
    double cell = 1;           // units
    int width = 1, height = 1; // cells

    glm::dvec2 high() const { return low + cell * glm::dvec2(width, height); }
    /// Of a point, in cells from the lower left corner.
    glm::dvec2 at(const glm::dvec2& point) const { return (point - low) / cell; }
};
OccluderGrid occluder_grid(const Setup& setup, const View& view);

/// Corner of a triangle that is drawn into the picture, as the device gets it.
struct OccluderPoint {
    glm::vec2 place; // units
    float body;      // into the bodies, and one
    float pad = 0;
};

/// What stands in a cell, as the device gets it.
struct PlaneBody {
    glm::vec4 sends{0.0f};    // rgb: radiance, a: 1, of a light 2, of a spot its place in the view's lights and 3
    glm::vec4 reflects{0.0f}; // rgb, a: height in units, 0: without end
};

struct OccluderPicture {
    std::vector<OccluderPoint> points; // three a triangle
    std::vector<PlaneBody> bodies;     // walls that stop light, then lights
    int beyond = 0;                    // lights that lie outside of the grid: they are in no cell
};

/// Closed outlines are filled, by the even-odd rule; open ones, and those that are thinner than a cell and a half, are
/// drawn a cell wide, so that no way slips through. `lights`: bodies as well; one of less than a cell and a half is a
/// single cell, and all send so much that their rim of cells gives what their own would.
OccluderPicture occluder_picture(const World& world, const OccluderGrid& grid, const std::vector<Light>& lights = {},
                                 const SceneAsset* asset = nullptr);

/// The inside of an outline in horizontal slabs, as triangles.
std::vector<glm::dvec2> filled(const Occluder& outline);

/// True where the frame draws the picture: for shadows that are marched, and for cascades.
bool needs_occluders(const Setup& setup);
bool needs_field(const Setup& setup);

} // namespace mirolux::flat
