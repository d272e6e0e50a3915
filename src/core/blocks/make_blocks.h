#pragma once
#include "core/blocks/block_file.h"
#include "core/image/image.h"

// Blocks from what is none: a Solid scene, or pictures of slices.
namespace mirolux::blocks {

struct MakeOptions {
    float edge = 0.25f;  // metres of a cell
    bool lamps = true;   // point and spot lights become cells that shine
    int materials = 192; // at most, beside lamps: 1 to 224
};

/// True if a triangle meets a box, edges and corners too (T. Akenine-Moller, Fast 3D Triangle-Box Overlap Testing,
/// 2001: the box's axes, the triangle's plane, and their edges' products separate them).
bool triangle_meets_box(const glm::dvec3 (&triangle)[3], const glm::dvec3& middle, const glm::dvec3& half);

/// Cells of every surface of a scene, each of what its materials and textures show there on average; colours that are
/// alike share a material. Directional lights and cameras come along; the scene's lowest corner comes to cell (1, 1,
/// 1). Errors: nothing to see; more than `largest_edge` cells along an axis (the remedy names an edge that fits). more:
/// asked between objects, with the share that is done; false ends it with an Error.
Result<Contents> make_blocks(const Scene& scene, const MakeOptions& options,
                             const std::function<bool(double share)>& more = {});

/// Cells from pictures of one size, one a layer, from below to above; in each, north is at the top. What is wholly
/// transparent is air, what is in part lets light through. Colours beyond 255 are joined to those that are nearest.
Result<Contents> blocks_of_slices(const std::vector<ByteImage>& slices, float edge);
/// The same of all .png files of a folder in the order of their names (numbers within names by their value).
Result<Contents> read_slices(const std::filesystem::path& folder, float edge);

} // namespace mirolux::blocks
